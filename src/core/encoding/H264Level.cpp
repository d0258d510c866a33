// SPDX-License-Identifier: GPL-3.0-or-later
#include "encoding/H264Level.h"

#include <algorithm>

namespace tromb {

const std::vector<H264Level>& h264Levels() {
  static const std::vector<H264Level> levels{
      {"1", 10, 1485, 99, 396, 64, 175},
      {"1b", 9, 1485, 99, 396, 128, 350},
      {"1.1", 11, 3000, 396, 900, 192, 500},
      {"1.2", 12, 6000, 396, 2376, 384, 1000},
      {"1.3", 13, 11880, 396, 2376, 768, 2000},
      {"2", 20, 11880, 396, 2376, 2000, 2000},
      {"2.1", 21, 19800, 792, 4752, 4000, 4000},
      {"2.2", 22, 20250, 1620, 8100, 4000, 4000},
      {"3", 30, 40500, 1620, 8100, 10000, 10000},
      {"3.1", 31, 108000, 3600, 18000, 14000, 14000},
      {"3.2", 32, 216000, 5120, 20480, 20000, 20000},
      {"4", 40, 245760, 8192, 32768, 20000, 25000},
      {"4.1", 41, 245760, 8192, 32768, 50000, 62500},
      {"4.2", 42, 522240, 8704, 34816, 50000, 62500},
      {"5", 50, 589824, 22080, 110400, 135000, 135000},
      {"5.1", 51, 983040, 36864, 184320, 240000, 240000},
      {"5.2", 52, 2073600, 36864, 184320, 240000, 240000},
      {"6", 60, 4177920, 139264, 696320, 240000, 240000},
      {"6.1", 61, 8355840, 139264, 696320, 480000, 480000},
      {"6.2", 62, 16711680, 139264, 696320, 800000, 800000},
  };
  return levels;
}

const H264Level* levelByName(std::string_view name) {
  if (name.ends_with(".0")) name.remove_suffix(2);
  for (const H264Level& level : h264Levels())
    if (level.name == name) return &level;
  return nullptr;
}

int64_t macroblocks(Size canvas) {
  return int64_t((canvas.width + 15) / 16) * ((canvas.height + 15) / 16);
}

int64_t maxBitRate(const H264Level& level, std::string_view profile) {
  return level.maxBr * (profile == "high" ? 1250 : 1000);
}

int64_t maxBufferBits(const H264Level& level, std::string_view profile) {
  return level.maxCpb * (profile == "high" ? 1250 : 1000);
}

int maxReferences(const H264Level& level, Size canvas) {
  return int(std::min<int64_t>(16, level.maxDpbMbs / macroblocks(canvas)));
}

bool carries(const H264Level& level, Size canvas, const FrameRate& rate, std::string_view profile, int64_t bitRate) {
  const int64_t mbs = macroblocks(canvas);
  const int64_t wide = (canvas.width + 15) / 16;
  const int64_t high = (canvas.height + 15) / 16;
  return mbs <= level.maxFs && wide * wide <= 8 * level.maxFs && high * high <= 8 * level.maxFs &&
         Rational(mbs) * rate.value() <= Rational(level.maxMbps) && bitRate <= maxBitRate(level, profile);
}

const H264Level* lowestLevel(Size canvas, const FrameRate& rate, std::string_view profile, int64_t bitRate) {
  for (const H264Level& level : h264Levels())
    if (level.name != "1b" && carries(level, canvas, rate, profile, bitRate)) return &level;
  return nullptr;
}

} // namespace tromb
