// SPDX-License-Identifier: GPL-3.0-or-later
#include "copy/CodedUnits.h"

#include <algorithm>

namespace tromb {
namespace {

constexpr int kSequenceSet = 7; ///< H.264, table 7-1
constexpr int kPictureSet = 8;
constexpr size_t kMostSetBytes = 0xFFFF; ///< that the length of a parameter set can say
constexpr size_t kConfigurationHead = 5; ///< bytes of AVCDecoderConfigurationRecord before its lists

int h264Type(std::span<const uint8_t> unit) {
  return unit.empty() ? 0 : unit[0] & 0x1F;
}
int h265Type(std::span<const uint8_t> unit) {
  return unit.empty() ? 0 : (unit[0] >> 1) & 0x3F;
}

/// Reads what lies in a unit of H.264 bit by bit, without the bytes that keep start codes from standing in it (7.4.1).
class UnitBits {
public:
  explicit UnitBits(std::span<const uint8_t> unit) {
    int zeros = 0;
    for (const uint8_t byte : unit) {
      const bool guard = zeros >= 2 && byte == 3;
      zeros = byte == 0 ? zeros + 1 : 0;
      if (!guard) m_bytes.push_back(byte);
    }
  }
  [[nodiscard]] bool good() const { return m_at <= 8 * m_bytes.size(); }
  unsigned bits(int count) {
    unsigned value = 0;
    for (; count > 0; --count, ++m_at)
      value = value << 1 | (m_at < 8 * m_bytes.size() ? unsigned(m_bytes[m_at / 8] >> (7 - m_at % 8)) & 1U : 0U);
    return value;
  }
  /// Unsigned and signed Exp-Golomb numbers (9.1).
  unsigned number() {
    int zeros = 0;
    while (zeros < 31 && good() && bits(1) == 0) ++zeros;
    return (1U << zeros) - 1 + bits(zeros);
  }
  int signedNumber() {
    const unsigned code = number();
    return code % 2 ? int((code + 1) / 2) : -int(code / 2);
  }

private:
  std::vector<uint8_t> m_bytes;
  size_t m_at = 0;
};

/// Passes a scaling list (7.3.2.1.1.1).
void passScalingList(UnitBits& bits, int size) {
  int next = 8;
  for (int i = 0; i < size && next != 0 && bits.good(); ++i)
    next = int((unsigned(next) + unsigned(bits.signedNumber())) % 256U);
}

std::optional<SequenceSet> sequenceSet(std::span<const uint8_t> unit) {
  UnitBits bits(unit);
  (void)bits.bits(8); // the unit's head
  const unsigned profile = bits.bits(8);
  (void)bits.bits(16); // what it keeps to, and its level
  SequenceSet set;
  set.number = int(bits.number());
  constexpr unsigned kWithChroma[] = {100, 110, 122, 244, 44, 83, 86, 118, 128, 138, 139, 134, 135};
  if (std::find(std::begin(kWithChroma), std::end(kWithChroma), profile) != std::end(kWithChroma)) {
    const unsigned chroma = bits.number();
    if (chroma == 3) (void)bits.bits(1); // planes apart
    (void)bits.number();                 // depth of luma and of chroma
    (void)bits.number();
    (void)bits.bits(1);
    if (bits.bits(1) == 1)
      for (int list = 0; list < (chroma == 3 ? 12 : 8); ++list)
        if (bits.bits(1) == 1) passScalingList(bits, list < 6 ? 16 : 64);
  }
  (void)bits.number(); // log2_max_frame_num_minus4
  const unsigned order = bits.number();
  if (order == 0) (void)bits.number();
  if (order == 1) {
    (void)bits.bits(1);
    (void)bits.signedNumber();
    (void)bits.signedNumber();
    for (unsigned left = bits.number(); left > 0 && bits.good(); --left) (void)bits.signedNumber();
  }
  set.references = int(bits.number());
  if (!bits.good() || set.number < 0 || set.number > 31 || set.references < 0 || set.references > 16) return {};
  return set;
}

/// The lists of parameter sets in AVCDecoderConfigurationRecord (ISO/IEC 14496-15, 5.3.3.1.2), and what follows them.
struct Configuration {
  std::vector<std::span<const uint8_t>> sequence;
  std::vector<std::span<const uint8_t>> picture;
  std::span<const uint8_t> rest;
};

std::optional<Configuration> configurationOf(std::span<const uint8_t> headers) {
  if (headers.size() < kConfigurationHead + 2) return {};
  Configuration c;
  std::span<const uint8_t> left = headers.subspan(kConfigurationHead);
  for (const int mask : {0x1F, 0xFF}) {
    if (left.empty()) return {};
    int count = left[0] & mask;
    left = left.subspan(1);
    for (; count > 0; --count) {
      if (left.size() < 2) return {};
      const size_t size = size_t(left[0]) << 8 | left[1];
      if (left.size() < 2 + size) return {};
      (mask == 0x1F ? c.sequence : c.picture).push_back(left.subspan(2, size));
      left = left.subspan(2 + size);
    }
  }
  c.rest = left;
  return c;
}

std::string_view textOf(std::span<const uint8_t> bytes) {
  return {reinterpret_cast<const char*>(bytes.data()), bytes.size()};
}

} // namespace

std::optional<UnitFraming> unitFraming(std::string_view codec, std::span<const uint8_t> headers) {
  const bool record = headers.size() > 4 && headers[0] == 1; // configurationVersion; Annex B begins with a zero
  if (codec == "h264") return UnitFraming{record ? (headers[4] & 3) + 1 : 0};
  if (codec == "hevc") return UnitFraming{record && headers.size() > 22 ? (headers[21] & 3) + 1 : 0};
  return {};
}

std::vector<std::span<const uint8_t>> unitsOf(std::span<const uint8_t> packet, UnitFraming framing) {
  std::vector<std::span<const uint8_t>> units;
  if (framing.lengthBytes > 0) {
    const auto head = size_t(framing.lengthBytes);
    while (packet.size() > head) {
      size_t size = 0;
      for (size_t i = 0; i < head; ++i) size = size << 8 | packet[i];
      if (size > packet.size() - head) break;
      units.push_back(packet.subspan(head, size));
      packet = packet.subspan(head + size);
    }
    return units;
  }
  constexpr uint8_t kStart[] = {0, 0, 1};
  auto at = std::search(packet.begin(), packet.end(), std::begin(kStart), std::end(kStart));
  while (at != packet.end()) {
    const auto begin = at + 3;
    at = std::search(begin, packet.end(), std::begin(kStart), std::end(kStart));
    auto end = at;
    while (end != begin && *(end - 1) == 0) --end; // the long start code, and zeros behind a unit
    units.emplace_back(begin, end);
  }
  return units;
}

std::string framed(const std::vector<std::span<const uint8_t>>& units, UnitFraming framing) {
  std::string out;
  for (const auto& unit : units) {
    if (framing.lengthBytes == 0) out.append("\0\0\0\1", 4);
    for (int i = framing.lengthBytes - 1; i >= 0; --i) out.push_back(char(unit.size() >> (8 * i)));
    out += textOf(unit);
  }
  return out;
}

Entry entryOf(std::string_view codec, std::span<const uint8_t> packet, UnitFraming framing) {
  for (const auto& unit : unitsOf(packet, framing)) {
    if (codec == "h264") {
      const int type = h264Type(unit);
      if (type == 5) return Entry::Clean; // IDR
      if (type == 1) return Entry::Open;  // a slice of another picture: there is no more than a recovery point
    } else {
      const int type = h265Type(unit);
      if (type >= 16 && type <= 20) return Entry::Clean; // BLA, IDR
      if (type == 21) return Entry::Open;                // CRA
      if (type < 16) return Entry::None;
    }
  }
  return Entry::None;
}

std::vector<SequenceSet> sequenceSets(std::span<const uint8_t> headers, UnitFraming framing) {
  std::vector<std::span<const uint8_t>> units;
  if (framing.lengthBytes == 0)
    units = unitsOf(headers, framing);
  else if (const auto configuration = configurationOf(headers))
    units = configuration->sequence;
  std::vector<SequenceSet> sets;
  for (const auto& unit : units)
    if (h264Type(unit) == kSequenceSet)
      if (const auto set = sequenceSet(unit)) sets.push_back(*set);
  return sets;
}

std::optional<std::string> withSets(std::span<const uint8_t> headers, UnitFraming framing,
                                    std::span<const uint8_t> more) {
  const std::vector<std::span<const uint8_t>> added = unitsOf(more, {});
  if (framing.lengthBytes == 0) {
    std::vector<std::span<const uint8_t>> all = unitsOf(headers, {});
    for (const auto& unit : added)
      if (h264Type(unit) == kSequenceSet || h264Type(unit) == kPictureSet) all.push_back(unit);
    return framed(all, {});
  }
  auto configuration = configurationOf(headers);
  if (!configuration) return {};
  for (const auto& unit : added) {
    if (h264Type(unit) == kSequenceSet) configuration->sequence.push_back(unit);
    if (h264Type(unit) == kPictureSet) configuration->picture.push_back(unit);
  }
  if (configuration->sequence.size() > 0x1F || configuration->picture.size() > 0xFF) return {};
  for (const auto* sets : {&configuration->sequence, &configuration->picture})
    if (std::any_of(sets->begin(), sets->end(), [](const auto& set) { return set.size() > kMostSetBytes; })) return {};
  std::string made(textOf(headers.first(kConfigurationHead)));
  made.push_back(char(0xE0U | configuration->sequence.size()));
  for (const auto& set : configuration->sequence) made += framed({set}, {2});
  made.push_back(char(configuration->picture.size()));
  for (const auto& set : configuration->picture) made += framed({set}, {2});
  return made + std::string(textOf(configuration->rest));
}

} // namespace tromb
