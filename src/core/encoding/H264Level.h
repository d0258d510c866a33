// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "geometry/Rect.h"
#include "time/FrameRate.h"

#include <string>
#include <string_view>
#include <vector>

namespace tromb {

/// One row of ITU-T H.264 Table A-1.
struct H264Level {
  std::string_view name; ///< "1b", "3.1", "4"
  int idc;               ///< level_idc as High profile writes it: 10 × level; 9 for 1b
  int64_t maxMbps;       ///< macroblocks a second
  int64_t maxFs;         ///< macroblocks a frame
  int64_t maxDpbMbs;     ///< macroblocks in the decoded picture buffer
  int64_t maxBr;         ///< units of factor(profile) bit/s
  int64_t maxCpb;        ///< units of factor(profile) bits
};

/// Table A-1, lowest level first.
[[nodiscard]] const std::vector<H264Level>& h264Levels();
/// Returns the level called "4.1", "4.0" or "4". Returns null if there is none.
[[nodiscard]] const H264Level* levelByName(std::string_view name);

/// Macroblocks of a frame: ⌈w/16⌉ · ⌈h/16⌉.
[[nodiscard]] int64_t macroblocks(Size canvas);
/// Largest VCL bit rate of a level in bit/s: MaxBR × 1000, × 1250 for High (Table A-2).
[[nodiscard]] int64_t maxBitRate(const H264Level& level, std::string_view profile);
[[nodiscard]] int64_t maxBufferBits(const H264Level& level, std::string_view profile);
/// Reference frames that fit the decoded picture buffer: min(16, ⌊MaxDpbMbs / macroblocks⌋).
[[nodiscard]] int maxReferences(const H264Level& level, Size canvas);

/// Returns true if the level carries size and rate (frame size, side ≤ √(8·MaxFS), macroblock rate) and, when
/// `bitRate` > 0, that peak bit rate.
[[nodiscard]] bool carries(const H264Level& level, Size canvas, const FrameRate& rate, std::string_view profile,
                           int64_t bitRate);
/// The lowest level that carries them, null when none does. Levels 1b and below 1 are not offered.
[[nodiscard]] const H264Level* lowestLevel(Size canvas, const FrameRate& rate, std::string_view profile = "high",
                                           int64_t bitRate = 0);

} // namespace tromb
