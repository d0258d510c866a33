// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "time/FrameRate.h"

#include <memory>
#include <vector>

namespace tromb {

/// When each frame of a source is shown, counted from its first frame: a constant rate, or a table of times
/// for a variable one. Immutable value, thread-safe.
class FrameClock {
public:
  FrameClock() = default;
  /// Constant rate, `frameCount` ≥ 0 frames.
  FrameClock(const FrameRate& rate, int64_t frameCount);
  /// Variable rate: `ticks` are ascending times in units of `tick` seconds, the first is 0; `average` is for display.
  FrameClock(std::vector<int64_t> ticks, const Rational& tick, const FrameRate& average);

  [[nodiscard]] const FrameRate& rate() const { return m_rate; } ///< exact, or the average when variable
  [[nodiscard]] bool variable() const { return m_ticks != nullptr; }
  [[nodiscard]] int64_t frameCount() const { return m_count; }
  [[nodiscard]] Rational timeOf(int64_t frame) const; ///< seconds; frame in [0, frameCount)
  /// The frame nearest to `seconds`, ties to the earlier, within [0, frameCount − 1].
  [[nodiscard]] int64_t nearest(const Rational& seconds) const;
  /// As `nearest` but one past the end is allowed: where a cut at `seconds` falls, in [0, frameCount].
  [[nodiscard]] int64_t cutAt(const Rational& seconds) const;

private:
  FrameRate m_rate;
  int64_t m_count = 0;
  Rational m_tick{1, 1};
  std::shared_ptr<const std::vector<int64_t>> m_ticks;
};

} // namespace tromb
