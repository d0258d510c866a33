// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "Message.h"
#include "time/FrameClock.h"

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

/// "1 in 6 dropped"; of a variable rate, which has no cadence, "each until the next is due".
[[nodiscard]] Message cadenceWords(const FrameClock& source, const FrameRate& deliverable,
                                   const Rational& speed = Rational(1));
/// The same with both rates: "29.97 shown at 25: 1 in 6 dropped".
[[nodiscard]] Message cadenceText(const FrameClock& source, const FrameRate& deliverable,
                                  const Rational& speed = Rational(1));

} // namespace tromb
