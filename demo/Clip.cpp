// SPDX-License-Identifier: GPL-3.0-or-later
#include "Clip.h"

#include "media/Frame.h"
#include "media/read/AudioReader.h"
#include "media/write/OutputFile.h"
#include "picture/PlanarFrame.h"
#include "picture/Scaler.h"

extern "C" {
#include <libavutil/frame.h>
}

#include <algorithm>
#include <cstring>
#include <fstream>
#include <numbers>
#include <optional>
#include <vector>

namespace tromb::demo {
namespace {

/// Wind and a 1 kHz click of 12 ms at every full second.
std::vector<float> soundOf(int64_t from, int64_t count) {
  std::vector<float> samples(size_t(count) * kStereo);
  for (int64_t i = 0; i < count; ++i) {
    const int64_t n = from + i;
    const double t = double(n) / kSoundRate;
    const int64_t inSecond = n % kSoundRate;
    uint32_t noise = uint32_t(n / 5) * 2654435761U; // held for five samples: a softer hiss
    noise ^= noise >> 15;
    double value = (double(noise & 0xFFFF) / 32768 - 1) * 0.006 * (1.4 + std::sin(t * 0.9));
    if (inSecond < kSoundRate * 12 / 1000)
      value += 0.5 * std::sin(2 * std::numbers::pi * 1000 * double(inSecond) / kSoundRate);
    samples[size_t(i * 2)] = samples[size_t(i * 2 + 1)] = float(value);
  }
  return samples;
}

/// The drawing as a frame, turned back by the rotation that the file will carry.
Frame frameOf(cairo_surface_t* surface, int rotation) {
  cairo_surface_flush(surface);
  const int w = cairo_image_surface_get_width(surface);
  const int h = cairo_image_surface_get_height(surface);
  const auto* data = reinterpret_cast<const uint32_t*>(cairo_image_surface_get_data(surface));
  const ptrdiff_t stride = cairo_image_surface_get_stride(surface) / 4;
  const bool swap = rotation == 90;
  const auto frame = newFrame(swap ? Size{h, w} : Size{w, h}, AV_PIX_FMT_GBRP);
  frame->colorspace = AVCOL_SPC_RGB;
  frame->color_range = AVCOL_RANGE_JPEG;
  // Clockwise by 90 makes stored (x, y) the upright (height − 1 − y, x).
  const ptrdiff_t step = swap ? stride : 1;
  for (int y = 0; y < frame->height; ++y) {
    const uint32_t* from = swap ? data + (w - 1 - y) : data + y * stride;
    for (int p = 0; p < 3; ++p) {
      constexpr int kShift[3] = {8, 0, 16}; // planes are G, B, R
      uint8_t* to = frame->data[p] + ptrdiff_t(y) * frame->linesize[p];
      const int count = frame->width;
      for (int x = 0; x < count; ++x) to[x] = uint8_t(from[x * step] >> kShift[p]);
    }
  }
  return frame;
}

/// The even lines of one picture and the odd lines of another.
Frame woven(const Frame& top, const Frame& bottom) {
  const auto frame = newFrame({top->width, top->height}, top->format);
  frame->colorspace = top->colorspace;
  frame->color_range = top->color_range;
  for (int p = 0; p < 3; ++p)
    for (int y = 0; y < top->height; ++y) {
      const Frame& from = y % 2 == 0 ? top : bottom;
      std::memcpy(frame->data[p] + ptrdiff_t(y) * frame->linesize[p], from->data[p] + ptrdiff_t(y) * from->linesize[p],
                  size_t(top->width));
    }
  return frame;
}

void put(std::ofstream& out, uint32_t value, int bytes) {
  for (int i = 0; i < bytes; ++i) out.put(char(value >> (8 * i) & 255));
}

} // namespace

Status writeMusic(const std::string& folder, const std::string& file, int seconds) {
  // Four chords in turn, each a handful of plucked tones that die away.
  constexpr double kChords[4][4] = {{220, 277.18, 329.63, 440},
                                    {185, 220, 277.18, 369.99},
                                    {146.83, 220, 293.66, 369.99},
                                    {164.81, 246.94, 329.63, 415.3}};
  std::vector<double> left(size_t(seconds) * kSoundRate + kSoundRate * 3);
  std::vector<double> right(left.size());
  Dice dice(17);
  for (int step = 0; step < seconds * 4; ++step) {
    const double tone = kChords[step / 8 % 4][int(dice.in(0, 4))] * (step % 4 == 0 ? 0.5 : 1);
    const double pan = dice.in(0.3, 0.7);
    const size_t from = size_t(step) * kSoundRate / 4;
    for (size_t i = 0; i < size_t(kSoundRate) * 2 && from + i < left.size(); ++i) {
      const double t = double(i) / kSoundRate;
      const double value =
          0.11 * std::exp(-t * 2.6) * std::min(1.0, t * 300) *
          (std::sin(2 * std::numbers::pi * tone * t) + 0.35 * std::sin(4 * std::numbers::pi * tone * t));
      left[from + i] += value * (1 - pan);
      right[from + i] += value * pan;
    }
  }
  const std::string path = folder + "/" + file;
  std::ofstream out(path, std::ios::binary);
  const auto samples = uint32_t(seconds) * uint32_t(kSoundRate);
  out << "RIFF";
  put(out, 36 + samples * 4, 4);
  out << "WAVEfmt ";
  put(out, 16, 4);
  put(out, 1, 2); // PCM
  put(out, 2, 2);
  put(out, uint32_t(kSoundRate), 4);
  put(out, uint32_t(kSoundRate) * 4, 4);
  put(out, 4, 2);
  put(out, 16, 2);
  out << "data";
  put(out, samples * 4, 4);
  for (size_t i = 0; i < samples; ++i)
    for (const double value : {left[i], right[i]})
      put(out, uint32_t(int32_t(std::clamp(value * 1.6, -1.0, 1.0) * 32'000)) & 0xFFFF, 2);
  if (!out.flush()) return fail(ErrorCode::CannotWrite, say("the music cannot be written"), path);
  return {};
}

Status writeClip(const std::string& folder, const ClipSpec& spec, const DrawFrame& draw) {
  const bool swap = spec.rotation == 90;
  const Size stored{swap ? spec.height : spec.width, swap ? spec.width : spec.height};
  Encoding encoding;
  encoding.rateControl = RateControl::ConstantQuality;
  encoding.crf = 20;
  encoding.speed = "ultrafast";
  auto out = OutputFile::create(
      folder + "/" + spec.file,
      {{stored, spec.rate, {}, spec.pixelAspect}, resolved(encoding, {stored, spec.rate, {}}), spec.rotation},
      spec.sound ? OutputFile::Holds::Both : OutputFile::Holds::Picture);
  if (!out) return tl::unexpected(out.error());
  const Surface surface = newSurface(spec.width, spec.height);
  const Brush cr(cairo_create(surface.get()));
  std::optional<Scaler> scaler;
  int64_t soundDone = 0;
  const auto drawn = [&](int n, double seconds) {
    cairo_save(cr.get());
    draw(cr.get(), n, seconds);
    cairo_restore(cr.get());
    return frameOf(surface.get(), spec.rotation);
  };
  for (int n = 0, shown = 0; shown < spec.frames; ++n) {
    const double seconds = spec.rate.timeOf(shown).toDouble();
    Frame frame = drawn(shown, seconds);
    if (spec.fields) frame = woven(frame, drawn(shown, seconds + spec.rate.frameDuration().toDouble() / 2));
    const int lasts = spec.uneven && n % 7 == 3 ? 3 : spec.uneven && n % 5 == 0 ? 2 : 1;
    if (!scaler) {
      auto built = Scaler::build(frame, {0, 0, double(stored.width), double(stored.height)}, stored, CanvasFormat());
      if (!built) return tl::unexpected(built.error());
      scaler = std::move(*built);
    }
    const auto canvas = scaler->run(frame);
    if (!canvas) return tl::unexpected(canvas.error());
    if (const Status done = out->addPicture(*canvas, lasts); !done) return done;
    shown += lasts;
    if (!spec.sound) continue;
    const int64_t soundEnd = (spec.rate.timeOf(shown) * Rational(kSoundRate)).nearest();
    if (const Status done = out->addSound(soundOf(soundDone, soundEnd - soundDone)); !done) return done;
    soundDone = soundEnd;
  }
  return out->finish();
}

Status writeStill(const std::string& folder, const std::string& file, cairo_surface_t* surface) {
  const std::string path = folder + "/" + file;
  if (cairo_surface_write_to_png(surface, path.c_str()) != CAIRO_STATUS_SUCCESS)
    return fail(ErrorCode::CannotWrite, say("the picture cannot be written"), path);
  return {};
}

} // namespace tromb::demo
