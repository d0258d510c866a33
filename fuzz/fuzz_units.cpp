// SPDX-License-Identifier: GPL-3.0-or-later
// Headers and packets of H.264 and H.265, as a film that is cut may have them: whatever they are, what is read of them
// lies inside them. The first byte says how they are laid out, the second how many bytes are headers.
#include "Input.h"
#include "media/CodedUnits.h"

#include <algorithm>

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* data, size_t size) {
  using namespace tromb;
  if (size < 2) return 0;
  const UnitFraming framing{data[0] % 5};
  const char* codec = data[0] & 0x80 ? "hevc" : "h264";
  const std::span<const uint8_t> all(data + 2, size - 2);
  const std::span<const uint8_t> headers = all.first(std::min<size_t>(data[1], all.size()));
  const std::span<const uint8_t> packet = all.subspan(headers.size());
  (void)unitFraming(codec, headers);
  size_t bytes = 0;
  for (const auto& unit : unitsOf(packet, framing)) {
    fuzz::hold(unit.empty() ||
               (unit.data() >= packet.data() && unit.data() + unit.size() <= packet.data() + packet.size()));
    bytes += unit.size();
  }
  fuzz::hold(bytes <= packet.size());
  (void)entryOf(codec, packet, framing);
  for (const SequenceSet& set : sequenceSets(codec, headers, framing))
    fuzz::hold(set.number >= 0 && set.number < 32 && set.references >= 0 && set.references <= 16);
  const auto numbers = freeNumbers(codec, headers, framing);
  if (const auto other = renumbered(codec, packet, numbers.value_or(SetNumbers{1, 1, 15}))) {
    const std::span<const uint8_t> more = bytesIn(*other);
    fuzz::hold(unitsOf(more, {}).size() == unitsOf(packet, {}).size());
    (void)withSets(codec, headers, framing, more);
  }
  return 0;
}
