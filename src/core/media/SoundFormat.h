// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

namespace tromb {

inline constexpr int kSoundRate = 48'000; ///< Hz, of everything that leaves Tromb
inline constexpr int kSoundChannels = 2;

} // namespace tromb
