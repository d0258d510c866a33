// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "time/FrameClock.h"

namespace tromb {

/// A constant rate that was made from a slower one by repeating pictures in a fixed cycle: 24 of 60 shows one picture
/// twice and the next three times, 25 of 50 each twice. Immutable value, thread-safe.
struct Repeats {
  static constexpr int kMostCycle = 16;
  int cycle = 2;      ///< frames, in [2, kMostCycle]
  uint32_t fresh = 1; ///< bit n: the frames n of the cycles, from the file's first frame on, are others than those
                      ///< before them; at least one bit and fewer than `cycle`
  friend bool operator==(const Repeats&, const Repeats&) = default;

  /// True if the values are within their ranges.
  [[nodiscard]] bool valid() const;
  /// When the pictures come where each is counted once: the rate that they were made from. Of a constant clock.
  [[nodiscard]] FrameClock clockOf(const FrameClock& file) const;
  /// The frame at which a picture first comes; picture ≥ 0. A repetition at the file's beginning whose picture was cut
  /// away counts as one if it lasts for half as long as others do.
  [[nodiscard]] int64_t frameOf(int64_t picture) const;
  /// The last picture that has come by a frame; frame ≥ 0.
  [[nodiscard]] int64_t pictureAt(int64_t frame) const;

private:
  [[nodiscard]] int kept() const; ///< pictures of a cycle
  [[nodiscard]] int lead() const; ///< 1 where the first picture is a repetition that counts
};

} // namespace tromb
