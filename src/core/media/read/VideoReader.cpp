// SPDX-License-Identifier: GPL-3.0-or-later
#include "media/read/VideoReader.h"

#include "media/Av.h"
#include "media/read/Deinterlacer.h"
#include "media/read/FileIndex.h"

#include <algorithm>
#include <new>
#include <utility>

namespace tromb {
namespace {

constexpr int64_t kReadOnFrames = 12; ///< decoding so many more beats a seek, after which the decoder starts anew
constexpr int64_t kUnseenKeys = 24;   ///< the same where nobody knows where keys are
constexpr int kSeekTries = 3;         ///< before reading from the beginning

Frame shared(av::FramePtr frame) {
  return {frame.release(), av::Closer{}};
}

/// Brings pictures to the size that the source has.
class Conformer {
public:
  explicit Conformer(Size size) : m_size(size) {}

  [[nodiscard]] Result<Frame> run(const Frame& picture, const std::string& path) {
    const AVFrame& in = *picture;
    if (in.width == m_size.width && in.height == m_size.height) return picture;
    m_sws.reset(sws_getCachedContext(m_sws.release(), in.width, in.height, AVPixelFormat(in.format), m_size.width,
                                     m_size.height, AVPixelFormat(in.format), SWS_LANCZOS | SWS_ACCURATE_RND, nullptr,
                                     nullptr, nullptr));
    av::FramePtr out(av::allocated(av_frame_alloc()));
    out->width = m_size.width;
    out->height = m_size.height;
    out->format = in.format;
    if (!m_sws || av_frame_get_buffer(out.get(), 64) < 0 || sws_scale_frame(m_sws.get(), out.get(), &in) < 0)
      return fail(ErrorCode::Unsupported,
                  say("the picture changes its size to %1×%2 in the middle of the file, and cannot be brought to the "
                      "size it begins with",
                      in.width, in.height),
                  path, say("Convert the file first"));
    av_frame_copy_props(out.get(), &in);
    return shared(std::move(out));
  }

private:
  Size m_size;
  av::Handle<SwsContext> m_sws;
};

} // namespace

struct VideoReader::State {
  State(MediaInfo facts, av::InputFile file, std::stop_token stopped)
      : info(std::move(facts)), input(std::move(file)), stop(std::move(stopped)), conform(info.video->stored) {}

  MediaInfo info;
  av::InputFile input;
  std::stop_token stop;
  av::CodecPtr decoder;
  av::PacketPtr packet{av::allocated(av_packet_alloc())};
  bool packetWaits = false; ///< `packet` has been read and not been decoded
  int64_t position = 0;     ///< in the file, of the last packet that has one
  int64_t ordinal = 0;      ///< of the next packet, in order of decoding; where the index needs it
  int64_t next = 0;         ///< the least number that the next picture can have
  int64_t last = -1;        ///< number of the one before; −1 after a seek
  bool fromBeginning = true;
  bool justSought = false;
  bool ended = false;
  bool settled = false;               ///< a picture that is whole has come since the file was entered
  int64_t wanted = 0;                 ///< `read` passes over pictures before this
  NumberedFrame held;                 ///< what was given last
  NumberedFrame ahead;                ///< has been read before its time
  std::optional<Deinterlacer> fields; ///< where the pictures are interlaced
  int64_t perFrame = 1;               ///< numbers that a frame has for whoever reads: 2 by fields; in here frames count
  Conformer conform;

  [[nodiscard]] const VideoInfo& video() const { return *info.video; }
  [[nodiscard]] AVStream& stream() const { return input.stream(video().stream); }
  [[nodiscard]] const FileIndex* index() const { return info.index.get(); }
  /// Pictures that must be read before a wanted one, to make it.
  [[nodiscard]] int64_t lead() const { return fields ? fields->lead() : 0; }
  [[nodiscard]] int64_t lastFrame() const { return std::max<int64_t>(0, video().clock.frameCount() - 1); }
  [[nodiscard]] int64_t lastNumber() const { return perFrame * (lastFrame() + 1) - 1; }

