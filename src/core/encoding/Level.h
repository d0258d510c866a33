// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "geometry/Rect.h"
#include "time/FrameRate.h"

#include <span>
#include <string_view>

namespace tromb {

/// One level of a standard: what a decoder of that level can take. Luma samples are those of the coded picture.
struct Level {
  std::string_view name; ///< "1b", "3.1", "4"
  int idc;               ///< as it is written in the stream
  int64_t maxRate;       ///< luma samples a second
  int64_t maxPicture;    ///< luma samples of a picture
  int maxWidth;          ///< pixels
  int maxHeight;
  int64_t maxBitRate;      ///< bit/s in the main tier, for a profile of factor 1
  int64_t maxBuffer;       ///< bits of the decoder's buffer, likewise
  int64_t highBitRate = 0; ///< bit/s in the high tier; 0 where there is none
  int64_t highBuffer = 0;
  int64_t maxDpb = 0; ///< luma samples of the decoded picture buffer; 0 where the standard counts pictures
};

/// The levels of one standard, lowest first. Immutable; thread-safe.
class LevelTable {
public:
  enum class Dpb { Samples, HevcSteps, EightSlots };
  LevelTable(std::span<const Level> levels, int block, Dpb dpb) : m_levels(levels), m_block(block), m_dpb(dpb) {}

  [[nodiscard]] std::span<const Level> levels() const { return m_levels; }
  /// Returns the level called "4.1", "4.0" or "4". Returns null if there is none.
  [[nodiscard]] const Level* byName(std::string_view name) const;
  /// Luma samples as coded: both sides rounded up to whole blocks.
  [[nodiscard]] int64_t codedSamples(Size canvas) const;
  /// Pictures that fit the decoded picture buffer.
  [[nodiscard]] int maxReferences(const Level& level, Size canvas) const;

  /// What a stream asks of a level. `bitRate` is the peak in bit/s, `buffer` the decoder's buffer in bits; 0 asks
  /// nothing.
  struct Demand {
    Size canvas;
    FrameRate rate;
    double factor = 1; ///< of the profile
    int64_t bitRate = 0;
    int64_t buffer = 0;
    int references = 0;
    bool highTier = false;
  };
  /// What of a demand is more than a level has; the first of these.
  enum class Bound { None, Picture, Rate, BitRate, Buffer, References };
  [[nodiscard]] Bound exceeded(const Level& level, const Demand& demand) const;
  [[nodiscard]] bool carries(const Level& level, const Demand& demand) const {
    return exceeded(level, demand) == Bound::None;
  }
  /// The lowest level that carries it; null when none does. Levels with a letter in their name are not offered.
  [[nodiscard]] const Level* lowest(const Demand& demand) const;

private:
  std::span<const Level> m_levels;
  int m_block;
  Dpb m_dpb;
};

[[nodiscard]] const LevelTable& h264Levels(); ///< Rec. ITU-T H.264, tables A-1 and A-2
[[nodiscard]] const LevelTable& hevcLevels(); ///< Rec. ITU-T H.265, tables A.8 and A.9
[[nodiscard]] const LevelTable& vp9Levels();  ///< the level table of the WebM project, as libvpx has it
[[nodiscard]] const LevelTable& av1Levels();  ///< AV1 Bitstream & Decoding Process Specification, annex A.3

} // namespace tromb
