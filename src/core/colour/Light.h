// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "colour/CanvasFormat.h"
#include "colour/ColourTags.h"

#include <array>

namespace tromb {

/// Red, green and blue: signals from 0 to 1, or light in cd/m², as each function says.
using Rgb = std::array<double, 3>;

/// Luminance of reference white in high dynamic range, cd/m² (Report ITU-R BT.2408, 2.1).
inline constexpr double kReferenceWhite = 203;
/// Nominal peak luminance of an HLG display, cd/m², at which its system gamma is 1.2 (BT.2100, table 5).
inline constexpr double kHlgPeak = 1000;
inline constexpr double kPqPeak = 10'000;

/// SMPTE ST 2084 and BT.2100, table 4: from a PQ signal to luminance in cd/m², and back.
[[nodiscard]] double pqLight(double signal);
[[nodiscard]] double pqSignal(double light);
/// BT.2100, table 5: from an HLG signal to the light of the scene, 0 to 1, and back.
[[nodiscard]] double hlgScene(double signal);
[[nodiscard]] double hlgSignal(double scene);

/// Linear light of BT.709 primaries in BT.2020 primaries (Rec. ITU-R BT.2087, 2), and back; colours outside become
/// negative.
[[nodiscard]] Rgb to2020(const Rgb& light709);
[[nodiscard]] Rgb to709(const Rgb& light2020);
/// The share of red, green and blue in luma: of BT.709 (item 3.2), or of BT.2100 (table 6), whose luminance has the
/// same.
[[nodiscard]] const Rgb& lumaWeights(const ColourTags& tags);
/// Luminance of linear light of BT.2020 primaries.
[[nodiscard]] double luminance2020(const Rgb& light);

/// Light on the reference display in cd/m², in the primaries of the tags, of a signal. BT.709: BT.1886 with white at
/// kReferenceWhite; HLG: with the system gamma of a display of kHlgPeak; PQ as it is.
[[nodiscard]] Rgb displayLight(const Rgb& signal, const ColourTags& tags);
/// The inverse; what cannot be shown is clipped.
[[nodiscard]] Rgb displaySignal(const Rgb& light, const ColourTags& tags);

/// The tone curve of Report ITU-R BT.2390, 5.4: maps luminance below `sourcePeak` to at most `targetPeak`, both in
/// cd/m², and leaves the darker part as it is; where the target has room for all, only what is beyond it is cut off.
/// Black is 0 in both.
[[nodiscard]] double toneMapped(double light, double sourcePeak, double targetPeak);

/// A signal of one colour system in another, as it looks on the reference display: tones above the target's peak are
/// mapped by the tone curve with their hue kept, and colours outside its gamut are desaturated at equal luminance until
/// they are inside. `sourcePeak` in cd/m² is the brightest that the source is mastered for.
[[nodiscard]] Rgb convertedSignal(const Rgb& signal, const ColourTags& from, const ColourTags& to, double sourcePeak);

/// Code values of the three planes of a canvas with luma, not rounded.
using Codes = std::array<double, 3>;
/// A colour of BT.709, as signals from 0 to 1, in the codes of a canvas (BT.709, item 3; BT.2100, tables 6 and 9). In
/// high dynamic range its white is reference white.
[[nodiscard]] Codes codesOf(const Rgb& signal709, const CanvasFormat& format);

} // namespace tromb
