// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "Message.h"
#include "time/FrameClock.h"
#include "time/TimeMap.h"

namespace tromb {

/// Which source frames a deliverable's frames come from, at constant rates.
class Cadence {
public:
  /// `speed` is how many seconds of source pass in a second of deliverable (> 0).
  Cadence(const FrameRate& source, const FrameRate& deliverable, const Rational& speed = Rational(1));

  /// Source frames passed per deliverable frame.
  [[nodiscard]] const Rational& ratio() const { return m_ratio; }

  /// The source frame shown as deliverable frame n of a shot, both counted from the shot's in point:
  /// k = ⌈n·Rs/R − ½⌉, the nearest in time, ties to the earlier. Exact over hours.
  [[nodiscard]] int64_t sourceFrame(int64_t n) const;

  /// The first n that shows a source frame ≥ k, that is the inverse of sourceFrame.
  [[nodiscard]] int64_t firstFrameShowing(int64_t k) const;

  /// In the trade's words: "every frame once", "every other frame", "1 in 6 dropped", "each doubled".
  /// Ratios without small numbers are given as "about 1 in 24 doubled".
  [[nodiscard]] Message describe() const;

  /// Returns true if motion stays even: every frame once, or each kept or repeated a whole number of times.
  [[nodiscard]] bool even() const { return m_ratio.num() == 1 || m_ratio.den() == 1; }

private:
  Rational m_ratio;
};

/// "1 in 6 dropped", "one frame every 17 s doubled" (59.94 at 60); of a variable rate "each until the next is due".
[[nodiscard]] Message cadenceWords(const FrameClock& source, const FrameRate& deliverable,
                                   const Rational& speed = Rational(1));
/// The same of a shot, whose clock is that of its fields where they are shown one by one, with both rates: "29.97 shown
/// at 25: 1 in 6 dropped". Of a held picture it says so; at another speed that is told: "25 at 50 %, shown at 25: each
/// doubled"; where it changes, both ends are told: "25 shown at 25, from 50 % to 200 %: from each doubled to every
/// other frame".
[[nodiscard]] Message cadenceText(const FrameClock& source, const FrameRate& deliverable, const TimeMap& time,
                                  bool fields = false);
/// How a shot passes, empty where it does as its source: "50 %", "backwards", "50 %, backwards", "held",
/// "50 % to 200 %".
[[nodiscard]] Message paceText(const TimeMap& time);
/// "50 %", "37.5 %".
[[nodiscard]] std::string speedText(const Rational& speed);

} // namespace tromb
