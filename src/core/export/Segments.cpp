// SPDX-License-Identifier: GPL-3.0-or-later
#include "export/Segments.h"

#include "io/Descriptor.h"
#include "media/Av.h"

extern "C" {
#include <libavutil/crc.h>
}

#include <algorithm>
#include <cerrno>
#include <cstring>
#include <filesystem>
#include <unistd.h>

namespace tromb {
namespace {

namespace fs = std::filesystem;

const Rational kSegmentSeconds{30};
constexpr double kLeastFull = 0.1;      ///< that an encoder is told, so that its first picture can be one
constexpr double kMadeUpWithin = 60;    ///< seconds
constexpr double kMostMadeUp = 0.5;     ///< of the bit rate
constexpr size_t kPieceBytes = 1 << 20; ///< that are read and written at once

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

/// Goes through a file from its beginning, a piece at a time: a segment may be larger than memory.
class Through {
public:
  explicit Through(Descriptor file) : m_file(std::move(file)), m_size(sizeOf(m_file)) {}
  [[nodiscard]] int64_t size() const { return m_size; }
  /// The next bytes; false where there are not as many.
  [[nodiscard]] bool take(void* to, size_t count) {
    for (auto* out = static_cast<char*>(to); count > 0;) {
      if (m_used == m_piece.size() && !readOn()) return false;
      const size_t now = std::min(count, m_piece.size() - m_used);
      out = std::copy_n(m_piece.data() + m_used, now, out);
      m_used += now;
      count -= now;
    }
    return true;
  }
  template <typename Value> [[nodiscard]] bool take(Value& value) { return take(&value, sizeof value); }
  /// Behind its length.
  [[nodiscard]] bool takeText(std::string& text) {
    uint32_t bytes = 0;
    if (!take(bytes) || int64_t(bytes) > m_size) return false;
    text.resize(bytes);
    return take(text.data(), bytes);
  }

private:
  bool readOn() {
    m_piece.resize(kPieceBytes);
    const ptrdiff_t got = readAt(m_file, m_at, m_piece.data(), m_piece.size());
    m_piece.resize(size_t(std::max<ptrdiff_t>(0, got)));
    m_at += int64_t(m_piece.size());
    m_used = 0;
    return !m_piece.empty();
  }

