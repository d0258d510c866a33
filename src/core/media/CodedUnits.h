// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <cstdint>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace tromb {

/// How the units (NAL units) of H.264 and H.265 lie in packets. In all of this file `codec` is FFmpeg's name of one of
/// the two, "h264" or "hevc".
struct UnitFraming {
  /// Bytes of the length before each (ISO/IEC 14496-15); 0: behind start codes (Rec. ITU-T H.264 and H.265, annex B).
  int lengthBytes = 0;
};

/// Bytes that are kept as text.
[[nodiscard]] inline std::span<const uint8_t> bytesIn(const std::string& text) {
  return {reinterpret_cast<const uint8_t*>(text.data()), text.size()};
}

/// As a stream's headers say it. Nothing for other codecs.
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
[[nodiscard]] Entry entryOf(std::string_view codec, std::span<const uint8_t> packet, UnitFraming framing);

/// A sequence parameter set (Rec. ITU-T H.264, 7.3.2.1.1; Rec. ITU-T H.265, 7.3.2.2.1).
struct SequenceSet {
  int number = 0;     ///< seq_parameter_set_id or sps_seq_parameter_set_id
  int references = 1; ///< max_num_ref_frames, or sps_max_dec_pic_buffering_minus1 of all layers in time
  // Of H.265 alone, with the largest of all layers in time:
  int reordered = 0;   ///< sps_max_num_reorder_pics
  int leastUnit = 0;   ///< luma samples of a side of the smallest coding block, MinCbSizeY
  int largestUnit = 0; ///< of the largest, CtbSizeY
};
/// Those in a stream's headers; damaged ones are left out.
[[nodiscard]] std::vector<SequenceSet> sequenceSets(std::string_view codec, std::span<const uint8_t> headers,
                                                    UnitFraming framing);

/// The parameter sets in a stream's headers, behind start codes. Nothing where the headers are damaged.
[[nodiscard]] std::optional<std::string> setsIn(std::string_view codec, std::span<const uint8_t> headers,
                                                UnitFraming framing);
/// A parameter set of the stream that decoders of one layer look at.
[[nodiscard]] bool isParameterSet(std::string_view codec, std::span<const uint8_t> unit);
/// Says in a key picture of H.265 that what it leans on in its order is not there (CRA becomes BLA_N_LP, Rec. ITU-T
/// H.265, table 7-1), so that decoders begin anew with it and show what they still hold.
void breakLink(std::span<uint8_t> packet, UnitFraming framing);

/// The numbers that an encoder's parameter sets bear, where there is one of each kind.
struct SetNumbers {
  int video = 0; ///< of H.265 alone
  int sequence = 0;
  int picture = 0;
};
/// Numbers that no parameter set in a stream's headers bears, for the sets of another encoder. The one of the picture
/// set takes nine bits to write where 0 takes one: what follows it in a slice then moves by a whole byte. Nothing where
/// the headers cannot be read, or all are taken.
[[nodiscard]] std::optional<SetNumbers> freeNumbers(std::string_view codec, std::span<const uint8_t> headers,
                                                    UnitFraming framing);
/// Units behind start codes, parameter sets or pictures, of an encoder whose sets all bear the number 0, with other
/// numbers, which are of freeNumbers. Nothing where they cannot be read, or bear another number.
[[nodiscard]] std::optional<std::string> renumbered(std::string_view codec, std::span<const uint8_t> units,
                                                    const SetNumbers& numbers);

/// The headers of a stream with the parameter sets of another, which have numbers of their own, added: both can stand
/// in one stream (ISO/IEC 14496-15, 5.3.3.1 and 8.3.3.1). `more` lies behind start codes. Nothing where they cannot be
/// read.
[[nodiscard]] std::optional<std::string> withSets(std::string_view codec, std::span<const uint8_t> headers,
                                                  UnitFraming framing, std::span<const uint8_t> more);

} // namespace tromb
