// SPDX-License-Identifier: GPL-3.0-or-later
#include "copy/SoundCopy.h"

#include "media/Av.h"

#include <algorithm>

namespace tromb {
namespace {

constexpr int kPacketsBefore = 4;
constexpr int kUsualPacket = 1024; ///< samples

} // namespace

struct SoundCopy::State {
  State(const MediaInfo& media, av::InputFile file, int stream);
  [[nodiscard]] Result<bool> read();
  [[nodiscard]] int64_t samplesIn(const AVPacket& packet) const;
  [[nodiscard]] Status write(AVPacket& packet, int64_t at, Muxer& muxer) const;
  [[nodiscard]] int64_t samples(const Rational& seconds) const;

  av::InputFile m_file;
  int m_stream;
  Rational m_begin;
  int m_rate;
  int m_sampleBytes; ///< of all channels, where packets can be parted; else 0
  int m_number = 0;
  bool m_early = false;
  bool m_first = true; ///< nothing was written yet
  av::PacketPtr m_packet;
  av::PacketPtr m_before; ///< the packet before the one in hand, where the file's sound begins with it
  bool m_inHand = false;  ///< m_packet is to be written next
  int64_t m_done = 0;     ///< samples written: where the next packet is heard
  int64_t m_end = 0;      ///< samples, of the part in the new file
  bool m_last = false;

  [[nodiscard]] const AVStream& stream() const { return m_file.stream(m_stream); }
  [[nodiscard]] Status begin(const Rational& from, const Rational& at, const Rational& end, bool last);
  [[nodiscard]] Status writeUntil(const Rational& time, Muxer& muxer);
};

SoundCopy::SoundCopy(std::unique_ptr<State> state) : m_state(std::move(state)) {}
SoundCopy::SoundCopy(SoundCopy&&) noexcept = default;
SoundCopy& SoundCopy::operator=(SoundCopy&&) noexcept = default;
SoundCopy::~SoundCopy() = default;

Result<SoundCopy> SoundCopy::open(const MediaInfo& media, int stream, const std::stop_token& stop) {
  auto file = av::InputFile::open(media.path, stop, media.parameters);
  if (!file) return tl::unexpected(file.error());
  return SoundCopy(std::make_unique<State>(media, std::move(*file), stream));
}

const AVStream& SoundCopy::stream() const {
  return m_state->stream();
}

void SoundCopy::into(int number, bool early) {
  m_state->m_number = number;
  m_state->m_early = early;
}

Status SoundCopy::begin(const Rational& from, const Rational& at, const Rational& end, bool last) {
  return m_state->begin(from, at, end, last);
}

Status SoundCopy::writeUntil(const Rational& time, Muxer& muxer) {
  return m_state->writeUntil(time, muxer);
}

SoundCopy::State::State(const MediaInfo& media, av::InputFile file, int stream)
    : m_file(std::move(file)), m_stream(stream), m_begin(media.begin),
      m_rate(std::max(1, m_file.stream(stream).codecpar->sample_rate)),
      m_sampleBytes(av_get_exact_bits_per_sample(m_file.stream(stream).codecpar->codec_id) / 8 *
                    m_file.stream(stream).codecpar->ch_layout.nb_channels),
      m_packet(av::allocated(av_packet_alloc())), m_before(av::allocated(av_packet_alloc())) {
  m_file.keepOnly(stream);
}

int64_t SoundCopy::State::samples(const Rational& seconds) const {
  return Rational::nearestProduct(seconds, Rational(m_rate));
}

int64_t SoundCopy::State::samplesIn(const AVPacket& packet) const {
  const AVCodecParameters& p = *stream().codecpar;
  if (m_sampleBytes > 0) return packet.size / m_sampleBytes;
  const int64_t told = av_rescale_q(packet.duration, stream().time_base, {1, m_rate});
  const bool exact = stream().time_base.den % m_rate == 0;
  return std::max<int64_t>(1, (exact && told > 0) || p.frame_size <= 0 ? told : p.frame_size);
}

/// The next packet in hand, if there is one.
Result<bool> SoundCopy::State::read() {
  m_inHand = false;
  do {
    av_packet_unref(m_packet.get());
    const auto got = m_file.read(*m_packet);
    if (!got || !*got) return got;
  } while (m_packet->stream_index != m_stream || m_packet->pts == AV_NOPTS_VALUE);
  m_inHand = true;
  return true;
}

Status SoundCopy::State::begin(const Rational& from, const Rational& at, const Rational& end, bool last) {
  m_end = samples(end);
  m_last = last;
  m_inHand = false;
  av_packet_unref(m_before.get());
  if (m_first) m_done = samples(at);
  // Where it is in the file what is heard next.
  const int64_t wanted = samples(m_begin + from) + (m_done - samples(at));
  const int64_t near = av_rescale_q(wanted - int64_t(kPacketsBefore) * kUsualPacket, {1, m_rate}, stream().time_base);
  const auto there = m_file.seekStamp(m_stream, near);
  if (!there) return tl::unexpected(there.error());
  if (!*there)
    if (const auto top = m_file.seekByte(0); !top) return tl::unexpected(top.error());
  for (;;) {
    const auto got = read();
    if (!got) return tl::unexpected(got.error());
    if (!*got) return {}; // its sound is over
    const int64_t first = av_rescale_q(m_packet->pts, stream().time_base, {1, m_rate});
    const int64_t count = samplesIn(*m_packet);
    if (m_sampleBytes > 0) {
      if (first + count <= wanted) continue;
      const int64_t skip = std::max<int64_t>(0, wanted - first);
      m_packet->data += skip * m_sampleBytes;
      m_packet->size -= int(skip * m_sampleBytes);
      m_done += std::max<int64_t>(0, first - wanted); // it begins later
      return {};
    }
    const bool usable = m_first && !m_early ? first >= wanted : first + count / 2 >= wanted;
    if (!usable) {
      if (m_first && m_early) {
        av_packet_unref(m_before.get());
        if (av_packet_ref(m_before.get(), m_packet.get()) < 0) throw std::bad_alloc();
      }
      continue;
    }
    // The first one of all lies exactly where it is; the others follow without a gap, unless its sound begins later.
    if (m_first || first - wanted > count) m_done += first - wanted;
    return {};
  }
}

Status SoundCopy::State::write(AVPacket& packet, int64_t at, Muxer& muxer) const {
  packet.pts = packet.dts = av_rescale_q(at, {1, m_rate}, stream().time_base);
  packet.duration = av_rescale_q(samplesIn(packet), {1, m_rate}, stream().time_base);
  packet.pos = -1;
  return muxer.write(m_number, packet);
}

Status SoundCopy::State::writeUntil(const Rational& time, Muxer& muxer) {
  const int64_t until = std::min(samples(time), m_end);
  while (m_inHand) {
    int64_t count = samplesIn(*m_packet);
    // A packet that would reach further beyond the end than it lies before it is left to what follows.
    if (m_done >= until || (m_sampleBytes == 0 && !m_last && m_done + count / 2 >= m_end)) return {};
    if (m_sampleBytes > 0 && m_done + count > m_end) {
      count = m_end - m_done;
      m_packet->size = int(count * m_sampleBytes);
    }
    if (m_before->data) { // decoders need what lies before it
      if (const Status done = write(*m_before, m_done - samplesIn(*m_before), muxer); !done) return done;
      av_packet_unref(m_before.get());
    }
    m_first = false;
    if (const Status done = write(*m_packet, m_done, muxer); !done) return done;
    m_done += count;
    const auto got = read();
    if (!got) return tl::unexpected(got.error());
  }
  return {};
}

} // namespace tromb
