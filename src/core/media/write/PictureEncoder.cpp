// SPDX-License-Identifier: GPL-3.0-or-later
#include "media/write/PictureEncoder.h"

#include "media/Av.h"
#include "media/CanvasFrame.h"
#include "media/CodedUnits.h"
#include "media/write/EncoderOptions.h"
#include "media/write/EncoderProcess.h"

#include <algorithm>
#include <cmath>
#include <cstring>
#include <optional>
#include <utility>
#include <vector>

namespace tromb {

namespace {

/// Pads packets so that a constant rate is one: a decoder's buffer that is filled at that rate is never more than full
/// (Rec. ITU-T H.265, annex C). For encoders that keep it from running empty and leave the rest to others.
class Padding {
public:
  Padding(std::string_view header, const PictureStream& stream)
      : m_header(header), m_share(double(stream.encoding.maxBitRate) / stream.picture.rate.value().toDouble()),
        m_buffer(double(stream.encoding.bufferBits)), m_full(stream.bufferFull * m_buffer) {}

  /// Errors are FFmpeg's.
  int pad(AVPacket& packet) {
    m_full += m_share - 8.0 * packet.size;
    if (m_full <= m_buffer) return 0;
    // Start code, header, filler and the closing bit.
    const size_t around = 4 + m_header.size() + 1;
    const size_t bytes = std::max(around, size_t(std::ceil((m_full - m_buffer) / 8)));
    std::string unit(bytes, '\xFF');
    unit.replace(0, 4, std::string("\0\0\0\1", 4));
    unit.replace(4, m_header.size(), m_header);
    unit.back() = '\x80';
    const int before = packet.size;
    if (const int native = av_grow_packet(&packet, int(bytes)); native < 0) return native;
    std::memcpy(packet.data + before, unit.data(), unit.size());
    m_full -= 8.0 * double(bytes);
    return 0;
  }

private:
  std::string m_header;
  double m_share; ///< bits that come in the time of a picture
  double m_buffer;
  double m_full;
};

/// What a container keeps of an encoder's headers for all packets. Of H.265 without what the encoder tells of itself
/// (units 39 and 40, Rec. ITU-T H.265, table 7-1), among which is where it began.
std::string lastingHeaders(const AVCodecContext& c) {
  const std::span<const uint8_t> all(c.extradata, size_t(c.extradata_size));
  if (c.codec_id != AV_CODEC_ID_HEVC) return {all.begin(), all.end()};
  std::vector<std::span<const uint8_t>> units = unitsOf(all, {});
  const auto tells = [](const auto& unit) { return !unit.empty() && (unit[0] >> 1 == 39 || unit[0] >> 1 == 40); };
  units.erase(std::remove_if(units.begin(), units.end(), tells), units.end());
  return framed(units, {});
}

const char* codecName(const AVCodecContext& c) {
  return avcodec_get_name(c.codec_id);
}

} // namespace

struct PictureEncoder::State {
  std::string path;
  av::CodecPtr encoder; ///< where a process encodes, what it was told, and not open
  std::optional<EncoderProcess> process;
  av::PacketPtr packet{av::allocated(av_packet_alloc())};
  PassLog* log = nullptr;
  int64_t next = 0;
  int64_t first = 0; ///< PictureStream::first
  std::optional<Padding> padding;
  std::string headers;
  std::optional<SetNumbers> numbers;      ///< where they are not the encoder's own
  std::optional<av::FilterGraph> filters; ///< that bring pictures into the encoder's form

  [[nodiscard]] tl::unexpected<Error> failed(int native) const {
    return fail(ErrorCode::Encoder, say("encoding failed (%1)", av::text(native)), path, {}, say("frame %1", next));
  }

  /// Pictures go in, and 256 colours come out at the end.
  [[nodiscard]] bool gathersColours() const { return filters && log && log->pass == PassLog::Pass::First; }

  Status send(av::FramePtr frame, const PacketSink& sink) {
    frame->pict_type = AV_PICTURE_TYPE_NONE;
    if (process) return process->add(*frame, [&](AVPacket& made) { return hand(made, sink); });
    const int native = avcodec_send_frame(encoder.get(), frame.get());
    return native < 0 ? Status(failed(native)) : drain(sink);
  }

