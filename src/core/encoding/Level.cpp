// SPDX-License-Identifier: GPL-3.0-or-later
#include "encoding/Level.h"

#include <algorithm>
#include <array>
#include <cmath>

namespace tromb {
namespace {

/// A row of H.264, which counts in macroblocks and thousands of bits. Each side is at most √(8 · MaxFS) macroblocks.
Level h264(std::string_view name, int idc, int64_t mbps, int64_t fs, int64_t dpb, int64_t br, int64_t cpb) {
  constexpr int kSide = 16;
  const int side = kSide * int(std::sqrt(double(8 * fs)));
  return {name, idc, mbps * kSide * kSide, fs * kSide * kSide, side, side, br * 1000, cpb * 1000,
          0,    0,   dpb * kSide * kSide};
}

/// A row of H.265: luma samples, thousands of bits. Each side is at most √(8 · MaxLumaPs); but for level 1 the buffer
/// holds a second.
Level hevc(std::string_view name, int idc, int64_t ps, int64_t sr, int64_t br, int64_t high, int64_t cpb = 0) {
  const int side = int(std::sqrt(8.0 * double(ps)));
  return {name, idc, sr, ps, side, side, br * 1000, (cpb > 0 ? cpb : br) * 1000, high * 1000, high * 1000};
}

/// A row of VP9: luma samples, the longer side, thousands of bits.
Level vp9(std::string_view name, int idc, int64_t sr, int64_t ps, int side, int64_t br, int64_t cpb) {
  return {name, idc, sr, ps, side, side, br * 1000, cpb * 1000};
}

/// A row of AV1: samples, both sides, samples shown a second, hundreds of thousands of bits. The buffer holds a second.
Level av1(std::string_view name, int idc, int64_t ps, int width, int height, int64_t sr, int64_t br, int64_t high = 0) {
  constexpr int64_t kUnit = 100'000;
  return {name, idc, sr, ps, width, height, br * kUnit, br * kUnit, high * kUnit, high * kUnit};
}

} // namespace

const Level* LevelTable::byName(std::string_view name) const {
  const auto bare = [](std::string_view n) { return n.ends_with(".0") ? n.substr(0, n.size() - 2) : n; };
  for (const Level& level : m_levels)
    if (bare(level.name) == bare(name)) return &level;
  return nullptr;
}

int64_t LevelTable::codedSamples(Size canvas) const {
  const auto whole = [this](int pixels) { return int64_t((pixels + m_block - 1) / m_block) * m_block; };
  return whole(canvas.width) * whole(canvas.height);
}

int LevelTable::maxReferences(const Level& level, Size canvas) const {
  const int64_t samples = codedSamples(canvas);
  switch (m_dpb) {
  case Dpb::Samples: // H.264, A.3.1
    return int(std::min<int64_t>(16, level.maxDpb / samples));
  case Dpb::HevcSteps: // H.265, A.4.2
    return samples <= level.maxPicture / 4       ? 16
           : samples <= level.maxPicture / 2     ? 12
           : samples <= level.maxPicture * 3 / 4 ? 8
                                                 : 6;
  default:
    return 8;
  }
}

LevelTable::Bound LevelTable::exceeded(const Level& level, const Demand& d) const {
  const int64_t samples = codedSamples(d.canvas);
  const int64_t bitRate = d.highTier ? level.highBitRate : level.maxBitRate;
  const int64_t buffer = d.highTier ? level.highBuffer : level.maxBuffer;
  const auto whole = [this](int pixels) { return (pixels + m_block - 1) / m_block * m_block; };
  if (samples > level.maxPicture || whole(d.canvas.width) > level.maxWidth || whole(d.canvas.height) > level.maxHeight)
    return Bound::Picture;
  if (Rational(samples) * d.rate.value() > Rational(level.maxRate)) return Bound::Rate;
  if (double(d.bitRate) > double(bitRate) * d.factor) return Bound::BitRate;
  if (double(d.buffer) > double(buffer) * d.factor) return Bound::Buffer;
  if (d.references > 0 && d.references > maxReferences(level, d.canvas)) return Bound::References;
  return Bound::None;
}

const Level* LevelTable::lowest(const Demand& demand) const {
  for (const Level& level : m_levels)
    if (level.name != "1b" && carries(level, demand)) return &level;
  return nullptr;
}

const LevelTable& h264Levels() {
  static const std::array rows{
      h264("1", 10, 1485, 99, 396, 64, 175),
      h264("1b", 9, 1485, 99, 396, 128, 350),
      h264("1.1", 11, 3000, 396, 900, 192, 500),
      h264("1.2", 12, 6000, 396, 2376, 384, 1000),
      h264("1.3", 13, 11880, 396, 2376, 768, 2000),
      h264("2", 20, 11880, 396, 2376, 2000, 2000),
      h264("2.1", 21, 19800, 792, 4752, 4000, 4000),
      h264("2.2", 22, 20250, 1620, 8100, 4000, 4000),
      h264("3", 30, 40500, 1620, 8100, 10000, 10000),
      h264("3.1", 31, 108000, 3600, 18000, 14000, 14000),
      h264("3.2", 32, 216000, 5120, 20480, 20000, 20000),
      h264("4", 40, 245760, 8192, 32768, 20000, 25000),
      h264("4.1", 41, 245760, 8192, 32768, 50000, 62500),
      h264("4.2", 42, 522240, 8704, 34816, 50000, 62500),
      h264("5", 50, 589824, 22080, 110400, 135000, 135000),
      h264("5.1", 51, 983040, 36864, 184320, 240000, 240000),
      h264("5.2", 52, 2073600, 36864, 184320, 240000, 240000),
      h264("6", 60, 4177920, 139264, 696320, 240000, 240000),
      h264("6.1", 61, 8355840, 139264, 696320, 480000, 480000),
      h264("6.2", 62, 16711680, 139264, 696320, 800000, 800000),
  };
  static const LevelTable table(rows, 16, LevelTable::Dpb::Samples);
  return table;
}

const LevelTable& hevcLevels() {
  static const std::array rows{
      hevc("1", 30, 36864, 552960, 128, 0, 350),
      hevc("2", 60, 122880, 3686400, 1500, 0),
      hevc("2.1", 63, 245760, 7372800, 3000, 0),
      hevc("3", 90, 552960, 16588800, 6000, 0),
      hevc("3.1", 93, 983040, 33177600, 10000, 0),
      hevc("4", 120, 2228224, 66846720, 12000, 30000),
      hevc("4.1", 123, 2228224, 133693440, 20000, 50000),
      hevc("5", 150, 8912896, 267386880, 25000, 100000),
      hevc("5.1", 153, 8912896, 534773760, 40000, 160000),
      hevc("5.2", 156, 8912896, 1069547520, 60000, 240000),
      hevc("6", 180, 35651584, 1069547520, 60000, 240000),
      hevc("6.1", 183, 35651584, 2139095040, 120000, 480000),
      hevc("6.2", 186, 35651584, 4278190080, 240000, 800000),
  };
  constexpr int kSmallestBlock = 8; // of x265
  static const LevelTable table(rows, kSmallestBlock, LevelTable::Dpb::HevcSteps);
  return table;
}

const LevelTable& vp9Levels() {
  static const std::array rows{
      vp9("1", 10, 829440, 36864, 512, 200, 400),
      vp9("1.1", 11, 2764800, 73728, 768, 800, 1000),
      vp9("2", 20, 4608000, 122880, 960, 1800, 1500),
      vp9("2.1", 21, 9216000, 245760, 1344, 3600, 2800),
      vp9("3", 30, 20736000, 552960, 2048, 7200, 6000),
      vp9("3.1", 31, 36864000, 983040, 2752, 12000, 10000),
      vp9("4", 40, 83558400, 2228224, 4160, 18000, 16000),
      vp9("4.1", 41, 160432128, 2228224, 4160, 30000, 18000),
      vp9("5", 50, 311951360, 8912896, 8384, 60000, 36000),
      vp9("5.1", 51, 588251136, 8912896, 8384, 120000, 46000),
      vp9("5.2", 52, 1176502272, 8912896, 8384, 180000, 90000),
      vp9("6", 60, 1176502272, 35651584, 16832, 180000, 90000),
      vp9("6.1", 61, 2353004544, 35651584, 16832, 240000, 180000),
      vp9("6.2", 62, 4706009088, 35651584, 16832, 480000, 360000),
  };
  static const LevelTable table(rows, 1, LevelTable::Dpb::EightSlots);
  return table;
}

const LevelTable& av1Levels() {
  static const std::array rows{
      av1("2.0", 0, 147456, 2048, 1152, 4423680, 15),
      av1("2.1", 1, 278784, 2816, 1584, 8363520, 30),
      av1("3.0", 4, 665856, 4352, 2448, 19975680, 60),
      av1("3.1", 5, 1065024, 5504, 3096, 31950720, 100),
      av1("4.0", 8, 2359296, 6144, 3456, 70778880, 120, 300),
      av1("4.1", 9, 2359296, 6144, 3456, 141557760, 200, 500),
      av1("5.0", 12, 8912896, 8192, 4352, 267386880, 300, 1000),
      av1("5.1", 13, 8912896, 8192, 4352, 534773760, 400, 1600),
      av1("5.2", 14, 8912896, 8192, 4352, 1069547520, 600, 2400),
      av1("5.3", 15, 8912896, 8192, 4352, 1069547520, 600, 2400),
      av1("6.0", 16, 35651584, 16384, 8704, 1069547520, 600, 2400),
      av1("6.1", 17, 35651584, 16384, 8704, 2139095040, 1000, 4800),
      av1("6.2", 18, 35651584, 16384, 8704, 4278190080, 1600, 8000),
      av1("6.3", 19, 35651584, 16384, 8704, 4278190080, 1600, 8000),
  };
  static const LevelTable table(rows, 1, LevelTable::Dpb::EightSlots);
  return table;
}

} // namespace tromb