  [[nodiscard]] tl::unexpected<Error> decodeError(const Message& what) const {
    return fail(ErrorCode::Decoder, what, info.path, say("The file may be damaged"), say("frame %1", next));
  }

  Status start(const ReadOptions& options) {
    input.keepOnly(video().stream);
    auto opened = av::openDecoder(stream(), info.path, options.quantisers ? 1 : options.threads,
                                  options.quantisers ? AV_CODEC_EXPORT_DATA_VIDEO_ENC_PARAMS : 0);
    if (!opened) return tl::unexpected(opened.error());
    decoder = std::move(*opened);
    decoder->flags |= AV_CODEC_FLAG_OUTPUT_CORRUPT; // else the last ones of a stretch may be kept back with them
    if (options.roughly) {
      decoder->skip_frame = AVDISCARD_NONREF;
      decoder->skip_loop_filter = AVDISCARD_ALL;
    }
    const Scan scan = options.scan.value_or(video().scan);
    if (info.kind == MediaKind::Video && scan != Scan::Progressive && (!options.roughly || options.byFields)) {
      fields.emplace(scan, options.scanCertain, options.byFields);
      perFrame = options.byFields ? 2 : 1;
    }
    return {};
  }

  // ---- packets
  /// The number of a picture by its stamp. Of pictures that share one, each comes after the other.
  [[nodiscard]] int64_t numberOf(const AVFrame& frame) const {
    if (info.kind == MediaKind::Still) return 0;
    const int64_t stamp = frame.pts != AV_NOPTS_VALUE ? frame.pts : frame.best_effort_timestamp;
    if (stamp == AV_NOPTS_VALUE) return std::max(next, last + 1);
    const FrameClock& clock = video().clock;
    int64_t number = clock.frameOfStamp(stamp - video().firstStamp, av::rational(stream().time_base));
    if (const std::vector<int64_t>* stamps = clock.stamps())
      while (number <= last && number < lastFrame() && (*stamps)[size_t(number + 1)] == (*stamps)[size_t(number)])
        ++number;
    return number;
  }

  /// Gives the packet that was read the stamp by which its picture will be placed.
  void stampPacket() {
    if (!index()) return;
    if (index()->untimed()) {
      const auto place = size_t(ordinal);
      const int32_t picture = place < index()->pictureOfPacket.size() ? index()->pictureOfPacket[place] : -1;
      packet->pts = picture < 0 ? AV_NOPTS_VALUE : index()->stampOfPicture[size_t(picture)];
      packet->dts = AV_NOPTS_VALUE;
    } else if (packet->pts != AV_NOPTS_VALUE) {
      packet->pts += index()->shiftAt(position);
    }
    ++ordinal;
  }

  /// Reads the next packet of the stream into `packet`; false at the end.
  Result<bool> readPacket() {
    for (;;) {
      av_packet_unref(packet.get());
      auto got = input.read(*packet);
      if (!got || !*got) return got;
      if (packet->stream_index != video().stream) continue;
      if (packet->pos >= 0) position = packet->pos;
      return true;
    }
  }

  /// Hands the next packet to the decoder, or tells it that there is none.
  Status feed() {
    if (!packetWaits) {
      const auto got = readPacket();
      if (!got) return tl::unexpected(got.error());
      if (!*got) {
        avcodec_send_packet(decoder.get(), nullptr);
        return {};
      }
      stampPacket();
    }
    packetWaits = false;
    // A damaged packet loses its own picture, not the rest of the shot; an empty one holds none.
    if (packet->size > 0) (void)avcodec_send_packet(decoder.get(), packet.get());
    av_packet_unref(packet.get());
    return {};
  }

