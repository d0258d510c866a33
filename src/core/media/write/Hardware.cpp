// SPDX-License-Identifier: GPL-3.0-or-later
#include "media/write/Hardware.h"

#include "io/AtomicFile.h"
#include "io/CacheFolder.h"
#include "media/Av.h"
#include "media/CanvasFrame.h"
#include "media/Likeness.h"
#include "media/read/PacketDecoder.h"
#include "media/write/EncoderProcess.h"
#include "media/write/PictureEncoder.h"

#include <algorithm>
#include <cmath>
#include <filesystem>
#include <limits>
#include <map>
#include <mutex>
#include <optional>
#include <sys/utsname.h>

namespace tromb {
namespace {

namespace fs = std::filesystem;

constexpr Size kTrialSize{640, 352}; // whole blocks of all codecs, and no encoder's smallest
constexpr int kTrialPictures = 10;
constexpr double kLeastTrialDb = 28; ///< good encoders give above 35 here, and broken ones under 15

/// A soft pattern that moves: every encoder holds it.
Frame trialPicture(const CanvasFormat& format, int number) {
  auto frame = newFrame(kTrialSize, pixelFormatOf(format));
  label(*frame, format);
  AVFrame& f = *frame;
  const int shift = format.depth - 8;
  for (int plane = 0; plane < 3 && f.data[plane]; ++plane) {
    const int across = plane == 0 ? 0 : 1;
    for (int y = 0; y < kTrialSize.height >> across; ++y)
      for (int x = 0; x < kTrialSize.width >> across; ++x) {
        const double wave = std::sin(0.03 * ((x << across) + 3 * number) + plane) * std::cos(0.04 * (y << across));
        const int value = int(128 + 90 * wave) << shift;
        uint8_t* line = f.data[plane] + ptrdiff_t(y) * f.linesize[plane];
        if (shift == 0)
          line[x] = uint8_t(value);
        else
          reinterpret_cast<uint16_t*>(line)[x] = uint16_t(value);
      }
  }
  return frame;
}

/// Compares pictures that were encoded with what went in; why not, or nothing.
class TrialReading {
public:
  explicit TrialReading(const CanvasFormat& format) : m_format(format) {}
  Status take(const Frame& picture) {
    if (picture->width != kTrialSize.width || picture->height != kTrialSize.height ||
        picture->format != pixelFormatOf(m_format))
      return fail(ErrorCode::Decoder, say("its pictures are not what went in"));
    if (!m_meter) {
      auto meter = LikenessMeter::create(picture);
      if (!meter) return tl::unexpected(meter.error());
      m_meter.emplace(std::move(*meter));
    }
    const auto found = m_meter->compare(picture, trialPicture(m_format, m_seen++));
    if (!found) return tl::unexpected(found.error());
    m_worst = std::min(m_worst, peakSignalToNoise(found->error, m_format.depth));
    return {};
  }
  [[nodiscard]] Message fault() const {
    if (m_seen != kTrialPictures) return say("%1 of %2 pictures can be read", m_seen, kTrialPictures);
    if (m_worst < kLeastTrialDb) return say("its pictures are not what went in");
    return {};
  }

private:
  CanvasFormat m_format;
  std::optional<LikenessMeter> m_meter;
  int m_seen = 0;
  double m_worst = std::numeric_limits<double>::infinity();
};

/// `keep` becomes false where the encoder itself says that it cannot, which costs little to hear again and may be for
/// now only, as when others use all of it.
Message tried(Codec codec, const HardwareEncoder& encoder, const Samples& samples, bool& keep) {
  const auto because = [&keep](const Error& error) {
    keep = keep && error.code != ErrorCode::Unsupported;
    return error.message;
  };
  PictureStream stream;
  stream.picture = {kTrialSize, FrameRate(), {}, Rational(1)};
  stream.picture.format.depth = samples.depth;
  stream.picture.format.chroma = samples.chroma;
  stream.encoding.codec = codec;
  stream.encoding.hardware = true;
  stream.encoding = resolved(stream.encoding, stream.picture);
  stream.hardware = &encoder;
  auto opened = PictureEncoder::open(stream, {}, true);
  if (!opened) return because(opened.error());
  auto decoder = PacketDecoder::open(opened->context());
  if (!decoder) return because(decoder.error());
  TrialReading reading(stream.picture.format);
  const PacketDecoder::Take take = [&](const Frame& seen) { return reading.take(seen); };
  const PacketSink sink = [&](AVPacket& packet) { return decoder->add(packet, take); };
  for (int n = 0; n < kTrialPictures; ++n)
    if (const Status done = opened->add(trialPicture(stream.picture.format, n), 1, sink); !done)
      return because(done.error());
  if (const Status done = opened->finish(sink); !done) return because(done.error());
  if (const Status done = decoder->finish(take); !done) return because(done.error());
  return reading.fault();
}

/// What a trial depends on besides its encoder: FFmpeg, the kernel with its drivers, the devices, and the folders that
/// drivers' libraries are put into.
std::string driversNow() {
  std::string key = std::to_string(avcodec_version()) + " " + avcodec_configuration();
  utsname kernel{};
  if (::uname(&kernel) == 0) key += std::string("\n") + kernel.release + " " + kernel.version;
  std::error_code ignored;
  std::vector<std::string> lines;
  for (const char* folder : {"/dev/dri", "/sys/class/drm"})
    for (const auto& entry : fs::directory_iterator(folder, ignored)) {
      const fs::path driver = fs::read_symlink(entry.path() / "device/driver", ignored);
      lines.push_back(entry.path().string() + " " + driver.filename().string());
    }
  const auto changed = [&](const fs::path& path) {
    std::error_code missing;
    const auto time = fs::last_write_time(path, missing);
    if (!missing) lines.push_back(path.string() + " " + std::to_string(time.time_since_epoch().count()));
  };
  for (const auto& entry : fs::directory_iterator("/usr/lib", ignored))
    if (entry.path().string().ends_with("-linux-gnu")) {
      changed(entry.path());
      changed(entry.path() / "dri");
    }
  for (const auto& entry : fs::directory_iterator("/proc/driver", ignored))
    if (const auto version = readWholeFile((entry.path() / "version").string())) lines.push_back(*version);
  std::sort(lines.begin(), lines.end());
  for (const std::string& line : lines) key += "\n" + line;
  return key;
}

} // namespace

std::vector<HardwareTrial> hardwareTrials(Codec codec, const Samples& samples, const std::string& folder) {
  static std::mutex mutex;
  static std::map<std::string, Message> known; // of this run, by encoder and depth
  const std::scoped_lock lock(mutex);          // also so that one trial does not disturb another
  constexpr int64_t kKeptBytes = 100'000;
  const CacheFolder kept(folder, kKeptBytes);
  std::string drivers;
  std::vector<HardwareTrial> trials;
  for (const HardwareEncoder& encoder : infoOf(codec).hardware) {
    if (std::find(encoder.samples.begin(), encoder.samples.end(), samples) == encoder.samples.end()) continue;
    if (!avcodec_find_encoder_by_name(std::string(encoder.encoder).c_str())) {
      trials.push_back({&encoder, say("this system's FFmpeg has no %1", encoder.encoder)});
      continue;
    }
    const std::string name = std::string(encoder.encoder) + " " + std::to_string(samples.depth);
    auto at = known.find(name);
    if (at == known.end()) {
      if (drivers.empty()) drivers = driversNow();
      const std::string key = name + "\n" + drivers;
      const auto before = kept.find(key);
      bool keep = !before && encodersCanBeStarted();
      at = known.emplace(name, before ? verbatim(*before) : tried(codec, encoder, samples, keep)).first;
      if (keep) kept.keep(key, at->second.text());
    }
    trials.push_back({&encoder, at->second});
  }
  return trials;
}

const HardwareEncoder* hardwareFor(const Encoding& e, const CanvasFormat& format, const std::string& folder,
                                   Message* why) {
  if (!e.hardware || !e.hasPicture()) return nullptr;
  for (const HardwareTrial& trial : hardwareTrials(e.codec, {format.depth, format.chroma}, folder)) {
    if (trial.reason.empty()) return trial.encoder;
    if (why && why->empty()) *why = trial.reason;
  }
  return nullptr;
}

} // namespace tromb
