// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

namespace tromb {

inline constexpr int kSoundRate = 48'000; ///< Hz, of all sound inside Tromb

/// How many channels sound has here. Samples are interleaved in the order of Rec. ITU-R BS.775 as files have it: left,
/// right, centre, low frequencies, left surround, right surround.
inline constexpr int kMono = 1;
inline constexpr int kStereo = 2;
inline constexpr int kSurround = 6; ///< 5.1

} // namespace tromb
