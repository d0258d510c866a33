// SPDX-License-Identifier: GPL-3.0-or-later
#include "media/CodedUnits.h"

#include <algorithm>
#include <array>
#include <set>
#include <utility>

namespace tromb {
namespace {

/// Types of units: H.264, table 7-1; H.265, table 7-1.
struct UnitTypes {
  int video; ///< -1: there are none
  int sequence;
  int picture;
};
UnitTypes typesOf(std::string_view codec) {
  return codec == "hevc" ? UnitTypes{32, 33, 34} : UnitTypes{-1, 7, 8};
}
constexpr int kMostSequence[] = {32, 16}; ///< numbers of sequence sets, of H.264 (7.4.2.1.1) and H.265 (7.4.3.2.1)
constexpr int kMostVideo = 16;            ///< H.265, 7.4.3.1
constexpr int kNineBits[] = {15, 31};     ///< numbers that Exp-Golomb writes in nine bits: from, and behind the last
constexpr size_t kMostSetBytes = 0xFFFF;  ///< that the length of a parameter set can say
constexpr size_t kAvcHead = 5;            ///< bytes of AVCDecoderConfigurationRecord before its lists
constexpr size_t kHevcHead = 22;          ///< of HEVCDecoderConfigurationRecord
constexpr int kCra = 21;                  ///< H.265, table 7-1
constexpr int kBrokenLink = 18;           ///< BLA_N_LP
constexpr size_t kGeneralBits = 88;       ///< of profile_tier_level before the level (H.265, 7.3.3)

/// -1 for what is of a layer that decoders of one layer pass over.
int typeOf(std::string_view codec, std::span<const uint8_t> unit) {
  if (codec != "hevc") return unit.empty() ? 0 : unit[0] & 0x1F;
  const bool base = unit.size() > 1 && (unit[0] & 1) == 0 && unit[1] >> 3 == 0;
  return base ? (unit[0] >> 1) & 0x3F : -1;
}

/// Reads what lies in a unit bit by bit, without the bytes that keep start codes from standing in it (7.4.1).
class UnitBits {
public:
  explicit UnitBits(std::span<const uint8_t> unit) {
    m_bytes.reserve(unit.size());
    int zeros = 0;
    for (const uint8_t byte : unit) {
      const bool guard = zeros >= 2 && byte == 3;
      zeros = byte == 0 ? zeros + 1 : 0;
      if (!guard) m_bytes.push_back(byte);
    }
  }
  [[nodiscard]] bool good() const { return m_at <= size(); }
  [[nodiscard]] size_t size() const { return 8 * m_bytes.size(); }
  [[nodiscard]] size_t at() const { return m_at; }
  [[nodiscard]] const std::vector<uint8_t>& bytes() const { return m_bytes; }
  unsigned bits(int count) {
    unsigned value = 0;
    for (; count > 0; --count, ++m_at)
      value = value << 1 | (m_at < size() ? unsigned(m_bytes[m_at / 8] >> (7 - m_at % 8)) & 1U : 0U);
    return value;
  }
  void pass(size_t count) { m_at += count; }
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

/// Writes a unit bit by bit.
class UnitWriter {
public:
  void bits(unsigned value, int count) {
    while (count-- > 0) {
      if (m_at % 8 == 0) m_bytes.push_back(0);
      m_bytes.back() = uint8_t(m_bytes.back() | ((value >> count) & 1U) << (7 - m_at % 8));
      ++m_at;
    }
  }
  void number(unsigned value) {
    int length = 0;
    while ((value + 1) >> (length + 1)) ++length;
    bits(0, length);
    bits(value + 1, length + 1);
  }
  /// Bits of another unit, up to `end`.
  void copy(UnitBits& from, size_t end) {
    while (from.at() < end && (m_at % 8 != 0 || from.at() % 8 != 0)) bits(from.bits(1), 1);
    if (from.at() < end) { // whole bytes, of which a slice has many
      const size_t whole = (end - from.at()) / 8;
      const auto begin = from.bytes().begin() + ptrdiff_t(from.at() / 8);
      m_bytes.insert(m_bytes.end(), begin, begin + ptrdiff_t(whole));
      m_at += 8 * whole;
      from.pass(8 * whole);
    }
    while (from.at() < end) bits(from.bits(1), 1);
  }
  /// With the bytes that keep start codes from standing in it.
  [[nodiscard]] std::string guarded() const {
    std::string out;
    out.reserve(m_bytes.size() + 16);
    int zeros = 0;
    for (const uint8_t byte : m_bytes) {
      if (zeros >= 2 && byte <= 3) {
        out.push_back(3);
        zeros = 0;
      }
      zeros = byte == 0 ? zeros + 1 : 0;
      out.push_back(char(byte));
    }
    if (zeros > 0) out.push_back(3);
    return out;
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

std::optional<SequenceSet> sequenceSetOfAvc(std::span<const uint8_t> unit) {
  UnitBits bits(unit);
  bits.pass(8); // the unit's head
  const unsigned profile = bits.bits(8);
  bits.pass(16); // what it keeps to, and its level
  SequenceSet set;
  set.number = int(bits.number());
  constexpr unsigned kWithChroma[] = {100, 110, 122, 244, 44, 83, 86, 118, 128, 138, 139, 134, 135};
  if (std::find(std::begin(kWithChroma), std::end(kWithChroma), profile) != std::end(kWithChroma)) {
    const unsigned chroma = bits.number();
    if (chroma == 3) bits.pass(1); // planes apart
    (void)bits.number();           // depth of luma and of chroma
    (void)bits.number();
    bits.pass(1);
    if (bits.bits(1) == 1)
      for (int list = 0; list < (chroma == 3 ? 12 : 8); ++list)
        if (bits.bits(1) == 1) passScalingList(bits, list < 6 ? 16 : 64);
  }
  (void)bits.number(); // log2_max_frame_num_minus4
  const unsigned order = bits.number();
  if (order == 0) (void)bits.number();
  if (order == 1) {
    bits.pass(1);
    (void)bits.signedNumber();
    (void)bits.signedNumber();
    for (unsigned left = bits.number(); left > 0 && bits.good(); --left) (void)bits.signedNumber();
  }
  set.references = int(bits.number());
  if (!bits.good()) return {};
  return set;
}

/// Passes what is said of profiles and levels (H.265, 7.3.3), for so many layers in time beside the lowest.
void passProfiles(UnitBits& bits, unsigned more) {
  bits.pass(kGeneralBits + 8);
  std::vector<std::pair<bool, bool>> present;
  for (unsigned i = 0; i < more; ++i) {
    const bool profile = bits.bits(1) == 1;
    present.emplace_back(profile, bits.bits(1) == 1);
  }
  if (more > 0) bits.pass(2 * (8 - more));
  for (const auto& [profile, level] : present) bits.pass((profile ? kGeneralBits : 0) + (level ? 8 : 0));
}

/// Passes what lies before the number of a sequence set of H.265.
void passToNumber(UnitBits& bits) {
  bits.pass(16 + 4); // the unit's head, the number of the video set
  const unsigned more = bits.bits(3);
  bits.pass(1);
  passProfiles(bits, more);
}

std::optional<SequenceSet> sequenceSetOfHevc(std::span<const uint8_t> unit) {
  UnitBits bits(unit);
  const unsigned more = unit.size() > 2 ? (unit[2] >> 1) & 7U : 0;
  passToNumber(bits);
  SequenceSet set;
  set.number = int(bits.number());
  if (bits.number() == 3) bits.pass(1); // planes apart
  (void)bits.number();                  // width and height
  (void)bits.number();
  if (bits.bits(1) == 1) // cropping
    for (int side = 0; side < 4; ++side) (void)bits.number();
  for (int i = 0; i < 3; ++i) (void)bits.number(); // depths, log2_max_pic_order_cnt_lsb_minus4
  const bool each = bits.bits(1) == 1;
  for (unsigned layer = each ? 0 : more; layer <= more; ++layer) {
    set.references = int(bits.number());
    set.reordered = int(bits.number());
    (void)bits.number();
  }
  constexpr unsigned kMostLog = 6; // 7.4.3.2.1
  const unsigned least = bits.number() + 3;
  const unsigned largest = least + bits.number();
  if (!bits.good() || least > kMostLog || largest > kMostLog) return {};
  set.leastUnit = 1 << least;
  set.largestUnit = 1 << largest;
  return set;
}

std::optional<SequenceSet> sequenceSet(std::string_view codec, std::span<const uint8_t> unit) {
  const bool hevc = codec == "hevc";
  const auto set = hevc ? sequenceSetOfHevc(unit) : sequenceSetOfAvc(unit);
  if (!set || set->number < 0 || set->number >= kMostSequence[hevc] || set->references < 0 || set->references > 16)
    return {};
  return set;
}

/// The lists of parameter sets that a container keeps (ISO/IEC 14496-15, 5.3.3.1.2 and 8.3.3.1.2), and what lies before
/// and behind them.
struct Configuration {
  struct List {
    uint8_t head = 0; ///< of H.265: the type of its units, and whether all of them are here
    std::vector<std::span<const uint8_t>> units;
  };
  std::span<const uint8_t> head;
  std::vector<List> lists; ///< of H.264: sequence sets, picture sets
  std::span<const uint8_t> rest;
};

/// Takes a big-endian number off the front; nothing where there is none.
std::optional<size_t> take(std::span<const uint8_t>& left, int bytes) {
  if (left.size() < size_t(bytes)) return {};
  size_t value = 0;
  for (int i = 0; i < bytes; ++i) value = value << 8 | left[size_t(i)];
  left = left.subspan(size_t(bytes));
  return value;
}

std::optional<Configuration> configurationOf(std::string_view codec, std::span<const uint8_t> headers) {
  const bool hevc = codec == "hevc";
  const size_t head = hevc ? kHevcHead : kAvcHead;
  if (headers.size() < head) return {};
  Configuration c;
  c.head = headers.first(head);
  std::span<const uint8_t> left = headers.subspan(head);
  const auto lists = hevc ? take(left, 1) : std::optional<size_t>(2);
  if (!lists) return {};
  for (size_t list = 0; list < *lists; ++list) {
    Configuration::List read;
    if (hevc) {
      const auto type = take(left, 1);
      if (!type) return {};
      read.head = uint8_t(*type);
    }
    auto count = take(left, hevc ? 2 : 1);
    if (!count) return {};
    if (!hevc && list == 0) *count &= 0x1F;
    for (; *count > 0; --*count) {
      const auto size = take(left, 2);
      if (!size || left.size() < *size) return {};
      read.units.push_back(left.first(*size));
      left = left.subspan(*size);
    }
    c.lists.push_back(std::move(read));
  }
  c.rest = left;
  return c;
}

std::string_view textOf(std::span<const uint8_t> bytes) {
  return {reinterpret_cast<const char*>(bytes.data()), bytes.size()};
}

/// The parameter sets in a stream's headers; nothing where these are damaged.
std::optional<std::vector<std::span<const uint8_t>>> setUnits(std::string_view codec, std::span<const uint8_t> headers,
                                                              UnitFraming framing) {
  if (framing.lengthBytes == 0) return unitsOf(headers, framing);
  const auto configuration = configurationOf(codec, headers);
  if (!configuration) return {};
  std::vector<std::span<const uint8_t>> units;
  for (const auto& list : configuration->lists) units.insert(units.end(), list.units.begin(), list.units.end());
  return units;
}

size_t headBits(std::string_view codec) {
  return codec == "hevc" ? 16 : 8;
}

/// Where the rest of a set ends: behind its closing bit (7.3.2.11).
size_t setEnd(const UnitBits& bits) {
  size_t end = bits.size();
  while (end > 0 && ((bits.bytes()[(end - 1) / 8] >> (7 - (end - 1) % 8)) & 1) == 0) --end;
  return end;
}

std::optional<std::string> renumberedUnit(std::string_view codec, std::span<const uint8_t> unit,
                                          const SetNumbers& numbers) {
  const UnitTypes types = typesOf(codec);
  const bool hevc = codec == "hevc";
  const int type = typeOf(codec, unit);
  UnitBits bits(unit);
  UnitWriter out;
  // A number is 0 so far.
  const auto replace = [&](int number) {
    if (bits.number() != 0) return false;
    out.number(unsigned(number));
    return true;
  };
  if (type >= 0 && type == types.video) {
    out.copy(bits, 16);
    if (bits.bits(4) != 0) return {};
    out.bits(unsigned(numbers.video), 4);
  } else if (type == types.sequence) {
    UnitBits before(unit);
    if (hevc)
      passToNumber(before);
    else
      before.pass(32); // the unit's head, profile, what it keeps to, level
    if (!before.good()) return {};
    out.copy(bits, hevc ? 16 : 32);
    if (hevc) {
      if (bits.bits(4) != 0) return {};
      out.bits(unsigned(numbers.video), 4);
      out.copy(bits, before.at());
    }
    if (!replace(numbers.sequence)) return {};
  } else if (type == types.picture) {
    out.copy(bits, headBits(codec));
    if (!replace(numbers.picture) || !replace(numbers.sequence)) return {};
  } else if (hevc ? type >= 0 && type < 32 : type == 1 || type == 5) { // slices (7.3.3 and 7.3.6.1)
    UnitBits before(unit);
    before.pass(headBits(codec));
    if (hevc)
      before.pass(type >= 16 && type <= 23 ? 2 : 1);
    else
      for (int i = 0; i < 2; ++i) (void)before.number(); // its first macroblock, its type
    if (!before.good()) return {};
    out.copy(bits, before.at());
    if (!replace(numbers.picture)) return {};
    out.copy(bits, bits.size()); // whose bytes stay bytes
    return bits.good() ? std::optional(out.guarded()) : std::nullopt;
  } else {
    return std::string(textOf(unit));
  }
  out.copy(bits, setEnd(bits));
  return bits.good() ? std::optional(out.guarded()) : std::nullopt;
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
    const int type = typeOf(codec, unit);
    if (codec == "h264") {
      if (type == 5) return Entry::Clean; // IDR
      if (type == 1) return Entry::Open;  // a slice of another picture: there is no more than a recovery point
    } else {
      if (type >= 16 && type <= 20) return Entry::Clean; // BLA, IDR
      if (type == 21) return Entry::Open;                // CRA
      if (type >= 0 && type < 16) return Entry::None;
    }
  }
  return Entry::None;
}

std::vector<SequenceSet> sequenceSets(std::string_view codec, std::span<const uint8_t> headers, UnitFraming framing) {
  std::vector<SequenceSet> sets;
  for (const auto& unit : setUnits(codec, headers, framing).value_or(std::vector<std::span<const uint8_t>>()))
    if (typeOf(codec, unit) == typesOf(codec).sequence)
      if (const auto set = sequenceSet(codec, unit)) sets.push_back(*set);
  return sets;
}

bool isParameterSet(std::string_view codec, std::span<const uint8_t> unit) {
  const int type = typeOf(codec, unit);
  const UnitTypes types = typesOf(codec);
  return type >= 0 && (type == types.video || type == types.sequence || type == types.picture);
}

std::optional<std::string> setsIn(std::string_view codec, std::span<const uint8_t> headers, UnitFraming framing) {
  auto units = setUnits(codec, headers, framing);
  if (!units) return {};
  units->erase(
      std::remove_if(units->begin(), units->end(), [&](const auto& unit) { return !isParameterSet(codec, unit); }),
      units->end());
  return framed(*units, {});
}

void breakLink(std::span<uint8_t> packet, UnitFraming framing) {
  for (const auto& unit : unitsOf(packet, framing)) {
    uint8_t& head = packet[size_t(unit.data() - packet.data())];
    if (((head >> 1) & 0x3F) == kCra) head = uint8_t((head & 0x81) | (kBrokenLink << 1));
  }
}

std::optional<SetNumbers> freeNumbers(std::string_view codec, std::span<const uint8_t> headers, UnitFraming framing) {
  const auto units = setUnits(codec, headers, framing);
  if (!units) return {};
  const UnitTypes types = typesOf(codec);
  std::array<std::set<int>, 3> taken; // video, sequence, picture
  for (const auto& unit : *units) {
    const int type = typeOf(codec, unit);
    UnitBits bits(unit);
    if (type == types.video) {
      bits.pass(16);
      taken[0].insert(int(bits.bits(4)));
    } else if (type == types.sequence) {
      if (const auto set = sequenceSet(codec, unit)) taken[1].insert(set->number);
    } else if (type == types.picture) {
      bits.pass(headBits(codec));
      taken[2].insert(int(bits.number()));
    }
  }
  const auto free = [](const std::set<int>& numbers, int from, int end) {
    while (from < end && numbers.count(from) > 0) ++from;
    return from < end ? from : -1;
  };
  const SetNumbers numbers{free(taken[0], 0, kMostVideo), free(taken[1], 0, kMostSequence[codec == "hevc"]),
                           free(taken[2], kNineBits[0], kNineBits[1])};
  if (numbers.video < 0 || numbers.sequence < 0 || numbers.picture < 0) return {};
  return numbers;
}

std::optional<std::string> renumbered(std::string_view codec, std::span<const uint8_t> units,
                                      const SetNumbers& numbers) {
  std::vector<std::string> made;
  for (const auto& unit : unitsOf(units, {})) {
    auto each = renumberedUnit(codec, unit, numbers);
    if (!each) return {};
    made.push_back(std::move(*each));
  }
  std::vector<std::span<const uint8_t>> parts;
  for (const std::string& each : made) parts.push_back(bytesIn(each));
  return framed(parts, {});
}

std::optional<std::string> withSets(std::string_view codec, std::span<const uint8_t> headers, UnitFraming framing,
                                    std::span<const uint8_t> more) {
  const UnitTypes types = typesOf(codec);
  std::vector<std::span<const uint8_t>> added;
  for (const auto& unit : unitsOf(more, {}))
    if (isParameterSet(codec, unit)) added.push_back(unit);
  if (framing.lengthBytes == 0) {
    std::vector<std::span<const uint8_t>> all = unitsOf(headers, {});
    all.insert(all.end(), added.begin(), added.end());
    return framed(all, {});
  }
  const bool hevc = codec == "hevc";
  auto configuration = configurationOf(codec, headers);
  if (!configuration) return {};
  auto& lists = configuration->lists;
  for (const auto& unit : added) {
    const int type = typeOf(codec, unit);
    auto list = hevc ? std::find_if(lists.begin(), lists.end(),
                                    [type](const Configuration::List& each) { return (each.head & 0x3F) == type; })
                     : lists.begin() + (type == types.sequence ? 0 : 1);
    if (list == lists.end()) list = lists.insert(lists.end(), {uint8_t(0x80 | type), {}});
    list->units.push_back(unit);
  }
  std::string made(textOf(configuration->head));
  if (hevc) made.push_back(char(lists.size()));
  for (size_t i = 0; i < lists.size(); ++i) {
    const auto& units = lists[i].units;
    const size_t most = hevc ? 0xFFFF : i == 0 ? 0x1F : 0xFF;
    if (units.size() > most ||
        std::any_of(units.begin(), units.end(), [](const auto& unit) { return unit.size() > kMostSetBytes; }))
      return {};
    if (hevc) made += {char(lists[i].head), char(units.size() >> 8)};
    made.push_back(char(!hevc && i == 0 ? 0xE0U | units.size() : units.size()));
    made += framed(units, {2});
  }
  return made + std::string(textOf(configuration->rest));
}

} // namespace tromb
