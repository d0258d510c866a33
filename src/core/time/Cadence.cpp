// SPDX-License-Identifier: GPL-3.0-or-later
#include "time/Cadence.h"

#include <algorithm>

namespace tromb {

Cadence::Cadence(const FrameRate& source, const FrameRate& deliverable, const Rational& speed)
    : m_ratio(source.value() * speed / deliverable.value()) {}

int64_t Cadence::sourceFrame(int64_t n) const {
  return Rational::nearestProduct(Rational(n), m_ratio);
}

int64_t Cadence::firstFrameShowing(int64_t k) const {
  // ⌈n·r − ½⌉ ≥ k  ⇔  n·r − ½ > k − 1  ⇔  n > (k − ½)/r
  // ⌊x⌋ + 1 = ⌈(x + ½) − ½⌉ for all x but whole ones, which sourceFrame tells apart.
  int64_t n = std::max<int64_t>(0, Rational::nearestProduct(Rational(2 * k - 1, 2), Rational(1) / m_ratio));
  while (n > 0 && sourceFrame(n - 1) >= k) --n;
  while (sourceFrame(n) < k) ++n;
  return n;
}

Message Cadence::describe() const {
  const int64_t num = m_ratio.num();
  const int64_t den = m_ratio.den();
  if (num == 1 && den == 1) return say("every frame once");
  if (den == 1) return num == 2 ? say("every other frame") : say("1 frame in %1", num);
  if (num == 1) {
    if (den == 2) return say("each doubled");
    if (den == 3) return say("each tripled");
    return den == 4 ? say("each shown four times") : say("each shown %1 times", den);
  }

  // More frames than slots: some are dropped; fewer: some are doubled.
  const bool dropping = num > den;
  const Rational share = dropping ? Rational(num - den, num) : Rational(den - num, num);
  if (share > Rational(1)) return say("each shown %1 or %2 times", den / num, den / num + 1);
  const bool exact = share.den() <= 12;
  const bool few = share < Rational(2, 5);
  const int64_t of = exact ? share.den() : few ? (Rational(1) / share).nearest() : 12;
  const int64_t count = exact ? share.num() : few ? 1 : (share * Rational(12)).nearest();
  if (exact) return dropping ? say("%1 in %2 dropped", count, of) : say("%1 in %2 doubled", count, of);
  return dropping ? say("about %1 in %2 dropped", count, of) : say("about %1 in %2 doubled", count, of);
}

Message cadenceWords(const FrameClock& source, const FrameRate& deliverable, const Rational& speed) {
  return source.variable() ? say("each until the next is due") : Cadence(source.rate(), deliverable, speed).describe();
}

Message cadenceText(const FrameClock& source, const FrameRate& deliverable, const Rational& speed) {
  const Message words = cadenceWords(source, deliverable, speed);
  const std::string shot = source.rate().name();
  return source.variable() ? say("%1 (variable) shown at %2: %3", shot, deliverable.name(), words)
                           : say("%1 shown at %2: %3", shot, deliverable.name(), words);
}

} // namespace tromb
