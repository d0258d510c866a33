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

std::string Cadence::describe() const {
  static const char* const kTimes[] = {"", "", "doubled", "tripled", "shown four times"};
  const int64_t num = m_ratio.num();
  const int64_t den = m_ratio.den();
  if (num == 1 && den == 1) return "every frame once";
  if (den == 1) return num == 2 ? "every other frame" : "1 frame in " + std::to_string(num);
  if (num == 1) return den <= 4 ? std::string("each ") + kTimes[den] : "each shown " + std::to_string(den) + " times";

  // More frames than slots: some are dropped; fewer: some are doubled.
  const bool dropping = num > den;
  const Rational share = dropping ? Rational(num - den, num) : Rational(den - num, num);
  const char* verb = dropping ? " dropped" : " doubled";
  if (share > Rational(1))
    return "each shown " + std::to_string(den / num) + " or " + std::to_string(den / num + 1) + " times";
  if (share.den() <= 12) return std::to_string(share.num()) + " in " + std::to_string(share.den()) + verb;
  if (share < Rational(2, 5)) return "about 1 in " + std::to_string((Rational(1) / share).nearest()) + verb;
  return "about " + std::to_string((share * Rational(12)).nearest()) + " in 12" + verb;
}

std::string cadenceWords(const FrameClock& source, const FrameRate& deliverable, const Rational& speed) {
  return source.variable() ? "each until the next is due" : Cadence(source.rate(), deliverable, speed).describe();
}

std::string cadenceText(const FrameClock& source, const FrameRate& deliverable, const Rational& speed) {
  return source.rate().name() + (source.variable() ? " (variable)" : "") + " shown at " + deliverable.name() + ": " +
         cadenceWords(source, deliverable, speed);
}

} // namespace tromb
