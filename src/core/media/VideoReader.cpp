// SPDX-License-Identifier: GPL-3.0-or-later
#include "media/VideoReader.h"

#include "media/Av.h"
#include "media/Deinterlacer.h"
#include "media/Straightener.h"

#include <algorithm>
#include <utility>

namespace tromb {
namespace {

constexpr int64_t kReadOnFrames = 24; ///< up to here reading on beats a seek
constexpr int kSeekTries = 3;

} // namespace

struct VideoReader::State {
  MediaInfo info;
  av::InputPtr input;
  av::CodecPtr decoder;
  av::PacketPtr packet{av_packet_alloc()};
  int64_t startPts = 0;
  int64_t next = 0;   ///< number that the next decoded frame will have, as far as is known
  int64_t wanted = 0; ///< frames before this are skipped
  bool drained = false;
  bool justSought = false;
  std::optional<Deinterlacer> fields; ///< where the pictures are interlaced
  std::optional<Straightener> level;  ///< where they are to be straightened

  /// Pictures that must be read before a wanted one, to make it.
  [[nodiscard]] int64_t lead() const { return fields ? 1 : 0; }

  [[nodiscard]] const VideoInfo& video() const { return *info.video; }
  [[nodiscard]] AVStream& stream() const { return *input->streams[video().stream]; }

  [[nodiscard]] int64_t numberOf(int64_t pts) const {
    if (info.kind == MediaKind::Still) return 0;
    const Rational seconds = Rational(pts - startPts) * av::rational(stream().time_base);
    // Not clamped: frames before the first shown one get negative numbers and are passed over.
    return video().clock.variable() && pts >= startPts ? video().clock.nearest(seconds)
                                                       : (seconds * video().clock.rate().value()).nearest();
  }

  [[nodiscard]] tl::unexpected<Error> decodeError(int native) const {
    return fail(ErrorCode::Decoder, "decoding failed (" + av::text(native) + ")", info.path, "The file may be damaged",
                "frame " + std::to_string(next));
  }

  /// The next whole picture; empty at the end.
  Result<NumberedFrame> produce() {
    if (!fields) return decode();
    for (;;) {
      if (NumberedFrame whole = fields->pull(); whole.frame) return whole;
      auto got = decode();
      if (!got) return got;
      const Status taken = got->frame ? fields->push(*got) : fields->end();
      if (!taken) return fail(taken.error().code, taken.error().message, info.path, "Set its scan to progressive");
      if (got->frame) continue;
      return fields->pull();
    }
  }

  [[nodiscard]] Result<NumberedFrame> straightened(NumberedFrame picture) const {
    if (!level) return picture;
    auto turned = level->run(picture.frame);
    if (!turned) return tl::unexpected(turned.error());
    return NumberedFrame{picture.number, std::move(*turned)};
  }

  /// Decodes one picture as it is stored; empty at the end.
  Result<NumberedFrame> decode() {
    for (;;) {
      av::FramePtr frame(av_frame_alloc());
      const int native = avcodec_receive_frame(decoder.get(), frame.get());
      if (native == 0) {
        const int64_t pts = frame->best_effort_timestamp;
        const int64_t number = pts == AV_NOPTS_VALUE ? next : numberOf(pts);
        next = number + 1;
        return NumberedFrame{number, Frame(frame.release(), av::Closer{})};
      }
      if (native == AVERROR_EOF) return NumberedFrame{};
      if (native != AVERROR(EAGAIN)) return decodeError(native);
      if (const Status fed = feed(); !fed) return tl::unexpected(fed.error());
    }
  }

  Status feed() {
    for (;;) {
      const int native = av_read_frame(input.get(), packet.get());
      if (native == AVERROR_EOF) {
        if (!drained) avcodec_send_packet(decoder.get(), nullptr);
        drained = true;
        return {};
      }
      if (native < 0)
        return fail(ErrorCode::Unreadable, "reading failed (" + av::text(native) + ")", info.path,
                    "The disk or the connection to it may be failing", "frame " + std::to_string(next));
      const bool ours = packet->stream_index == video().stream;
      // A damaged packet loses its own picture, not the rest of the shot.
      const int sent = ours ? avcodec_send_packet(decoder.get(), packet.get()) : 0;
      av_packet_unref(packet.get());
      if (sent < 0 && sent != AVERROR_INVALIDDATA) return decodeError(sent);
      if (ours) return {};
    }
  }

