// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <array>
#include <string_view>

namespace tromb {

/// Colour labels of a picture: code points of Rec. ITU-T H.273; 2 = unspecified.
struct ColourTags {
  int primaries = 2;
  int transfer = 2;
  int matrix = 2;
  bool fullRange = false;
  friend bool operator==(const ColourTags&, const ColourTags&) = default;
};

/// The code points of H.273 that Tromb reckons with.
inline constexpr int kPrimaries709 = 1;
inline constexpr int kPrimaries2020 = 9;
inline constexpr int kTransfer709 = 1;
inline constexpr int kTransferPq = 16;
inline constexpr int kTransferHlg = 18;
inline constexpr int kMatrixRgb = 0;
inline constexpr int kMatrix709 = 1;
inline constexpr int kMatrix2020 = 9;

inline constexpr ColourTags kRec709{kPrimaries709, kTransfer709, kMatrix709, false};
/// Rec. ITU-R BT.2100 with either of its transfer functions.
inline constexpr ColourTags kHlg{kPrimaries2020, kTransferHlg, kMatrix2020, false};
inline constexpr ColourTags kPq{kPrimaries2020, kTransferPq, kMatrix2020, false};

/// What somebody may say of the colours of a source, by the code points of Rec. ITU-T H.273; the range is told apart.
struct ColourClaim {
  std::string_view word; ///< "rec709"
  std::string_view name; ///< "Rec. 709", for people; the same in all languages
  ColourTags tags;
};
inline constexpr std::array<ColourClaim, 5> kColourClaims{{{"rec709", "Rec. 709", {1, 1, 1}},
                                                           {"rec601", "Rec. 601", {6, 6, 6}},
                                                           {"rec2020", "Rec. 2020", {9, 14, 9}},
                                                           {"hlg", "Rec. 2100 HLG", {9, 18, 9}},
                                                           {"pq", "Rec. 2100 PQ", {9, 16, 9}}}};

/// The brightest pixel and the highest mean of a picture, cd/m² (CTA-861.3: MaxCLL and MaxFALL). Zero: not known.
struct ContentLight {
  int most = 0;
  int mostAverage = 0;
  friend bool operator==(const ContentLight&, const ContentLight&) = default;
};

/// Returns true if the transfer function is one of high dynamic range (BT.2100).
[[nodiscard]] constexpr bool isHdr(const ColourTags& tags) {
  return tags.transfer == kTransferPq || tags.transfer == kTransferHlg;
}

} // namespace tromb
