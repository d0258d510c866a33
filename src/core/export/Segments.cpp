// SPDX-License-Identifier: GPL-3.0-or-later
#include "export/Segments.h"

#include "io/AtomicFile.h"
#include "media/Av.h"

extern "C" {
#include <libavutil/crc.h>
}

#include <algorithm>
#include <cerrno>
#include <cstring>
#include <filesystem>

namespace tromb {
namespace {

namespace fs = std::filesystem;

const Rational kSegmentSeconds{30};
constexpr double kFullAtFirst = 0.9;      ///< as the encoders have it
constexpr double kLeastFull = 0.1;        ///< that an encoder is told, so that its first picture can be one
constexpr double kMadeUpWithin = 60;      ///< seconds
constexpr double kMostMadeUp = 0.5;       ///< of the bit rate
constexpr size_t kPendingBytes = 1 << 20; ///< that are written at once
constexpr size_t kMostSegmentBytes = size_t(16) << 30;

enum class Mark : uint8_t { Packet, Trace, Lost, End };

struct PacketHead {
  int64_t pts = 0;
  int64_t dts = 0;
  uint32_t flags = 0;
  uint32_t bytes = 0;
};

uint32_t checkOf(uint32_t before, const void* bytes, size_t count) {
  return av_crc(av_crc_get_table(AV_CRC_32_IEEE_LE), before, static_cast<const uint8_t*>(bytes), count);
}

/// Takes values out of the bytes of a file that is known to be whole.
class Taker {
public:
  explicit Taker(std::string_view bytes) : m_left(bytes) {}
  [[nodiscard]] bool empty() const { return m_left.empty(); }
  std::string_view bytes(size_t count) {
    const std::string_view taken = m_left.substr(0, std::min(count, m_left.size()));
    m_left.remove_prefix(taken.size());
    return taken;
  }
  template <typename Value> Value value() {
    Value value{};
    const std::string_view from = bytes(sizeof value);
    std::memcpy(&value, from.data(), from.size());
    return value;
  }

private:
  std::string_view m_left;
};

} // namespace

SegmentCuts::SegmentCuts(const Plan& plan)
    : m_frames(plan.frameCount()), m_length(std::max<int64_t>(1, plan.rate().frameAt(kSegmentSeconds))) {
  const Encoding& e = plan.encoding();
  const bool whole = !e.hasPicture() || e.hasTwoPasses() || e.info().loop;
  m_count = whole ? 1 : size_t(std::max<int64_t>(1, m_frames / m_length));
}

Spending::Spending(const Encoding& encoding, const FrameRate& rate) : m_rate(rate.value().toDouble()) {
  m_state.full = kFullAtFirst;
  if (encoding.rateControl == RateControl::Variable) m_bitRate = encoding.bitRate;
  m_maxBitRate = encoding.maxBitRate;
  m_bufferBits = encoding.bufferBits;
}

void Spending::add(int64_t bits) {
  m_state.bits += bits;
  ++m_state.pictures;
  if (m_maxBitRate <= 0 || m_bufferBits <= 0) return;
  const double spent = double(bits) - double(m_maxBitRate) / m_rate;
  m_state.full = std::clamp(m_state.full - spent / double(m_bufferBits), 0.0, 1.0);
}

void Spending::brief(PictureStream& stream) const {
  if (m_state.pictures == 0) return;
  stream.first = m_state.pictures;
  if (m_maxBitRate > 0) stream.bufferFull = std::max(m_state.full, kLeastFull);
  if (m_bitRate <= 0) return;
  const double planned = double(m_bitRate) * double(m_state.pictures) / m_rate;
  const double most = kMostMadeUp * double(m_bitRate);
  const double more = std::clamp((planned - double(m_state.bits)) / kMadeUpWithin, -most, most);
  stream.encoding.bitRate = m_bitRate + int64_t(more);
  if (m_maxBitRate > 0) stream.encoding.bitRate = std::min(stream.encoding.bitRate, m_maxBitRate);
}

SegmentStore::SegmentStore(std::string folder, std::string key, Size canvas, bool traced, WhenFull whenFull)
    : m_folder(std::move(folder)), m_head("tromb segment 1\n" + std::move(key) + "\n"), m_shape(canvas),
      m_traced(traced), m_whenFull(std::move(whenFull)) {}

Result<SegmentStore> SegmentStore::open(const std::string& folder, std::string key, Size canvas, bool traced,
                                        WhenFull whenFull) {
  std::error_code refused;
  fs::create_directories(folder, refused);
  if (refused) return cannotWrite(folder, refused.value());
  PartFile::sweep(folder);
  return SegmentStore(folder, std::move(key), canvas, traced, std::move(whenFull));
}

std::string SegmentStore::pathOf(size_t segment) const {
  return m_folder + "/" + std::to_string(segment) + ".segment";
}

/// What stands between the head and the check; nothing where the file is not there, not whole or not of this kind.
std::optional<std::string> SegmentStore::wholeText(size_t segment) const {
  auto text = readWholeFile(pathOf(segment), kMostSegmentBytes);
  uint32_t check = 0;
  if (!text || text->size() < m_head.size() + sizeof check || !text->starts_with(m_head)) return std::nullopt;
  const size_t end = text->size() - sizeof check;
  std::memcpy(&check, text->data() + end, sizeof check);
  if (checkOf(0, text->data(), end) != check) return std::nullopt;
  text->resize(end);
  text->erase(0, m_head.size());
  return std::move(*text);
}

std::optional<Spending::State> SegmentStore::spentAt(size_t segment) const {
  const auto text = wholeText(segment);
  if (!text || text->size() < sizeof(Spending::State)) return std::nullopt;
  return Taker(std::string_view(*text).substr(text->size() - sizeof(Spending::State))).value<Spending::State>();
}

Status SegmentStore::replay(size_t segment, const Replay& to) const {
  const auto text = wholeText(segment);
  if (!text) return fail(ErrorCode::Unreadable, say("a part that was finished cannot be read back"), pathOf(segment));
  av::PacketPtr packet(av::allocated(av_packet_alloc()));
  Taker taker(*text);
  while (!taker.empty()) {
    switch (taker.value<Mark>()) {
    case Mark::Packet: {
      const auto head = taker.value<PacketHead>();
      const std::string_view bytes = taker.bytes(head.bytes);
      if (av_new_packet(packet.get(), int(bytes.size())) < 0) throw std::bad_alloc();
      std::copy(bytes.begin(), bytes.end(), packet->data);
      packet->pts = head.pts;
      packet->dts = head.dts;
      packet->flags = int(head.flags);
      packet->duration = 1;
      const Status taken = to.packet(*packet);
      av_packet_unref(packet.get());
      if (!taken) return taken;
      break;
    }
    case Mark::Trace: {
      const auto frames = taker.value<int64_t>();
      const auto trace = PictureTrace::unpacked(taker.bytes(m_shape.bytes()), m_shape);
      if (const Status taken = to.trace(trace, frames); !taken) return taken;
      break;
    }
    case Mark::Lost:
      to.lost(taker.value<LostPictures>());
      break;
    case Mark::End:
      return {};
    }
  }
  return {};
}

Status SegmentStore::flush() {
  if (!writeAll(m_part->file(), m_pending.data(), m_pending.size())) return cannotWrite(m_folder, errno);
  m_pending.clear();
  return {};
}

Status SegmentStore::put(const void* bytes, size_t count) {
  m_check = checkOf(m_check, bytes, count);
  m_pending.append(static_cast<const char*>(bytes), count);
  return m_pending.size() < kPendingBytes ? Status() : flush();
}

template <typename Value> Status SegmentStore::putValue(const Value& value) {
  return put(&value, sizeof value);
}

Status SegmentStore::begin(size_t segment) {
  m_part.reset();
  auto part = PartFile::create(pathOf(segment));
  if (!part) return tl::unexpected(part.error());
  part->setWhenFull(m_whenFull);
  m_part = std::make_unique<PartFile>(std::move(*part));
  m_pending.clear();
  m_lost.clear();
  m_check = 0;
  return put(m_head.data(), m_head.size());
}

Status SegmentStore::add(const AVPacket& packet) {
  if (const Status done = putValue(Mark::Packet); !done) return done;
  const PacketHead head{packet.pts, packet.dts, uint32_t(packet.flags), uint32_t(packet.size)};
  if (const Status done = putValue(head); !done) return done;
  return put(packet.data, size_t(packet.size));
}

Status SegmentStore::add(const PictureTrace& trace, int64_t frames) {
  if (!m_traced) return {};
  if (const Status done = putValue(Mark::Trace); !done) return done;
  if (const Status done = putValue(frames); !done) return done;
  const std::vector<uint8_t> bytes = trace.packed();
  return put(bytes.data(), bytes.size());
}

Status SegmentStore::finish(const Spending::State& spent) {
  for (const LostPictures& lost : m_lost) {
    if (const Status done = putValue(Mark::Lost); !done) return done;
    if (const Status done = putValue(lost); !done) return done;
  }
  if (const Status done = putValue(Mark::End); !done) return done;
  if (const Status done = putValue(spent); !done) return done;
  const uint32_t check = m_check;
  if (const Status done = putValue(check); !done) return done;
  if (const Status done = flush(); !done) return done;
  const Status named = m_part->takeFinalName(true);
  m_part.reset();
  return named;
}

} // namespace tromb