  /// Decodes one picture as it is stored; empty at the end.
  Result<NumberedFrame> decode() {
    for (int failures = 0;;) {
      av::FramePtr frame(av::allocated(av_frame_alloc()));
      const int native = avcodec_receive_frame(decoder.get(), frame.get());
      if (native == 0) {
        av::dropUnlisted(*frame);
        // Pictures that lean on some from before the place that was entered are not fit to be shown.
        const bool corrupt = (frame->flags & AV_FRAME_FLAG_CORRUPT) != 0;
        settled = settled || !corrupt;
        if (!settled) continue;
        const bool damaged = corrupt || frame->decode_error_flags != 0;
        NumberedFrame picture{numberOf(*frame), {}, damaged};
        last = picture.number;
        next = last + 1;
        auto fitting = conform.run(shared(std::move(frame)), info.path);
        if (!fitting) return tl::unexpected(fitting.error());
        picture.frame = std::move(*fitting);
        return picture;
      }
      if (native == AVERROR_EOF) {
        ended = true;
        return NumberedFrame{};
      }
      if (native == AVERROR(ENOMEM)) return av::memoryRefused(info.path, say("frame %1", next));
      if (native != AVERROR(EAGAIN) && ++failures < kMostFailures) continue; // of a damaged packet
      if (native != AVERROR(EAGAIN)) return decodeError(say("decoding failed (%1)", av::text(native)));
      if (const Status fed = feed(); !fed) return tl::unexpected(fed.error());
    }
  }

  /// The next whole picture; empty at the end.
  Result<NumberedFrame> produce() {
    if (!fields) return decode();
    for (;;) {
      if (NumberedFrame whole = fields->pull(); whole.frame) return whole;
      auto got = decode();
      if (!got) return got;
      const bool over = !got->frame;
      const Status taken = over ? fields->end() : fields->push(std::move(*got));
      if (!taken) return fail(taken.error().code, taken.error().message, info.path, say("Set its scan to progressive"));
      if (over) return fields->pull();
    }
  }

  // ---- finding one's way
  void startAnew() {
    avcodec_flush_buffers(decoder.get());
    if (fields) fields->restart();
    held = ahead = {};
    packetWaits = ended = fromBeginning = settled = false;
    last = -1;
    next = 0;
    justSought = true;
  }

  /// To the file's first packet, for certain.
  Status rewind() {
    auto again = av::InputFile::open(info.path, stop, info.parameters);
    if (!again) return tl::unexpected(again.error());
    input = std::move(*again);
    input.keepOnly(video().stream);
    startAnew();
    ordinal = position = 0;
    fromBeginning = true;
    return {};
  }

  /// The key of the index that the packet just read is; null where it is none, or where that is not certain. What is
  /// known of a packet's times may depend on what was read before it.
  [[nodiscard]] const FileIndex::Key* keyOfPacket() const {
    const auto only = [&](auto same) -> const FileIndex::Key* {
      const auto& keys = index()->keys;
      const auto at = std::find_if(keys.begin(), keys.end(), same);
      return at == keys.end() || std::any_of(at + 1, keys.end(), same) ? nullptr : &*at;
    };
    const auto here = [this](const FileIndex::Key& key) { return key.position == position; };
    const auto timed = [this](const FileIndex::Key& key) {
      return key.stamp != FileIndex::kNoStamp ? key.stamp == packet->pts : key.decodes == packet->dts;
    };
    if (index()->keys.front().position < 0) return only(timed);
    const auto* both = only([&](const FileIndex::Key& key) { return here(key) && timed(key); });
    return both ? both : only(here);
  }

  /// Enters the file at a key, by the index. False where that cannot be done.
  Result<bool> enter(const FileIndex::Key& key) {
    const int64_t stamp = key.stamp != FileIndex::kNoStamp ? key.stamp : key.decodes;
    const bool byPosition = input.entersByPosition() && key.position >= 0;
    if (!byPosition && stamp == FileIndex::kNoStamp) return false;
    const auto sought = byPosition ? input.seekByte(key.position) : input.seekStamp(video().stream, stamp);
    if (!sought || !*sought) return sought;
    startAnew();
    if (key.position >= 0) position = key.position;
    for (int keys = 0; keys < kMostKeysTried;) {
      const auto got = readPacket();
      if (!got) return got;
      if (!*got) return false;
      if (!(packet->flags & AV_PKT_FLAG_KEY)) continue;
      ++keys;
      const FileIndex::Key* landed = keyOfPacket();
      if (!landed) continue;
      if (landed->number > key.number) return false;
      ordinal = landed->packet;
      next = landed->number;
      stampPacket();
      packetWaits = true;
      return true;
    }
    return false;
  }

