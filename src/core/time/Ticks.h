// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "time/FrameRate.h"

namespace tromb {

/// What the running order counts in: 1/705 600 000 s. A frame of every named rate, of the families of 1000 and of 1001
/// both, and a sample at 44.1, 48 and 96 kHz are whole numbers of it, and 64 bits hold four hundred years. Sums of
/// fractions with free denominators overflow after a few shots; sums of ticks do not.
inline constexpr int64_t kTicksASecond = 705'600'000;

/// The nearest tick, halves down. Throws std::overflow_error beyond 64 bits.
[[nodiscard]] inline int64_t ticksOf(const Rational& seconds) {
  return Rational::nearestProduct(seconds, Rational(kTicksASecond));
}

/// The longest of all times in a project, in seconds: three years.
inline const Rational kLongest{100'000'000};

[[nodiscard]] inline Rational secondsOf(int64_t ticks) {
  return {ticks, kTicksASecond};
}

/// `seconds` to the nearest tick. Times that come from free fractions are rounded so once, where they enter the running
/// order, and are safe in sums from then on.
[[nodiscard]] inline Rational onTick(const Rational& seconds) {
  return secondsOf(ticksOf(seconds));
}

} // namespace tromb
