// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "media/SoundFormat.h"
#include "time/FrameRate.h"
#include "time/Ticks.h"

#include <vector>

namespace tromb {

/// The frame of a deliverable that is on screen at a moment; backwards a frame is on screen from its end on. A moment
/// that was carried here from another time may lie a tick before its frame. In [0, frames).
[[nodiscard]] int64_t frameOnScreen(const Rational& moment, bool backwards, const FrameRate& rate, int64_t frames);

/// How the running order passes while somebody watches: from where, in which direction and how fast, between which
/// ends, and whether round and round. Counts in samples of sound, which are what a clock counts. Immutable value,
/// thread-safe.
class WatchRun {
public:
  static constexpr int kMostSpeed = 8;

  /// Times in seconds of the running order: `begin` ≤ `from` ≤ `end`, and `begin` before `end`. `speed` is a whole
  /// number of times the running order's own, in [−kMostSpeed, kMostSpeed] and not 0; below 0 it goes backwards. It
  /// stops at the end that it goes towards, or begins again at the other where it goes `round`.
  WatchRun(const Rational& from, int speed, const Rational& begin, const Rational& end, bool round);

  [[nodiscard]] int speed() const { return m_speed; }
  [[nodiscard]] bool backwards() const { return m_speed < 0; }
  [[nodiscard]] bool round() const { return m_round; }
  /// The moment of the running order after so many samples have been heard, to the tick.
  [[nodiscard]] Rational at(int64_t heard) const;
  /// True where that many samples lead to the end, and it does not go round.
  [[nodiscard]] bool over(int64_t heard) const;
  /// Samples of the mix until the end that it goes towards, after `heard` of them have been heard; at `speed` as many
  /// samples of the mix pass at once.
  [[nodiscard]] int64_t toEnd(int64_t heard) const;
  /// The sample of the mix that is due after so many heard: backwards, the one behind those that are heard next.
  [[nodiscard]] int64_t mixSample(int64_t heard) const {
    return mixSampleAfter(heard * (backwards() ? -m_speed : m_speed));
  }
  /// The same after so many samples of the mix have passed.
  [[nodiscard]] int64_t mixSampleAfter(int64_t passed) const;
  [[nodiscard]] int64_t begin() const { return m_begin; } ///< the first sample of the mix
  [[nodiscard]] int64_t end() const { return m_end; }     ///< the one behind the last

  /// The frame of a deliverable that is on screen after so many samples; backwards a frame is on screen from its end
  /// on. In [0, frames).
  [[nodiscard]] int64_t frameAt(int64_t heard, const FrameRate& rate, int64_t frames) const;
  /// After how many samples the picture is another next, for deliverables at these rates; more than `heard`. Faster
  /// than the running order's own speed, pictures are left out: there are as many a second as the quickest rate has.
  [[nodiscard]] int64_t nextChange(int64_t heard, const std::vector<FrameRate>& rates) const;

private:
  int64_t m_begin; ///< in samples of the mix
  int64_t m_end;
  int64_t m_from;
  int m_speed;
  bool m_round;
};

} // namespace tromb