  Descriptor m_file;
  int64_t m_size;
  int64_t m_at = 0;
  std::string m_piece;
  size_t m_used = 0;
};

/// A file that begins with these bytes, behind them.
std::optional<Through> opened(const std::string& path, const std::string& head) {
  auto file = openToRead(path);
  if (!file) return std::nullopt;
  Through through(std::move(*file));
  std::string is(head.size(), '\0');
  if (!through.take(is.data(), is.size()) || is != head) return std::nullopt;
  return through;
}

} // namespace

SegmentCuts::SegmentCuts(const Plan& plan) : m_frames(plan.frameCount()) {
  const Encoding& e = plan.encoding();
  const bool whole = !e.hasPicture() || e.hasTwoPasses() || e.copies || e.info().loop;
  const int64_t length = std::max<int64_t>(1, plan.rate().frameAt(kSegmentSeconds));
  const int64_t count = whole ? 1 : std::max<int64_t>(1, m_frames / length);
  for (int64_t i = 0; i < count; ++i) m_firsts.push_back(i * length);
  m_hardware = e.hasPicture() && e.hardware;
  m_independent = e.hasPicture() && e.rateControl == RateControl::ConstantQuality && e.maxBitRate <= 0;
}

void SegmentCuts::cutAt(int64_t frame) {
  m_firsts.insert(std::upper_bound(m_firsts.begin(), m_firsts.end(), frame), frame);
}

Spending::Spending(const Encoding& encoding, const FrameRate& rate) : m_rate(rate.value().toDouble()) {
  m_state.full = PictureStream::kFullAtFirst;
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

SegmentStore::SegmentStore(std::string folder, std::string key, Size canvas, WhenFull whenFull)
    : m_folder(std::move(folder)), m_head("tromb segment 4\n" + std::move(key) + "\n"), m_shape(canvas),
      m_whenFull(std::move(whenFull)) {}

Result<SegmentStore> SegmentStore::open(const std::string& folder, std::string key, Size canvas, WhenFull whenFull) {
  std::error_code refused;
  fs::create_directories(folder, refused);
  if (refused) return cannotWrite(folder, refused.value());
  PartFile::sweep(folder);
  return SegmentStore(folder, std::move(key), canvas, std::move(whenFull));
}

std::string segmentPath(const std::string& folder, size_t segment) {
  return folder + "/" + std::to_string(segment) + ".segment";
}

std::optional<SegmentStore::Made> SegmentStore::made(size_t segment) const {
  Made made;
  if (auto head = opened(pathOf(segment), m_head);
      !head || !head->takeText(made.by.encoder) || !head->takeText(made.by.headers))
    return std::nullopt;
  auto through = opened(pathOf(segment), m_head);
  uint32_t check = 0;
  End& end = made.end;
  if (!through || through->size() < int64_t(m_head.size() + sizeof end + sizeof check)) return std::nullopt;
  uint32_t is = checkOf(0, m_head.data(), m_head.size());
  std::string piece;
  for (int64_t left = through->size() - int64_t(m_head.size() + sizeof end + sizeof check); left > 0;) {
    piece.resize(size_t(std::min<int64_t>(left, kPieceBytes)));
    if (!through->take(piece.data(), piece.size())) return std::nullopt;
    is = checkOf(is, piece.data(), piece.size());
    left -= int64_t(piece.size());
  }
  if (!through->take(end) || !through->take(check)) return std::nullopt;
  return checkOf(is, &end, sizeof end) == check ? std::optional(made) : std::nullopt;
}

void SegmentStore::forget(size_t first, size_t end) const {
  std::error_code ignored;
  for (; first < end; ++first) fs::remove(pathOf(first), ignored);
}

Status SegmentStore::replay(size_t segment, const Replay& to) const {
  const auto unreadable = [&] {
    return fail(ErrorCode::Unreadable, say("a part that was finished cannot be read back"), pathOf(segment));
  };
  auto through = opened(pathOf(segment), m_head);
  std::string maker;
  if (!through || !through->takeText(maker) || !through->takeText(maker)) return unreadable();
  av::PacketPtr packet(av::allocated(av_packet_alloc()));
  std::string bytes(m_shape.bytes(), '\0');
  for (;;) {
    Mark mark{};
    if (!through->take(mark)) return unreadable();
    Status taken;
    switch (mark) {
    case Mark::Packet: {
      PacketHead head;
      if (!through->take(head)) return unreadable();
      if (av_new_packet(packet.get(), int(head.bytes)) < 0) throw std::bad_alloc();
      if (!through->take(packet->data, head.bytes)) return unreadable();
      packet->pts = head.pts;
      packet->dts = head.dts;
      packet->flags = int(head.flags);
      packet->duration = 1;
      taken = to.packet(*packet);
      av_packet_unref(packet.get());
      break;
    }
    case Mark::Trace: {
      int64_t frames = 0;
      if (!through->take(frames) || !through->take(bytes.data(), bytes.size())) return unreadable();
      taken = to.trace(PictureTrace::unpacked(bytes, m_shape), frames);
      break;
    }
    case Mark::Lost: {
      LostPictures lost;
      if (!through->take(lost)) return unreadable();
      to.lost(lost);
      break;
    }
    case Mark::End:
      return {};
    }
    if (!taken) return taken;
  }
}

Status SegmentStore::flush() {
  if (!writeAll(m_part->file(), m_pending.data(), m_pending.size())) return cannotWrite(m_folder, errno);
  m_pending.clear();
  return {};
}

Status SegmentStore::put(const void* bytes, size_t count) {
  m_check = checkOf(m_check, bytes, count);
  m_bytes += int64_t(count);
  m_pending.append(static_cast<const char*>(bytes), count);
  return m_pending.size() < kPieceBytes ? Status() : flush();
}

template <typename Value> Status SegmentStore::putValue(const Value& value) {
  return put(&value, sizeof value);
}

Status SegmentStore::begin(size_t segment, const SegmentMaker& maker) {
  m_part.reset();
  auto part = PartFile::create(pathOf(segment));
  if (!part) return tl::unexpected(part.error());
  part->setWhenFull(m_whenFull);
  m_part = std::make_unique<PartFile>(std::move(*part));
  m_pending.clear();
  m_lost.clear();
  m_marked.reset();
  m_bytes = 0;
  m_check = 0;
  if (const Status done = put(m_head.data(), m_head.size()); !done) return done;
  for (const std::string* text : {&maker.encoder, &maker.headers}) {
    if (const Status done = putValue(uint32_t(text->size())); !done) return done;
    if (const Status done = put(text->data(), text->size()); !done) return done;
  }
  return {};
}

Status SegmentStore::add(const AVPacket& packet) {
  if (const Status done = putValue(Mark::Packet); !done) return done;
  const PacketHead head{packet.pts, packet.dts, uint32_t(packet.flags), uint32_t(packet.size)};
  if (const Status done = putValue(head); !done) return done;
  return put(packet.data, size_t(packet.size));
}

Status SegmentStore::add(const PictureTrace& trace, int64_t frames) {
  if (const Status done = putValue(Mark::Trace); !done) return done;
  if (const Status done = putValue(frames); !done) return done;
  const std::vector<uint8_t> bytes = trace.packed();
  return put(bytes.data(), bytes.size());
}

Status SegmentStore::finish(const End& end) {
  for (const LostPictures& lost : m_lost) {
    if (const Status done = putValue(Mark::Lost); !done) return done;
    if (const Status done = putValue(lost); !done) return done;
  }
  if (const Status done = putValue(Mark::End); !done) return done;
  if (const Status done = putValue(end); !done) return done;
  const uint32_t check = m_check;
  if (const Status done = putValue(check); !done) return done;
  if (const Status done = flush(); !done) return done;
  const Status named = m_part->takeFinalName(true);
  m_part.reset();
  return named;
}

void SegmentStore::mark(const End& end) {
  m_marked = {m_bytes, m_check, end};
}

Status SegmentStore::finishAtMark() {
  if (!m_part || !m_marked) {
    m_part.reset();
    return {};
  }
  if (const Status done = flush(); !done) return done;
  const Marked to = *m_marked;
  const int file = m_part->file().get();
  if (ftruncate(file, to.bytes) != 0 || lseek(file, to.bytes, SEEK_SET) < 0) return cannotWrite(m_folder, errno);
  m_check = to.check;
  for (LostPictures& lost : m_lost) lost.count = std::min(lost.count, to.end.frame - lost.first);
  m_lost.erase(std::remove_if(m_lost.begin(), m_lost.end(), [](const LostPictures& lost) { return lost.count <= 0; }),
               m_lost.end());
  return finish(to.end);
}

} // namespace tromb