  Status sendFiltered(const PacketSink& sink) {
    if (gathersColours()) return {};
    while (av::FramePtr frame = filters->pull())
      if (const Status sent = send(std::move(frame), sink); !sent) return sent;
    return {};
  }

  Status drain(const PacketSink& sink) {
    for (;;) {
      const int native = avcodec_receive_packet(encoder.get(), packet.get());
      if (native == AVERROR(EAGAIN) || native == AVERROR_EOF) return {};
      if (native < 0) return failed(native);
      if (const Status taken = hand(*packet, sink); !taken) return taken;
      av_packet_unref(packet.get());
    }
  }

  [[nodiscard]] tl::unexpected<Error> apart() const {
    return fail(ErrorCode::Encoder, say("the encoder's pictures cannot be joined to those that were made before"),
                path);
  }

  /// Takes up the encoder's headers, once they are known.
  Status opened(const PictureStream& stream) {
    headers = lastingHeaders(*encoder);
    const char* codec = codecName(*encoder);
    if (stream.headersBefore.empty() || !unitFraming(codec, {})) return {};
    numbers = freeNumbers(codec, bytesIn(stream.headersBefore), {});
    const auto other = numbers ? renumbered(codec, bytesIn(headers), *numbers) : std::nullopt;
    if (!other) return apart();
    headers = *other;
    return {};
  }

  Status renumber(AVPacket& made) const {
    const auto units = renumbered(codecName(*encoder), {made.data, size_t(made.size)}, *numbers);
    if (!units) return apart();
    if (const int more = int(units->size()) - made.size; more > 0) {
      if (av_grow_packet(&made, more) < 0) throw std::bad_alloc();
    } else {
      av_shrink_packet(&made, int(units->size()));
    }
    if (av_packet_make_writable(&made) < 0) throw std::bad_alloc();
    std::copy(units->begin(), units->end(), made.data);
    return {};
  }