  /// Makes decoding go on with a picture at or before `number`. `earlier`: of several tries the how manyth.
  Status seek(int64_t number, int earlier = 0) {
    number = std::clamp<int64_t>(number, 0, lastFrame());
    if (earlier >= kSeekTries) return rewind();
    if (index()) {
      const FileIndex::Key* key = index()->keyBefore(number);
      for (int tries = 0; key && tries < kSeekTries; ++tries) {
        if (tries >= earlier) {
          const auto entered = enter(*key);
          if (!entered) return tl::unexpected(entered.error());
          if (*entered) return {};
        }
        key = index()->keyBefore(key->number - 1);
      }
      return rewind();
    }
    const int64_t target = std::max<int64_t>(0, number - earlier * 100);
    const Rational seconds = target > 0 ? video().clock.timeOf(target) : Rational(0);
    const int64_t stamp = video().firstStamp + (target > 0 ? (seconds / av::rational(stream().time_base)).floor() : 0);
    const auto sought = input.seekStamp(video().stream, stamp);
    if (!sought) return tl::unexpected(sought.error());
    if (!*sought) return rewind();
    startAnew();
    return {};
  }

  /// True where decoding on from where it is reaches `number` sooner than a seek would.
  [[nodiscard]] bool within(int64_t number) const {
    const int64_t upcoming = next - lead();
    if (number < upcoming) return false;
    if (ended || number - upcoming <= kReadOnFrames) return true;
    if (index()) {
      const FileIndex::Key* key = index()->keyBefore(number);
      return !key || key->number <= next + kReadOnFrames;
    }
    const AVIndexEntry* entry = avformat_index_get_entry_from_timestamp(
        &stream(),
        video().firstStamp +
            (video().clock.timeOf(std::min(number, lastFrame())) / av::rational(stream().time_base)).floor(),
        AVSEEK_FLAG_BACKWARD);
    if (!entry) return number - next <= kUnseenKeys;
    const int64_t key =
        video().clock.frameOfStamp(entry->timestamp - video().firstStamp, av::rational(stream().time_base));
    return key <= next + kReadOnFrames;
  }

  /// The first picture after a seek, tried again from further back where it lies behind the one that is needed.
  Result<NumberedFrame> produceFor(int64_t number) {
    auto got = produce();
    const int64_t needed = std::max<int64_t>(0, number / perFrame - lead());
    for (int tries = 1; std::exchange(justSought, false); ++tries) {
      if (!got || fromBeginning || (got->frame && got->number / perFrame <= needed)) break;
      if (const Status sought = seek(needed, tries); !sought) return tl::unexpected(sought.error());
      got = produce();
    }
    return got;
  }

