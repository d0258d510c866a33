// SPDX-License-Identifier: GPL-3.0-or-later
#include "copy/CopyPackets.h"

#include "copy/CopyPlan.h"
#include "media/Av.h"

#include <algorithm>

namespace tromb {

struct CopyPackets::State {
  VideoInfo video;
  std::string path;
  av::InputFile file;
  std::optional<UnitFraming> framing{};
  av::PacketPtr packet{av::allocated(av_packet_alloc())};
};

CopyPackets::CopyPackets(std::unique_ptr<State> state) : m_state(std::move(state)) {}
CopyPackets::CopyPackets(CopyPackets&&) noexcept = default;
CopyPackets& CopyPackets::operator=(CopyPackets&&) noexcept = default;
CopyPackets::~CopyPackets() = default;

Result<CopyPackets> CopyPackets::open(const MediaInfo& media, const std::stop_token& stop) {
  auto file = av::InputFile::open(media.path, stop, media.parameters);
  if (!file) return tl::unexpected(file.error());
  CopyPackets packets(std::unique_ptr<State>(new State{*media.video, media.path, std::move(*file)}));
  packets.m_state->file.keepOnly(media.video->stream);
  packets.m_state->framing = unitFraming(media.video->codec, packets.headers());
  return packets;
}

AVPacket& CopyPackets::packet() {
  return *m_state->packet;
}

void CopyPackets::breakLink() {
  AVPacket& packet = *m_state->packet;
  if (av_packet_make_writable(&packet) < 0) throw std::bad_alloc();
  tromb::breakLink({packet.data, size_t(packet.size)}, *m_state->framing);
}

const AVStream& CopyPackets::stream() const {
  return m_state->file.stream(m_state->video.stream);
}

const std::optional<UnitFraming>& CopyPackets::framing() const {
  return m_state->framing;
}

std::span<const uint8_t> CopyPackets::headers() const {
  const AVCodecParameters& p = *stream().codecpar;
  return {p.extradata, size_t(p.extradata_size)};
}

bool CopyPackets::leavesOutLeading() const {
  return m_state->video.codec == "hevc";
}

int64_t CopyPackets::stampOf(int64_t frame) const {
  const FrameClock& clock = m_state->video.clock;
  const Rational time = frame < 0 ? Rational(0) : cutTime(clock, frame);
  return m_state->video.firstStamp + (time / av::rational(stream().time_base)).nearest();
}

Status CopyPackets::goBefore(int64_t frame) {
  const auto there = m_state->file.seekStamp(m_state->video.stream, stampOf(std::max<int64_t>(0, frame - kReordered)));
  if (!there) return tl::unexpected(there.error());
  if (*there) return {};
  const auto begin = m_state->file.seekByte(0);
  if (!begin) return tl::unexpected(begin.error());
  return {};
}

Result<std::optional<CopyPackets::Packet>> CopyPackets::next() {
  av_packet_unref(m_state->packet.get());
  do {
    const auto got = m_state->file.read(*m_state->packet);
    if (!got) return tl::unexpected(got.error());
    if (!*got) return std::optional<Packet>();
    if (m_state->packet->stream_index != m_state->video.stream) av_packet_unref(m_state->packet.get());
  } while (!m_state->packet->data && m_state->packet->size == 0);
  size_t size = 0;
  if (m_state->packet->pts == AV_NOPTS_VALUE && m_state->video.clock.frameCount() > 0 &&
      stream().codecpar->video_delay == 0)
    m_state->packet->pts = m_state->packet->dts;
  if (m_state->packet->pts == AV_NOPTS_VALUE)
    return fail(ErrorCode::Unsupported, say("a packet of its pictures tells no time"), m_state->path,
                say("Export it instead, which encodes it"));
  if (av_packet_get_side_data(m_state->packet.get(), AV_PKT_DATA_NEW_EXTRADATA, &size) && size > 0)
    return fail(ErrorCode::Unsupported, say("its pictures are coded otherwise from a place on"), m_state->path,
                say("Export it instead, which encodes it"));
  Packet packet;
  packet.stamp = m_state->packet->pts;
  packet.decodes = m_state->packet->dts;
  packet.frame =
      m_state->video.clock.frameOfStamp(packet.stamp - m_state->video.firstStamp, av::rational(stream().time_base));
  if (m_state->packet->flags & AV_PKT_FLAG_KEY)
    packet.entry = m_state->framing ? entryOf(m_state->video.codec,
                                              {m_state->packet->data, size_t(m_state->packet->size)}, *m_state->framing)
                                    : Entry::Clean;
  return std::optional<Packet>(packet);
}

} // namespace tromb