  Status hand(AVPacket& made, const PacketSink& sink) {
    made.duration = 1;
    made.pts += first;
    made.dts += first;
    if (numbers)
      if (const Status done = renumber(made); !done) return done;
    if (padding)
      if (const int padded = padding->pad(made); padded < 0) return failed(padded);
    return sink(made);
  }
};

PictureEncoder::PictureEncoder(std::unique_ptr<State> state) : m_state(std::move(state)) {}
PictureEncoder::PictureEncoder(PictureEncoder&&) noexcept = default;
PictureEncoder& PictureEncoder::operator=(PictureEncoder&&) noexcept = default;
PictureEncoder::~PictureEncoder() = default;

Result<PictureEncoder> PictureEncoder::open(const PictureStream& stream, const std::string& name, bool headersApart,
                                            PassLog* log) {
  av::tame();
  const PictureCodec& info = stream.encoding.info();
  const std::string_view encoder = stream.hardware ? stream.hardware->encoder : info.encoder;
  const AVCodec* codec = avcodec_find_encoder_by_name(std::string(encoder).c_str());
  if (!codec)
    return fail(ErrorCode::Encoder, say("this system's FFmpeg cannot encode %1: it has no %2", info.name, encoder),
                name, say("Choose another codec, or install an FFmpeg that has it"));
  auto state = std::make_unique<State>();
  state->path = name;
  state->log = log;
  state->first = stream.first;
  state->encoder.reset(av::allocated(avcodec_alloc_context3(codec)));
  AVCodecContext& c = *state->encoder;
  const EncodedPicture& picture = stream.picture;
  c.width = picture.size.width;
  c.height = picture.size.height;
  c.thread_count = stream.threads;
  c.framerate = av::rational(picture.rate.value());
  c.time_base = av_inv_q(c.framerate);
  c.sample_aspect_ratio = av::rational(picture.pixelAspect);
  const auto like = described(picture.size, picture.format);
  static const PassLog kOnly;
  const auto [filters, pixelFormat] = encoderPictures(stream, log ? *log : kOnly);
  if (!filters.empty()) {
    auto built = av::FilterGraph::build(*like, filters, log ? log->palette.get() : nullptr);
    if (!built) return tl::unexpected(built.error());
    if (log && log->palette) {
      if (const Status given = built->pushBeside(log->palette.get(), 0); !given) return tl::unexpected(given.error());
      if (const Status ended = built->pushBeside(nullptr, 0); !ended) return tl::unexpected(ended.error());
    }
    state->filters.emplace(std::move(*built));
  }
  c.pix_fmt = AVPixelFormat(pixelFormat);
  c.color_primaries = like->color_primaries;
  c.color_trc = like->color_trc;
  c.colorspace = like->colorspace;
  c.color_range = like->color_range;
  c.chroma_sample_location = like->chroma_location;
  if (*stream.encoding.rateControl == RateControl::Constant && !info.filler.empty())
    state->padding.emplace(info.filler, stream);
  if (headersApart) c.flags |= AV_CODEC_FLAG_GLOBAL_HEADER;
  applyEncoding(c, stream, log ? *log : kOnly);
  // Decoders may drop what they have not shown yet where the pictures that they keep change in number (Rec. ITU-T
  // H.264, C.4.4; Rec. ITU-T H.265, C.5.2.2).
  if (!stream.headersBefore.empty())
    for (const SequenceSet& set : sequenceSets(codecName(c), bytesIn(stream.headersBefore), {})) {
      c.refs = set.references;
      if (set.leastUnit > 0 && set.reordered == 0) c.max_b_frames = 0; // readers go by the first set of H.265
    }
  if (stream.hardware) {
    auto started = EncoderProcess::start(c, name);
    if (!started) return tl::unexpected(started.error());
    state->process.emplace(std::move(*started));
    if (const Status taken = state->opened(stream); !taken) return tl::unexpected(taken.error());
    return PictureEncoder(std::move(state));
  }
  if (const int native = avcodec_open2(&c, codec, nullptr); native < 0)
    return fail(ErrorCode::Encoder, say("the encoder does not accept these settings (%1)", av::text(native)), name,
                say("Check canvas, rate, profile and level"));
  if (const Status taken = state->opened(stream); !taken) return tl::unexpected(taken.error());
  return PictureEncoder(std::move(state));
}

Status PictureEncoder::add(const Frame& canvas, int64_t lasts, const PacketSink& sink) {
  State& s = *m_state;
  const int64_t at = std::exchange(s.next, s.next + lasts);
  if (!s.filters) {
    av::FramePtr frame(av::allocated(av_frame_clone(canvas.get())));
    frame->pts = at;
    return s.send(std::move(frame), sink);
  }
  if (const Status pushed = s.filters->push(canvas.get(), at); !pushed) return pushed;
  return s.sendFiltered(sink);
}

Status PictureEncoder::finish(const PacketSink& sink) {
  State& s = *m_state;
  if (s.next == 0) return {};
  if (s.filters) {
    if (const Status pushed = s.filters->push(nullptr, s.next); !pushed) return pushed;
    if (s.gathersColours()) {
      s.log->palette = Frame(s.filters->pull().release(), av::Closer());
      return s.log->palette ? Status() : Status(s.failed(AVERROR_INVALIDDATA));
    }
    if (const Status sent = s.sendFiltered(sink); !sent) return sent;
  }
  if (s.process) return s.process->finish([&](AVPacket& made) { return s.hand(made, sink); });
  avcodec_send_frame(s.encoder.get(), nullptr);
  if (const Status done = s.drain(sink); !done) return done;
  if (s.log && s.log->pass == PassLog::Pass::First && s.encoder->stats_out) s.log->stats = s.encoder->stats_out;
  return {};
}

const AVCodecContext& PictureEncoder::context() const {
  return *m_state->encoder;
}

const char* PictureEncoder::codec() const {
  return codecName(*m_state->encoder);
}

const std::string& PictureEncoder::headers() const {
  return m_state->headers;
}

} // namespace tromb
