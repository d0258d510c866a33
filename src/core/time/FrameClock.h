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
  /// Variable rate: `ticks` are ascending times in units of `tick` seconds, the first is 0; equal times are allowed.
  /// `nominal` is for display and for choosing a rate to deliver at.
  FrameClock(std::vector<int64_t> ticks, const Rational& tick, const FrameRate& nominal);
  /// The clock that a file's time stamps mean: a constant rate where all of them keep to one, give or take the rounding
  /// of the file's own clock (one tick, or one millisecond where stamps have passed through a file that counts in
  /// milliseconds), else the table. `ticks` as above, at least one; `declared` are the rates that the file gives of
  /// itself, the most trusted first, and may be empty.
  [[nodiscard]] static FrameClock fromStamps(std::vector<int64_t> ticks, const Rational& tick,
                                             const std::vector<FrameRate>& declared);

  /// Exact; of a variable clock the rate that most of its frames keep, or the average where they keep none.
  [[nodiscard]] const FrameRate& rate() const { return m_rate; }
  [[nodiscard]] bool variable() const { return m_ticks != nullptr; }
  [[nodiscard]] int64_t frameCount() const { return m_count; }
  [[nodiscard]] const std::vector<int64_t>* stamps() const { return m_ticks.get(); } ///< null: the rate is constant
  [[nodiscard]] const Rational& tick() const {
    return m_tick;
  }                                                   ///< The tick in which a variable rate's stamps are counted.
  [[nodiscard]] Rational timeOf(int64_t frame) const; ///< seconds; frame in [0, frameCount)
  [[nodiscard]] Rational duration() const;            ///< seconds; the last frame lasts as long as a nominal one
  /// The frame nearest to `seconds`, ties to the earlier, within [0, frameCount − 1].
  [[nodiscard]] int64_t nearest(const Rational& seconds) const;
  /// The frame that is on screen at `seconds`, within [0, frameCount − 1]: the last that begins at it or before it, or
  /// less than `early` seconds after it. Of frames with equal times it is the last.
  [[nodiscard]] int64_t onScreen(const Rational& seconds, const Rational& early = Rational(0)) const;
  /// As `nearest` but one past the end is allowed: where a cut at `seconds` falls, in [0, frameCount].
  [[nodiscard]] int64_t cutAt(const Rational& seconds) const;
  /// The first frame that begins at `seconds` or later, in [0, frameCount].
  [[nodiscard]] int64_t firstFrom(const Rational& seconds) const;
  /// The frame whose time stamp is `ticks` of `tick` seconds, and the nearest where none is; may be negative or beyond
  /// the last for a constant rate. Of frames with equal times it is the first.
  [[nodiscard]] int64_t frameOfStamp(int64_t ticks, const Rational& tick) const;

private:
  FrameRate m_rate;
  int64_t m_count = 0;
  Rational m_tick{1, 1};
  std::shared_ptr<const std::vector<int64_t>> m_ticks;
};

} // namespace tromb
