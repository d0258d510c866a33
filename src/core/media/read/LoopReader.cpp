// SPDX-License-Identifier: GPL-3.0-or-later
#include "media/read/LoopReader.h"

#include "io/AtomicFile.h"
#include "media/Av.h"
#include "media/read/Probe.h"
#include "media/read/VideoReader.h"

#include <cstring>
#include <new>
#include <optional>
#include <webp/demux.h>

namespace tromb {
namespace {

struct AnimationCloser {
  void operator()(WebPAnimDecoder* decoder) const { WebPAnimDecoderDelete(decoder); }
};

/// How often a GIF is shown, by the extension that browsers go by: its block of three bytes is 1 and the number.
int timesOfGif(const std::string& bytes) {
  constexpr std::string_view kName = "NETSCAPE2.0\x03\x01";
  const size_t at = bytes.find(kName);
  if (at == std::string::npos || at + kName.size() + 2 > bytes.size()) return 1;
  const auto byte = [&](size_t place) { return int(static_cast<unsigned char>(bytes[at + kName.size() + place])); };
  return byte(0) + 256 * byte(1);
}

} // namespace

struct LoopReader::State {
  std::stop_token stop;
  std::string path;
  std::string bytes;
  Size size;
  int times = 0;
  Rational end; ///< of the picture that was read last
  // A GIF.
  std::optional<MediaInfo> media;
  std::optional<VideoReader> reader;
  NumberedFrame next;
  // A WebP.
  std::unique_ptr<WebPAnimDecoder, AnimationCloser> animation;

  [[nodiscard]] Result<LoopPicture> readGif() {
    const NumberedFrame now = next;
    if (!now.frame) return LoopPicture{};
    auto after = reader->read();
    if (!after) return tl::unexpected(after.error());
    next = std::move(*after);
    const FrameClock& clock = media->video->clock;
    const Rational begin = clock.timeOf(now.number);
    return LoopPicture{now.frame, begin, next.frame ? clock.timeOf(next.number) : std::max(begin, media->duration)};
  }
  [[nodiscard]] Result<LoopPicture> readWebp() {
    if (WebPAnimDecoderHasMoreFrames(animation.get()) == 0) return LoopPicture{};
    uint8_t* pixels = nullptr;
    int milliseconds = 0;
    if (WebPAnimDecoderGetNext(animation.get(), &pixels, &milliseconds) == 0)
      return fail(ErrorCode::Decoder, say("a picture of the loop cannot be decoded"), path);
    auto frame = newFrame(size, AV_PIX_FMT_BGRA);
    for (int y = 0; y < size.height; ++y)
      std::memcpy(frame->data[0] + ptrdiff_t(y) * frame->linesize[0], pixels + ptrdiff_t(y) * size.width * 4,
                  size_t(size.width) * 4);
    const Rational begin = std::exchange(end, Rational(milliseconds, 1000));
    return LoopPicture{Frame(std::move(frame)), begin, end};
  }
};

LoopReader::LoopReader(std::unique_ptr<State> state) : m_state(std::move(state)) {}
LoopReader::LoopReader(LoopReader&&) noexcept = default;
LoopReader& LoopReader::operator=(LoopReader&&) noexcept = default;
LoopReader::~LoopReader() = default;

Result<LoopReader> LoopReader::open(const std::string& path, Container kind, std::stop_token stop) {
  auto state = std::make_unique<State>();
  state->stop = stop;
  state->path = path;
  constexpr size_t kMostBytes = 2'000'000'000;
  auto bytes = readWholeFile(path, kMostBytes);
  if (!bytes) return tl::unexpected(bytes.error());
  state->bytes = std::move(*bytes);
  if (kind == Container::Webp) {
    WebPAnimDecoderOptions options;
    WebPAnimDecoderOptionsInit(&options);
    options.color_mode = MODE_BGRA;
    const WebPData data{reinterpret_cast<const uint8_t*>(state->bytes.data()), state->bytes.size()};
    state->animation.reset(WebPAnimDecoderNew(&data, &options));
    WebPAnimInfo info{};
    if (!state->animation || WebPAnimDecoderGetInfo(state->animation.get(), &info) == 0)
      return fail(ErrorCode::NotMedia, say("the file is no animated WebP"), path);
    state->size = {int(info.canvas_width), int(info.canvas_height)};
    state->times = int(info.loop_count);
    return LoopReader(std::move(state));
  }
  auto media = probe(path, {.stop = stop, .indexFolder = {}});
  if (!media) return tl::unexpected(media.error());
  if (!media->video) return fail(ErrorCode::NotMedia, say("the file holds no moving picture"), path);
  auto reader = VideoReader::open(*media, {.threads = 1, .stop = stop});
  if (!reader) return tl::unexpected(reader.error());
  auto first = reader->read();
  if (!first) return tl::unexpected(first.error());
  state->size = media->video->stored;
  state->times = timesOfGif(state->bytes);
  state->bytes = {};
  state->media = std::move(*media);
  state->reader.emplace(std::move(*reader));
  state->next = std::move(*first);
  return LoopReader(std::move(state));
}

Size LoopReader::size() const {
  return m_state->size;
}

int LoopReader::times() const {
  return m_state->times;
}

Result<LoopPicture> LoopReader::read() {
  if (m_state->stop.stop_requested()) return fail(ErrorCode::Cancelled, say("reading was stopped"), m_state->path);
  return m_state->animation ? m_state->readWebp() : m_state->readGif();
}

} // namespace tromb
