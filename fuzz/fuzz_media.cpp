// SPDX-License-Identifier: GPL-3.0-or-later
// A media file: facts, and what the readers make of it. The first byte says what kind its name claims it is.
#include "Input.h"
#include "analysis/Measured.h"
#include "media/MediaInfo.h"
#include "media/read/AudioReader.h"
#include "media/read/Probe.h"
#include "media/read/VideoReader.h"
#include "time/Ticks.h"

extern "C" {
#include <libavutil/log.h>
}
#include <array>

namespace {

void read(const tromb::MediaInfo& media) {
  using namespace tromb;
  if (media.video && media.video->stored.width <= 512 && media.video->stored.height <= 512) {
    if (auto reader = VideoReader::open(media, {.threads = 1})) {
      for (int i = 0; i < 4; ++i)
        if (const auto got = reader->read(); !got || !got->frame) break;
      (void)reader->shown(media.video->clock.frameCount() / 2);
      (void)reader->shown(media.video->clock.frameCount() - 1);
    }
  }
  if (media.audio.empty()) return;
  if (auto reader = AudioReader::open(readAsStated(media))) {
    std::array<float, 4096> samples{};
    for (const int64_t from : {int64_t(0), int64_t(30'000)}) {
      if (!reader->goTo(from)) break;
      (void)reader->read(samples.data(), 2048);
    }
  }
}

} // namespace

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* data, size_t size) {
  using namespace tromb;
  av_log_set_level(AV_LOG_QUIET);
  if (size < 2) return 0;
  static constexpr std::array<const char*, 8> kEndings{"mp4", "mkv", "ts", "avi", "png", "webp", "jpg", "wav"};
  const std::string path = fuzz::file(data + 1, size - 1, std::string("a.") + kEndings[data[0] % kEndings.size()]);
  if (const auto media = probe(path)) {
    fuzz::hold(media->duration >= Rational(0) && media->duration <= kLongest);
    fuzz::hold(!media->video || media->video->clock.frameCount() > 0);
    read(*media);
  }
  std::filesystem::remove(path);
  return 0;
}
