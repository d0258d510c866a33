// SPDX-License-Identifier: GPL-3.0-or-later
#include "media/read/SoundStream.h"

#include "media/Av.h"
#include "media/read/ChannelMix.h"
#include "media/read/FileIndex.h"

#include <algorithm>
#include <cmath>
#include <cstring>
#include <deque>
#include <new>
#include <optional>
#include <utility>

namespace tromb {
namespace {

constexpr double kRunUpSeconds = 0.2;  ///< decoders whose blocks overlap, or borrow bits from earlier ones, need some
constexpr double kEarlierSeconds = 5;  ///< where a seek has landed behind its target
constexpr int kSoundSeekTries = 2;     ///< before reading from the beginning
constexpr double kGapSeconds = 0.0025; ///< stamps that lie further off than this, at once, tell of a gap
constexpr double kGapTicks = 1.6;      ///< the same where the file's clock is coarse
constexpr double kSlipSeconds = 0.005; ///< a drift of this much is taken back
constexpr int kSlipDistance = kSoundRate; ///< over so many samples
constexpr double kSmoothing = 1.0 / 16;
constexpr int64_t kShortestLoss = kSoundRate / 50;      ///< a gap shorter than this, or than a packet, is no packet's
constexpr int64_t kLeadInPackets = 2;                   ///< of an encoder, which may stand alone at the beginning
constexpr int64_t kOpusSilence = kSoundRate * 42 / 100; ///< Opus may leave out silence for 0.4 s (RFC 6716, 2.1.9)
constexpr double kMostBackSeconds = 1;                  ///< a stamp that goes back further is a mistake
constexpr double kBeyondEndSeconds = 10;                ///< so is one so far behind the source's end
constexpr int64_t kMostCounted = 100'000; ///< lost packets; what is missing beyond is damage, but not told one by one
constexpr int kMostFailures = 1000;       ///< of the decoder in a row, without being fed

} // namespace

struct SoundStream::State {
  /// A stretch without a gap; `samples` interleaved.
  struct Stretch {
    int64_t from = 0;
    std::vector<float> samples;
  };
  State(MediaInfo info, int place, std::optional<int> mixedTo, av::InputFile input, std::stop_token stop);
  [[nodiscard]] Status start();
  [[nodiscard]] Status goTo(int64_t sample);
  [[nodiscard]] Result<int64_t> read(float* out, int64_t count);
  [[nodiscard]] AVStream& stream() const { return m_input.stream(m_stream); }
  [[nodiscard]] int64_t heldEnd() const;
  [[nodiscard]] Status more();
  [[nodiscard]] Result<bool> readPacket();
  [[nodiscard]] Result<bool> decode(AVFrame& frame);
  [[nodiscard]] Status take(const AVFrame& frame, const AVFrame* after);
  [[nodiscard]] std::optional<double> placeOf(const AVFrame& frame) const;
  [[nodiscard]] Status beginStretch(const AVFrame& frame, int64_t from);
  [[nodiscard]] Status convert(const AVFrame* frame);
  [[nodiscard]] Status endStretch();
  [[nodiscard]] Status seek(int64_t sample, int earlier);
  [[nodiscard]] Status rewind();
  void startAnew();
  void noteDamage();
  void noteGap(int64_t from, int64_t to, int64_t packet);

