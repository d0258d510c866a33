// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "media/read/AudioReader.h"

#include <cstddef>
#include <deque>
#include <vector>

namespace tromb {

/// How far music goes down while there is speech over it. Speech is taken to be where the telephone band (300 to
/// 3400 Hz, ITU-T G.712) stays above −42 dBFS for a tenth of a second; music is 12 dB down then, begins to go down
/// a quarter of a second before, and comes back in 0.8 s after a pause of 0.6 s. The levels and times are house
/// values (common practice, no published source). One thread at a time.
class Ducking {
public:
  static constexpr int64_t kBlockSamples = kSoundRate / 50; ///< 20 ms
  static constexpr double kDownDb = 12;
  static constexpr int64_t kAheadBlocks = 13;
  using Gains = std::vector<float>; ///< linear, one at each block's start and one at the end: blocks + 1

  /// For sound of so many channels, which are listened to as one: as a mix to stereo has them in its middle.
  explicit Ducking(int channels = kStereo);
  /// The next stretch of what may be speech: whole blocks of interleaved samples.
  void listen(const std::vector<float>& samples);
  /// Blocks whose gain can be told: those that lie kAheadBlocks before what was listened to.
  [[nodiscard]] int64_t ready() const { return int64_t(m_speech.size()) - kAheadBlocks; }
  /// Gains of the next `blocks` blocks.
  [[nodiscard]] Gains take(int64_t blocks);

private:
  /// Second-order section, direct form 1 (RBJ's cookbook, Butterworth).
  struct Section {
    double b0, b1, b2, a1, a2;
    double x1 = 0, x2 = 0, y1 = 0, y2 = 0;
    double run(double x);
  };
  [[nodiscard]] static Section section(bool highPass, double hertz);

  std::vector<double> m_weights; ///< of the channels
  Section m_high = section(true, 300);
  Section m_low = section(false, 3400);
  std::deque<bool> m_speech; ///< by block, from the next one that is taken
  int m_loudBlocks = 0;      ///< in a row
  int64_t m_pause = 1'000'000;
  double m_downDb = 0;
};

} // namespace tromb
