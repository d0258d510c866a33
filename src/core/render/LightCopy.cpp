// SPDX-License-Identifier: GPL-3.0-or-later
#include "render/LightCopy.h"

#include "io/Digest.h"
#include "io/PartFile.h"
#include "media/Av.h"
#include "media/read/Probe.h"
#include "media/read/VideoReader.h"
#include "media/write/OutputFile.h"
#include "picture/Scaler.h"

#include <algorithm>
#include <cmath>
#include <filesystem>
#include <optional>
#include <utility>
#include <vector>

namespace tromb {
namespace {

namespace fs = std::filesystem;
constexpr const char* kCopyEnding = ".mp4";
constexpr double kCrf = 24;

/// Bars in the pixels of a picture of another size.
Bars resized(const Bars& bars, double by) {
  const auto side = [by](int pixels) { return int(std::lround(pixels * by)); };
  return {side(bars.left), side(bars.top), side(bars.right), side(bars.bottom)};
}

} // namespace

Reading lightReading(const Reading& reading, const MediaInfo& light) {
  Reading made = reading;
  made.file = light;
  made.bars = resized(reading.bars, double(light.video->stored.width) / reading.file.video->stored.width);
  made.scan = Scan::Progressive;
  made.scanCertain = true;
  return made;
}

int LightCopies::divisorFor(const MediaInfo& media) {
  return media.video && media.video->stored.width > 2560 ? 4 : 2;
}

bool LightCopies::heavy(const MediaInfo& media) {
  return media.kind == MediaKind::Video && media.video->stored.width * media.video->stored.height > 1280 * 720;
}

std::string LightCopies::pathOf(const std::string& fingerprint) const {
  return m_folder + "/" + cacheName(fingerprint) + kCopyEnding;
}

bool LightCopies::has(const std::string& fingerprint) const {
  std::error_code status;
  return !fingerprint.empty() && fs::exists(pathOf(fingerprint), status);
}

std::optional<MediaInfo> LightCopies::find(const std::string& fingerprint) const {
  const std::string path = pathOf(fingerprint);
  if (!has(fingerprint)) return {};
  std::error_code status;
  auto media = probe(path);
  if (!media) return {};
  fs::last_write_time(path, fs::file_time_type::clock::now(), status); // used now
  return *media;
}

Status LightCopies::make(const Reading& reading, const std::string& fingerprint, std::stop_token stop,
                         const std::function<void(double)>& onFraction) const {
  std::error_code status;
  fs::create_directories(m_folder, status);
  const MediaInfo& media = reading.file;
  ReadOptions options;
  options.scan = reading.scan; // turning and the like are left to whoever shows it
  options.scanCertain = reading.scanCertain;
  options.stop = stop;
  auto reader = VideoReader::open(media, options);
  if (!reader) return tl::unexpected(reader.error());
  const VideoInfo& video = *media.video;
  const int divisor = divisorFor(media);
  const auto side = [divisor](int pixels) { return std::max(16, pixels / divisor / 2 * 2); };
  const Size size{side(video.stored.width), side(video.stored.height)};
  PictureStream stream;
  stream.picture = {size, video.clock.rate(), {}};
  stream.encoding.rateControl = RateControl::ConstantQuality;
  stream.encoding.crf = kCrf;
  stream.encoding.speed = "ultrafast";
  stream.encoding = resolved(stream.encoding, stream.picture);
  stream.picture.pixelAspect = video.pixelAspect;
  stream.rotation = video.rotation;
  stream.mirrored = video.mirrored;
  stream.everyPictureAlone = true;
  PartFile::sweep(m_folder);
  // Two that make the same copy wait for each other; the second finds it there.
  auto part = PartFile::create(pathOf(fingerprint), PartFile::Busy::Wait, stop);
  if (!part) return tl::unexpected(part.error());
  if (has(fingerprint)) return {};
  auto out = OutputFile::create(part->file(), pathOf(fingerprint), stream, OutputFile::Holds::Picture);
  if (!out) return tl::unexpected(out.error());
  std::optional<Scaler> scaler;
  int64_t made = 0;
  Frame last;
  for (;;) {
    if (stop.stop_requested())
      return fail(ErrorCode::Cancelled, say("making the lighter copy was stopped"), media.path);
    const auto got = reader->read();
    if (!got) return tl::unexpected(got.error());
    if (!got->frame && !last) return fail(ErrorCode::Decoder, say("no picture could be decoded"), media.path);
    if (got->frame) {
      if (!scaler || !scaler->fits(got->frame)) {
        auto built = Scaler::build(got->frame, {0, 0, double(got->frame->width), double(got->frame->height)}, size,
                                   CanvasFormat());
        if (!built) return tl::unexpected(built.error());
        scaler = std::move(*built);
      }
      const auto scaled = scaler->run(got->frame);
      if (!scaled) return tl::unexpected(scaled.error());
      if (!last) last = *scaled;
      // Frames that the file lacks are filled in, so that numbers stay the same.
      for (; made < got->number; ++made)
        if (const Status done = out->addPicture(last); !done) return done;
      last = *scaled;
    }
    const int64_t upTo = got->frame ? got->number + 1 : video.clock.frameCount();
    for (; made < upTo; ++made)
      if (const Status done = out->addPicture(last); !done) return done;
    if (!got->frame) break;
    if (onFraction) onFraction(double(made) / double(std::max<int64_t>(1, video.clock.frameCount())));
  }
  if (const Status done = out->finish(); !done) return done;
  if (const Status kept = part->takeFinalName(true); !kept) return kept;
  keepWithinLimit(pathOf(fingerprint));
  return {};
}

int64_t LightCopies::totalBytes() const {
  int64_t total = 0;
  std::error_code status;
  for (const auto& entry : fs::directory_iterator(m_folder, status))
    if (const auto size = entry.file_size(status); !status) total += int64_t(size);
  return total;
}

void LightCopies::empty() const {
  std::error_code status;
  std::vector<fs::path> files;
  for (const auto& entry : fs::directory_iterator(m_folder, status)) files.push_back(entry.path());
  for (const fs::path& file : files) fs::remove(file, status);
}

void LightCopies::keepWithinLimit(const std::string& newest) const {
  std::error_code status;
  std::vector<std::pair<fs::file_time_type, fs::path>> files;
  for (const auto& entry : fs::directory_iterator(m_folder, status))
    if (entry.path() != newest) files.emplace_back(entry.last_write_time(status), entry.path());
  std::sort(files.begin(), files.end());
  for (const auto& [time, file] : files) {
    if (totalBytes() <= m_limit) return;
    fs::remove(file, status);
  }
}

} // namespace tromb