  MediaInfo m_info;
  int m_stream = 0;
  std::optional<int> m_mixedTo; ///< channels; nothing: the first alone
  int m_channels = 1;
  av::InputFile m_input;
  std::stop_token m_stop;
  av::CodecPtr m_decoder;
  av::Handle<SwrContext> m_swr;
  av::PacketPtr m_packet{av::allocated(av_packet_alloc())};
  av::FramePtr m_frame{av::allocated(av_frame_alloc())};
  av::FramePtr m_after{
      av::allocated(av_frame_alloc())}; ///< decoded before its time, to see whether a stamp is to be trusted
  bool m_afterWaits = false;
  Rational m_tick{1};
  // Of the stretch that is being converted.
  AVSampleFormat m_format = AV_SAMPLE_FMT_NONE;
  int m_rate = 0;
  int m_sourceChannels = 0;
  double m_begun = 0;    ///< its place, in samples at 48 kHz
  int64_t m_taken = 0;   ///< samples of the source since then
  double m_slip = 0;     ///< how far stamps have drifted off, smoothed; samples at 48 kHz
  int64_t m_overlap = 0; ///< samples still to be dropped, since they were heard already
  std::deque<Stretch> m_held;
  int64_t m_position = 0;    ///< sample that the next read begins at
  int64_t m_at = 0;          ///< byte in the file, of the last packet that tells
  int64_t m_packetBegin = 0; ///< sample that the packet read last begins at
  int64_t m_packetEnd = 0;   ///< and the one behind its last
  bool m_fromBeginning = true;
  bool m_ended = false;
  bool m_justSought = false;
  int m_stretches = 0;   ///< begun since the last seek
  bool m_settled = true; ///< something has been decoded since the last seek
  std::map<int64_t, int64_t> m_damaged;
};

SoundStream::State::State(MediaInfo info, int place, std::optional<int> mixedTo, av::InputFile input,
                          std::stop_token stop)
    : m_info(std::move(info)), m_stream(m_info.audio[size_t(place)].stream), m_mixedTo(mixedTo),
      m_channels(mixedTo.value_or(1)), m_input(std::move(input)), m_stop(std::move(stop)) {}

SoundStream::SoundStream(std::unique_ptr<State> state) : m_state(std::move(state)) {}
SoundStream::SoundStream(SoundStream&&) noexcept = default;
SoundStream& SoundStream::operator=(SoundStream&&) noexcept = default;
SoundStream::~SoundStream() = default;

Result<SoundStream> SoundStream::open(const MediaInfo& info, int place, std::optional<int> mixedTo,
                                      std::stop_token stop) {
  auto input = av::InputFile::open(info.path, stop, info.parameters);
  if (!input) return tl::unexpected(input.error());
  const auto stream = unsigned(info.audio[size_t(place)].stream);
  if (input->sizeBytes() != info.sizeBytes || stream >= input->context().nb_streams ||
      input->stream(int(stream)).codecpar->codec_type != AVMEDIA_TYPE_AUDIO)
    return fail(ErrorCode::Unreadable, say("the file has changed since it was looked at"), info.path,
                say("Bring it in again"));
  auto state = std::make_unique<State>(info, place, mixedTo, std::move(*input), std::move(stop));
  if (const Status started = state->start(); !started) return tl::unexpected(started.error());
  return SoundStream(std::move(state));
}

Status SoundStream::goTo(int64_t sample) {
  return m_state->goTo(sample);
}

Result<int64_t> SoundStream::read(float* out, int64_t count) {
  return m_state->read(out, count);
}

const std::map<int64_t, int64_t>& SoundStream::damaged() const {
  return m_state->m_damaged;
}

Status SoundStream::State::start() {
  m_input.keepOnly(m_stream);
  m_tick = av::rational(stream().time_base);
  auto decoder = av::openDecoder(stream(), m_info.path, 1);
  if (!decoder) return tl::unexpected(decoder.error());
  m_decoder = std::move(*decoder);
  return {};
}

int64_t SoundStream::State::heldEnd() const {
  return m_held.empty() ? m_position : m_held.back().from + int64_t(m_held.back().samples.size()) / m_channels;
}

void SoundStream::State::noteDamage() {
  if (m_settled) m_damaged[m_packetBegin] = m_packetEnd; // else entered in the middle of something
}

/// Counts the packets, `packet` samples long, that are missing between two samples.
void SoundStream::State::noteGap(int64_t from, int64_t to, int64_t packet) {
  packet = std::max(packet, kShortestLoss);
  if (to - from < (m_decoder->codec_id == AV_CODEC_ID_OPUS ? kOpusSilence : packet * 9 / 10)) return;
  int64_t count = std::max<int64_t>(1, (to - from + packet / 2) / packet);
  if (count > kMostCounted - int64_t(m_damaged.size())) { // a stamp may leave out years
    packet = to - from;
    count = 1;
  }
  for (int64_t left = count; left > 0; --left, from += packet) {
    const auto later = m_damaged.lower_bound(from + packet / 2);
    if (later == m_damaged.begin() || std::prev(later)->second <= from + packet / 2) // else counted already
      m_damaged.emplace_hint(later, from, from + packet);
  }
}

// ---- from packets to samples

Result<bool> SoundStream::State::readPacket() {
  for (;;) {
    av_packet_unref(m_packet.get());
    auto got = m_input.read(*m_packet);
    if (!got || !*got) return got;
    if (m_packet->stream_index != m_stream) continue;
    if (m_packet->pos >= 0) m_at = m_packet->pos;
    if (m_info.index)
      if (const int64_t shift = m_info.index->shiftAt(m_at)) {
        // Jumps are counted in the ticks of a broadcast stream, which all its streams share.
        if (m_packet->pts != AV_NOPTS_VALUE) m_packet->pts += shift;
        if (m_packet->dts != AV_NOPTS_VALUE) m_packet->dts += shift;
      }
    const auto samples = [](const Rational& time) { return Rational::nearestProduct(time, Rational(kSoundRate)); };
    m_packetBegin =
        m_packet->pts == AV_NOPTS_VALUE ? m_packetEnd : samples(Rational(m_packet->pts) * m_tick - m_info.begin);
    m_packetEnd = m_packetBegin + std::max<int64_t>(1, samples(Rational(m_packet->duration) * m_tick));
    return true;
  }
}

/// The next decoded piece of sound; false at the end.
Result<bool> SoundStream::State::decode(AVFrame& frame) {
  for (int failures = 0;;) {
    const int native = avcodec_receive_frame(m_decoder.get(), &frame);
    if (native == 0) {
      if (frame.decode_error_flags != 0 || (frame.flags & AV_FRAME_FLAG_CORRUPT)) noteDamage();
      if (frame.nb_samples <= 0 || frame.sample_rate <= 0) continue;
      m_settled = true;
      return true;
    } else if (native == AVERROR_EOF) {
      return false;
    } else if (native == AVERROR(EAGAIN)) {
      const auto got = readPacket();
      if (!got) return got;
      const bool empty = *got && m_packet->size <= 0;
      const int sent = empty ? 0 : avcodec_send_packet(m_decoder.get(), *got ? m_packet.get() : nullptr);
      if (sent == AVERROR(ENOMEM)) return av::memoryRefused(m_info.path);
      if (sent < 0 && *got) noteDamage();
    } else if (native == AVERROR(ENOMEM)) {
      return av::memoryRefused(m_info.path);
    } else {
      noteDamage();
      if (++failures >= kMostFailures)
        return fail(ErrorCode::Decoder, say("decoding the sound failed (%1)", av::text(native)), m_info.path,
                    say("The file may be damaged"));
    }
  }
}

Status SoundStream::State::more() {
  while (!m_ended) {
    const int64_t before = heldEnd();
    const size_t stretches = m_held.size();
    if (m_afterWaits) {
      std::swap(m_frame, m_after);
      m_afterWaits = false;
    } else {
      const auto got = decode(*m_frame);
      if (!got) return tl::unexpected(got.error());
      if (!*got) {
        m_ended = true;
        return endStretch();
      }
    }
    const auto after = decode(*m_after);
    if (!after) return tl::unexpected(after.error());
    m_afterWaits = *after;
    if (const Status taken = take(*m_frame, m_afterWaits ? m_after.get() : nullptr); !taken) return taken;
    if (heldEnd() != before || m_held.size() != stretches) return {};
  }
  return {};
}

/// Where a piece of sound lies by its stamp, in samples at 48 kHz.
std::optional<double> SoundStream::State::placeOf(const AVFrame& frame) const {
  const int64_t stamp = frame.pts != AV_NOPTS_VALUE ? frame.pts : frame.best_effort_timestamp;
  if (stamp == AV_NOPTS_VALUE) return {};
  const double place = (Rational(stamp) * m_tick - m_info.begin).toDouble();
  return place * kSoundRate;
}

Status SoundStream::State::take(const AVFrame& frame, const AVFrame* after) {
  const bool same = m_swr && frame.format == m_format && frame.sample_rate == m_rate &&
                    frame.ch_layout.nb_channels == m_sourceChannels;
  const double expected = m_begun + double(m_taken) * kSoundRate / std::max(1, m_rate);
  double place = placeOf(frame).value_or(expected);
  if (m_swr) {
    const double gap = std::max(kGapSeconds, kGapTicks * m_tick.toDouble()) * kSoundRate;
    const double off = place - expected;
    bool jumps = std::abs(off - m_slip) > gap;
    if (jumps && after) { // a single stamp that does not agree with the next is a mistake
      const auto next = placeOf(*after);
      const double length = double(frame.nb_samples) * kSoundRate / frame.sample_rate;
      jumps = next && std::abs(*next - (place + length)) < std::abs(*next - (expected + m_slip + length));
    }
    const double end = (m_info.duration.toDouble() + kBeyondEndSeconds) * kSoundRate;
    if (off < -kMostBackSeconds * kSoundRate || (off > 0 && place > end)) jumps = false;
    if (same && !jumps) {
      if (std::abs(off - m_slip) <= gap) m_slip += (off - m_slip) * kSmoothing;
      if (std::abs(m_slip) > kSlipSeconds * kSoundRate) {
        const auto delta = int(std::lround(m_slip));
        if (swr_set_compensation(m_swr.get(), delta, kSlipDistance) >= 0) m_begun += delta;
        m_slip -= delta;
      }
      m_taken += frame.nb_samples;
      return convert(&frame);
    }
    // A first packet that stands alone is what the encoder needed to begin; and behind a seek it may be the seek that
    // has left something out.
    const bool leadIn = m_stretches == 1 && m_taken <= kLeadInPackets * frame.nb_samples;
    if (!jumps)
      place = expected + m_slip;
    else if (!leadIn && (!m_justSought || m_fromBeginning))
      noteGap(std::llround(expected + m_slip), std::llround(place),
              std::llround(double(frame.nb_samples) * kSoundRate / frame.sample_rate));
    if (const Status ended = endStretch(); !ended) return ended;
  }
  if (const Status begun = beginStretch(frame, std::llround(place)); !begun) return begun;
  m_begun = place;
  m_taken = frame.nb_samples;
  m_slip = 0;
  return convert(&frame);
}

Status SoundStream::State::beginStretch(const AVFrame& frame, int64_t from) {
  m_format = AVSampleFormat(frame.format);
  m_rate = frame.sample_rate;
  m_sourceChannels = frame.ch_layout.nb_channels;
  AVChannelLayout source = frame.ch_layout;
  if (source.order == AV_CHANNEL_ORDER_UNSPEC) av_channel_layout_default(&source, m_sourceChannels);
  AVChannelLayout target = av::layoutOf(m_channels);
  SwrContext* raw = nullptr;
  swr_alloc_set_opts2(&raw, &target, AV_SAMPLE_FMT_FLT, kSoundRate, &source, m_format, m_rate, 0, nullptr);
  m_swr.reset(raw);
  std::vector<double> weights(size_t(m_sourceChannels), 0);
  weights.front() = 1;
  if (m_mixedTo) weights = ChannelMix(source, m_channels).weights();
  if (!m_swr || swr_set_matrix(m_swr.get(), weights.data(), m_sourceChannels) < 0 || swr_init(m_swr.get()) < 0) {
    m_swr.reset();
    return fail(ErrorCode::Unsupported, say("the sound's format cannot be converted"), m_info.path,
                say("Convert the file first"));
  }
  // What was heard already is not heard again.
  const bool first = m_held.empty() && m_justSought;
  m_overlap = first ? 0 : std::max<int64_t>(0, heldEnd() - from);
  m_held.push_back({from + m_overlap, {}});
  ++m_stretches;
  return {};
}

Status SoundStream::State::convert(const AVFrame* frame) {
  const int room = swr_get_out_samples(m_swr.get(), frame ? frame->nb_samples : 0);
  if (room <= 0) return {};
  std::vector<float>& samples = m_held.back().samples;
  const size_t before = samples.size();
  samples.resize(before + size_t(room) * size_t(m_channels));
  auto* out = reinterpret_cast<uint8_t*>(samples.data() + before);
  const int got =
      swr_convert(m_swr.get(), &out, room, frame ? const_cast<const uint8_t**>(frame->extended_data) : nullptr,
                  frame ? frame->nb_samples : 0);
  const int64_t dropped = std::min<int64_t>(m_overlap, std::max(0, got));
  m_overlap -= dropped;
  samples.resize(before + size_t(std::max(0, got)) * size_t(m_channels));
  samples.erase(samples.begin() + ptrdiff_t(before), samples.begin() + ptrdiff_t(before) + dropped * m_channels);
  return {};
}

Status SoundStream::State::endStretch() {
  if (!m_swr) return {};
  const Status done = convert(nullptr); // what the resampler still holds
  m_swr.reset();
  return done;
}

// ---- finding one's way

void SoundStream::State::startAnew() {
  avcodec_flush_buffers(m_decoder.get());
  m_swr.reset();
  m_held.clear();
  m_ended = m_fromBeginning = m_afterWaits = false;
  m_justSought = true;
  m_stretches = 0;
  m_settled = false;
}

Status SoundStream::State::rewind() {
  auto again = av::InputFile::open(m_info.path, m_stop, m_info.parameters);
  if (!again) return tl::unexpected(again.error());
  m_input = std::move(*again);
  m_input.keepOnly(m_stream);
  startAnew();
  m_at = 0;
  m_fromBeginning = m_settled = true;
  return {};
}

Status SoundStream::State::seek(int64_t sample, int earlier) {
  if (earlier >= kSoundSeekTries) return rewind();
  const Rational seconds = m_info.begin + Rational(sample, kSoundRate) -
                           Rational(int64_t((kRunUpSeconds + earlier * kEarlierSeconds) * 1000), 1000);
  const int64_t stamp = Rational::nearestProduct(seconds, Rational(1) / m_tick);
  const FileIndex::Sound* marks = m_info.index ? m_info.index->soundOf(m_stream) : nullptr;
  Result<bool> sought = false;
  if (marks && m_input.entersByPosition()) {
    const auto later = std::upper_bound(marks->marks.begin(), marks->marks.end(), stamp,
                                        [](int64_t at, const FileIndex::Mark& mark) { return at < mark.stamp; });
    if (later == marks->marks.begin()) return rewind();
    m_at = (later - 1)->position;
    sought = m_input.seekByte(m_at);
  } else {
    sought = m_input.seekStamp(m_stream, stamp);
  }
  if (!sought) return tl::unexpected(sought.error());
  if (!*sought) return rewind();
  startAnew();
  return {};
}

Status SoundStream::State::goTo(int64_t sample) {
  if (sample == m_position && !m_held.empty()) return {};
  const bool ahead = sample >= m_position && sample - m_position < kSoundRate;
  if (ahead && (m_fromBeginning || !m_held.empty())) { // reading on is as quick as a seek, and always right
    m_position = sample;
    return {};
  }
  m_position = sample;
  return seek(sample, 0);
}

Result<int64_t> SoundStream::State::read(float* out, int64_t count) {
  std::fill(out, out + count * m_channels, 0.0F);
  const int64_t begin = m_position;
  const int64_t end = begin + count;
  int64_t real = 0;
  for (int tries = 1; m_position < end;) {
    while (!m_held.empty()) { // what lies before the place that is read
      Stretch& first = m_held.front();
      const int64_t length = int64_t(first.samples.size()) / m_channels;
      if (first.from + length > m_position || (m_held.size() == 1 && m_swr)) break;
      m_held.pop_front();
    }
    const bool nothing = m_held.empty() || m_held.front().samples.empty() ||
                         m_held.front().from + int64_t(m_held.front().samples.size()) / m_channels <= m_position;
    if (nothing) {
      if (m_ended) break;
      if (!m_held.empty() && m_swr) { // keep the place where the stretch goes on
        Stretch& last = m_held.back();
        last.from += int64_t(last.samples.size()) / m_channels;
        last.samples.clear();
      }
      if (const Status done = more(); !done) return tl::unexpected(done.error());
      continue;
    }
    Stretch& first = m_held.front();
    if (first.from > m_position) {
      // Sound begins later: silence until there. After a seek, it may only seem so.
      if (std::exchange(m_justSought, false) && !m_fromBeginning) {
        if (const Status again = seek(m_position, tries++); !again) return tl::unexpected(again.error());
        continue;
      }
      const int64_t gap = std::min(end, first.from) - m_position;
      m_position += gap;
      real += gap;
      continue;
    }
    m_justSought = false;
    const int64_t skip = m_position - first.from;
    const int64_t length = int64_t(first.samples.size()) / m_channels;
    const int64_t take = std::min(length - skip, end - m_position);
    std::memcpy(out + (m_position - begin) * m_channels, first.samples.data() + skip * m_channels,
                size_t(take * m_channels) * sizeof(float));
    first.samples.erase(first.samples.begin(), first.samples.begin() + (skip + take) * m_channels);
    first.from += skip + take;
    m_position += take;
    real += take;
  }
  m_position = end;
  return real;
}

} // namespace tromb