  Status seek(int64_t number, int64_t earlier) {
    const int64_t target = std::max<int64_t>(0, number - earlier);
    const Rational seconds =
        target > 0 ? video().clock.timeOf(std::min(target, video().clock.frameCount() - 1)) : Rational(0);
    const int64_t pts = startPts + (seconds / av::rational(stream().time_base)).floor();
    const int native = avformat_seek_file(input.get(), video().stream, INT64_MIN, target == 0 ? startPts : pts,
                                          target == 0 ? startPts : pts, AVSEEK_FLAG_BACKWARD);
    if (native < 0 && av_seek_frame(input.get(), -1, 0, AVSEEK_FLAG_BACKWARD) < 0)
      return fail(ErrorCode::Unreadable, "seeking failed (" + av::text(native) + ")", info.path, {},
                  "frame " + std::to_string(number));
    avcodec_flush_buffers(decoder.get());
    if (fields) fields->restart();
    drained = false;
    justSought = true;
    return {};
  }
};

VideoReader::VideoReader(std::unique_ptr<State> state) : m_state(std::move(state)) {}
VideoReader::VideoReader(VideoReader&&) noexcept = default;
VideoReader& VideoReader::operator=(VideoReader&&) noexcept = default;
VideoReader::~VideoReader() = default;

Result<VideoReader> VideoReader::open(const MediaInfo& info, int threads) {
  if (!info.video) return fail(ErrorCode::NotMedia, "the file has no picture", info.path);
  auto input = av::openInput(info.path);
  if (!input) return tl::unexpected(input.error());
  auto state = std::make_unique<State>();
  state->info = info;
  state->input = std::move(*input);
  if (unsigned(info.video->stream) >= state->input->nb_streams ||
      state->stream().codecpar->width != info.video->stored.width ||
      state->stream().codecpar->height != info.video->stored.height)
    return fail(ErrorCode::Unreadable, "the file has changed since it was looked at", info.path, "Bring it in again");
  for (unsigned i = 0; i < state->input->nb_streams; ++i)
    if (int(i) != info.video->stream) state->input->streams[i]->discard = AVDISCARD_ALL;
  auto decoder = av::openDecoder(state->stream(), info.path, threads);
  if (!decoder) return tl::unexpected(decoder.error());
  state->decoder = std::move(*decoder);
  const int64_t start = state->stream().start_time;
  state->startPts = start == AV_NOPTS_VALUE ? 0 : start;
  if (info.kind == MediaKind::Video && info.video->scan != Scan::Progressive) state->fields.emplace(info.video->scan);
  if (info.video->orientation.straighten != 0) state->level.emplace(info.video->shape(info.video->straightenedWithin));
  return VideoReader(std::move(state));
}

Status VideoReader::goTo(int64_t number) {
  State& s = *m_state;
  s.wanted = number;
  if (s.info.kind == MediaKind::Still) s.wanted = 0;
  // With fields, the picture before the next decoded one is still to come.
  const int64_t upcoming = s.next - s.lead();
  if (s.wanted >= upcoming && s.wanted - upcoming <= kReadOnFrames && !s.drained) return {};
  return s.seek(s.wanted - s.lead(), 0);
}

Status VideoReader::goNear(int64_t number) {
  m_state->wanted = 0;
  const Status sought = m_state->seek(number, 0);
  m_state->justSought = false;
  return sought;
}

Result<NumberedFrame> VideoReader::read() {
  State& s = *m_state;
  for (int tries = 1;;) {
    auto got = s.produce();
    if (!got || !got->frame) return got;
    const int64_t needed = std::max<int64_t>(0, s.wanted - s.lead());
    // A container may put the seek after its target; then start from further back, at last from the beginning.
    if (std::exchange(s.justSought, false) && got->number > needed && tries <= kSeekTries) {
      const Status sought = s.seek(needed, tries < kSeekTries ? tries * 100 : needed);
      if (!sought) return tl::unexpected(sought.error());
      ++tries;
      continue;
    }
    if (got->number < s.wanted) continue;
    s.wanted = got->number + 1;
    return s.straightened(std::move(*got));
  }
}

Result<Frame> VideoReader::frameAt(int64_t number) {
  if (const Status there = goTo(number); !there) return tl::unexpected(there.error());
  auto got = read();
  if (got && !got->frame && number > 0) { // past the last one: take the last
    if (const Status there = m_state->seek(number, 0); !there) return tl::unexpected(there.error());
    m_state->wanted = 0;
    Frame last;
    for (;;) {
      got = m_state->produce();
      if (!got || !got->frame) break;
      last = got->frame;
    }
    if (got && last) got = m_state->straightened({number, last});
  }
  if (!got) return tl::unexpected(got.error());
  if (!got->frame)
    return fail(ErrorCode::Decoder, "no picture could be decoded", m_state->info.path, "The file may be damaged",
                "frame " + std::to_string(number));
  return got->frame;
}

} // namespace tromb