  static constexpr int kMostFailures = 1000; ///< of the decoder in a row, without being fed
  static constexpr int kMostKeysTried = 20;  ///< after a seek, until one is known
};

VideoReader::VideoReader(std::unique_ptr<State> state) : m_state(std::move(state)) {}
VideoReader::VideoReader(VideoReader&&) noexcept = default;
VideoReader& VideoReader::operator=(VideoReader&&) noexcept = default;
VideoReader::~VideoReader() = default;

double meanQuantiser(const Frame& picture) {
  const AVFrameSideData* data = av_frame_get_side_data(picture.get(), AV_FRAME_DATA_VIDEO_ENC_PARAMS);
  if (!data) return -1;
  auto* params = reinterpret_cast<AVVideoEncParams*>(data->data);
  if (params->type != AV_VIDEO_ENC_PARAMS_H264) return -1; // other scales
  double sum = 0;
  for (unsigned i = 0; i < params->nb_blocks; ++i) sum += av_video_enc_params_block(params, i)->delta_qp;
  return params->qp + (params->nb_blocks > 0 ? sum / params->nb_blocks : 0);
}

Result<VideoReader> VideoReader::open(const MediaInfo& info, const ReadOptions& options) {
  if (!info.video) return fail(ErrorCode::NotMedia, say("the file has no picture"), info.path);
  auto input = av::InputFile::open(info.path, options.stop, info.parameters);
  if (!input) return tl::unexpected(input.error());
  const auto stream = unsigned(info.video->stream);
  if (input->sizeBytes() != info.sizeBytes || stream >= input->context().nb_streams ||
      input->stream(int(stream)).codecpar->codec_type != AVMEDIA_TYPE_VIDEO)
    return fail(ErrorCode::Unreadable, say("the file has changed since it was looked at"), info.path,
                say("Bring it in again"));
  auto state = std::make_unique<State>(info, std::move(*input), options.stop);
  if (const Status started = state->start(options); !started) return tl::unexpected(started.error());
  return VideoReader(std::move(state));
}

Status VideoReader::goTo(int64_t number) {
  State& s = *m_state;
  s.wanted = s.info.kind == MediaKind::Still ? 0 : number;
  if (s.ahead.frame && s.ahead.number >= s.wanted && (!s.held.frame || s.held.number < s.wanted)) return {};
  s.ahead = {};
  if (s.within(s.wanted / s.perFrame)) return {};
  return s.seek(s.wanted / s.perFrame - s.lead());
}

Status VideoReader::goNear(int64_t number) {
  State& s = *m_state;
  s.wanted = 0;
  const Status sought = s.seek(number / s.perFrame);
  s.justSought = false;
  return sought;
}

Result<NumberedFrame> VideoReader::read() {
  State& s = *m_state;
  for (;;) {
    auto got = s.ahead.frame ? Result<NumberedFrame>(std::exchange(s.ahead, {})) : s.produceFor(s.wanted);
    if (!got || !got->frame) return got;
    if (got->number < s.wanted) continue;
    s.wanted = got->number + 1;
    s.held = {};
    return got;
  }
}

Result<NumberedFrame> VideoReader::shown(int64_t number, const std::stop_token& unasked) {
  State& s = *m_state;
  number = s.info.kind == MediaKind::Still ? 0 : std::clamp<int64_t>(number, 0, s.lastNumber());
  if (s.ahead.frame && s.ahead.number <= number) s.held = std::exchange(s.ahead, {});
  const bool waiting = s.ahead.frame && s.held.frame && s.held.number <= number; // what is wanted is not in the file
  if (waiting || (s.held.frame && s.held.number == number)) return s.held;
  if ((s.held.frame && s.held.number > number) || !s.within(number / s.perFrame)) {
    if (const Status there = s.seek(number / s.perFrame - s.lead()); !there) return tl::unexpected(there.error());
  }
  s.ahead = {};
  for (;;) {
    auto got = s.produceFor(number);
    if (!got) return got;
    s.wanted = number + 1;
    if (got->frame && got->number <= number) {
      s.held = std::move(*got);
      if (s.held.number == number) return s.held;
      if (unasked.stop_requested())
        return fail(ErrorCode::Cancelled, say("the picture is not needed any more"), s.info.path);
      continue;
    }
    if (got->frame) s.ahead = std::move(*got);
    if (s.held.frame) return s.held;
    if (s.ahead.frame) return s.held = std::exchange(s.ahead, {});
    // Nothing from here to the end: it lies before.
    if (s.fromBeginning) return s.decodeError(say("no picture could be decoded"));
    if (const Status again = s.rewind(); !again) return tl::unexpected(again.error());
  }
}

Result<Frame> VideoReader::frameAt(int64_t number, const std::stop_token& unasked) {
  auto got = shown(number, unasked);
  if (!got) return tl::unexpected(got.error());
  return std::move(got->frame);
}

bool VideoReader::brokenOff() const {
  return m_state->input.brokenOff();
}

} // namespace tromb
