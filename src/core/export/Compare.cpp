// SPDX-License-Identifier: GPL-3.0-or-later
#include "export/Compare.h"

#include "colour/CanvasFormat.h"
#include "io/JsonReader.h"
#include "media/Av.h"
#include "media/Likeness.h"
#include "media/read/Probe.h"
#include "picture/PictureSource.h"
#include "picture/Scaler.h"

#include <algorithm>
#include <cmath>
#include <filesystem>
#include <nlohmann/json.hpp>
#include <optional>

namespace tromb {
namespace {

/// Brings pictures to one size and format.
class Bringer {
public:
  Bringer(Size size, const CanvasFormat& format) : m_size(size), m_format(format) {}
  Result<Frame> bring(const Frame& picture) {
    if (!m_scaler || !m_scaler->fits(picture)) {
      auto built = Scaler::build(picture, {0, 0, double(picture->width), double(picture->height)}, m_size, m_format);
      if (!built) return tl::unexpected(built.error());
      m_scaler.emplace(std::move(*built));
    }
    return m_scaler->run(picture);
  }

private:
  Size m_size;
  CanvasFormat m_format;
  std::optional<Scaler> m_scaler;
};

Comparison::Side sideOf(const MediaInfo& media) {
  Comparison::Side side;
  side.path = media.path;
  std::error_code none;
  side.bytes = int64_t(std::filesystem::file_size(media.path, none));
  const double seconds = media.duration.toDouble();
  side.bitRate = seconds > 0 ? 8.0 * double(side.bytes) / seconds : 0;
  side.canvas = media.video->stored;
  side.rate = media.video->clock.rate();
  side.frames = media.video->clock.frameCount();
  return side;
}

Result<MediaInfo> film(const std::string& path, const std::stop_token& stop) {
  auto media = probe(path, {.stop = stop, .indexFolder = {}});
  if (media && media->kind != MediaKind::Video)
    return fail(ErrorCode::NotMedia, say("the file holds no moving picture"), path);
  return media;
}

} // namespace

Result<Comparison> compareFiles(const std::string& first, const std::string& second, std::stop_token stop,
                                const std::function<void(int64_t done, int64_t all)>& onFrame) {
  const auto one = film(first, stop);
  if (!one) return tl::unexpected(one.error());
  const auto other = film(second, stop);
  if (!other) return tl::unexpected(other.error());
  Comparison made;
  made.first = sideOf(*one);
  made.second = sideOf(*other);
  auto oneSource = PictureSource::open(readAsStated(*one), {.stop = stop});
  if (!oneSource) return tl::unexpected(oneSource.error());
  auto otherSource = PictureSource::open(readAsStated(*other), {.stop = stop});
  if (!otherSource) return tl::unexpected(otherSource.error());

  // A common ground for what differs in its samples.
  CanvasFormat ground;
  ground.depth = std::max(one->video->bitDepth, other->video->bitDepth) > 8 ? 10 : 8;
  if (isHdr(one->video->colour)) ground.colour = one->video->colour;
  std::optional<Bringer> bringOne;
  std::optional<Bringer> bringOther;
  std::optional<LikenessMeter> meter;
  double structure = 0;
  double error = 0;
  int bits = one->video->bitDepth;
  const FrameClock& clock = one->video->clock;
  const Rational end = other->video->clock.duration();
  for (int64_t frame = 0; frame < clock.frameCount(); ++frame) {
    const Rational time = clock.timeOf(frame);
    if (time >= end) break;
    const auto a = oneSource->frameAt(frame);
    if (!a) return tl::unexpected(a.error());
    const auto b = otherSource->frameAt(other->video->clock.nearest(time));
    if (!b) return tl::unexpected(b.error());
    Frame seen = *a;
    Frame beside = *b;
    const bool same = seen->width == beside->width && seen->height == beside->height && seen->format == beside->format;
    if (!same || made.scaled) {
      if (!made.scaled) {
        made.scaled = true;
        bits = ground.depth;
        bringOne.emplace(Size{seen->width, seen->height}, ground);
        bringOther.emplace(Size{seen->width, seen->height}, ground);
        meter.reset();
      }
      auto broughtOne = bringOne->bring(seen);
      if (!broughtOne) return tl::unexpected(broughtOne.error());
      auto broughtOther = bringOther->bring(beside);
      if (!broughtOther) return tl::unexpected(broughtOther.error());
      seen = std::move(*broughtOne);
      beside = std::move(*broughtOther);
    }
    if (!meter) {
      auto created = LikenessMeter::create(seen);
      if (!created) return tl::unexpected(created.error());
      meter.emplace(std::move(*created));
    }
    const auto likeness = meter->compare(beside, seen);
    if (!likeness) return tl::unexpected(likeness.error());
    const double db = std::min<double>(Comparison::kMostDb, peakSignalToNoise(likeness->error, bits));
    if (made.ssim.empty() || likeness->ssim < made.structure.worst) {
      made.structure.worst = likeness->ssim;
      made.structure.worstFrame = frame;
      made.worstTime = time;
    }
    if (made.psnr.empty() || db < made.noise.worst) {
      made.noise.worst = db;
      made.noise.worstFrame = frame;
    }
    made.different += likeness->error > 0 ? 1 : 0;
    made.ssim.push_back(float(likeness->ssim));
    made.psnr.push_back(float(db));
    structure += likeness->ssim;
    error += likeness->error;
    if (onFrame) onFrame(frame + 1, clock.frameCount());
  }
  if (made.ssim.empty()) return fail(ErrorCode::NotMedia, say("the files have no pictures at the same time"), second);
  const auto count = double(made.ssim.size());
  made.structure.mean = structure / count;
  made.noise.mean = std::min<double>(Comparison::kMostDb, peakSignalToNoise(error / count, bits));
  return made;
}

Json toJson(const Comparison& comparison, bool withFrames) {
  const auto side = [](const Comparison::Side& s) {
    return Json{{"path", s.path},
                {"sizeBytes", s.bytes},
                {"bitRate", std::llround(s.bitRate)},
                {"canvas", std::to_string(s.canvas.width) + "x" + std::to_string(s.canvas.height)},
                {"rate", s.rate.value().toString()},
                {"frames", s.frames}};
  };
  const auto sum = [](const Comparison::Sum& s) {
    return Json{{"mean", s.mean}, {"worst", s.worst}, {"worstFrame", s.worstFrame}};
  };
  Json object{{"a", side(comparison.first)},       {"b", side(comparison.second)},
              {"frames", comparison.ssim.size()},  {"scaled", comparison.scaled},
              {"different", comparison.different}, {"ssim", sum(comparison.structure)},
              {"psnr", sum(comparison.noise)},     {"worstAtSeconds", comparison.worstTime.toDouble()}};
  if (withFrames) {
    object["ssim"]["byFrame"] = comparison.ssim;
    object["psnr"]["byFrame"] = comparison.psnr;
  }
  return object;
}

} // namespace tromb
