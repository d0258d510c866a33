// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <cstdint>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace tromb {

/// How the units (NAL units) of H.264 and H.265 lie in packets.
struct UnitFraming {
  /// Bytes of the length before each (ISO/IEC 14496-15); 0: behind start codes (Rec. ITU-T H.264 and H.265, annex B).
  int lengthBytes = 0;
};

/// As a stream's headers say it. Nothing for other codecs. `codec` is FFmpeg's name.
[[nodiscard]] std::optional<UnitFraming> unitFraming(std::string_view codec, std::span<const uint8_t> headers);

/// The units of a packet, in order; what is damaged at its end is left out. They point into `packet`.
[[nodiscard]] std::vector<std::span<const uint8_t>> unitsOf(std::span<const uint8_t> packet, UnitFraming framing);

/// Units laid behind each other as `framing` says. Of start codes the long one is used.
[[nodiscard]] std::string framed(const std::vector<std::span<const uint8_t>>& units, UnitFraming framing);

/// How a picture can be entered.
enum class Entry {
  None,
  Clean, ///< what follows leans on nothing before it: IDR, BLA
  Open,  ///< pictures before it in time may lean on what lies before it: CRA, or a recovery point
};
/// Of a packet of H.264 or H.265.
[[nodiscard]] Entry entryOf(std::string_view codec, std::span<const uint8_t> packet, UnitFraming framing);

/// A sequence parameter set of H.264 (Rec. ITU-T H.264, 7.3.2.1.1).
struct SequenceSet {
  int number = 0;     ///< seq_parameter_set_id
  int references = 1; ///< max_num_ref_frames
};
/// Those in a stream's headers; damaged ones are left out.
[[nodiscard]] std::vector<SequenceSet> sequenceSets(std::span<const uint8_t> headers, UnitFraming framing);

/// The headers of a stream of H.264 with the parameter sets of another, which has numbers of its own, added: both can
/// stand in one stream (ISO/IEC 14496-15, 5.3.3.1). `more` lies behind start codes. Nothing where they cannot be read.
[[nodiscard]] std::optional<std::string> withSets(std::span<const uint8_t> headers, UnitFraming framing,
                                                  std::span<const uint8_t> more);

} // namespace tromb
