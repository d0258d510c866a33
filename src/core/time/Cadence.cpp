// SPDX-License-Identifier: GPL-3.0-or-later
#include "time/Cadence.h"

#include <algorithm>
#include <cstdio>

namespace tromb {
namespace {

const Rational kNearlyOne{1, 500}; ///< of a rate, by which another may differ to be meant for it

} // namespace

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
  if (source.variable()) return say("each until the next is due");
  const Cadence cadence(source.rate(), deliverable, speed);
  // Rates that are nearly one, as those of the two families are: what is amiss is seen too seldom to be told as a
  // share.
  const Rational apart = cadence.ratio() - Rational(1);
  const Rational size = apart < Rational(0) ? Rational(0) - apart : apart;
  if (size == Rational(0) || size > kNearlyOne) return cadence.describe();
  const int64_t seconds = Rational::nearestProduct(Rational(1) / size, deliverable.frameDuration());
  return apart < Rational(0) ? say("one frame every %1 s doubled", seconds)
                             : say("one frame every %1 s dropped", seconds);
}

std::string speedText(const Rational& speed) {
  char text[32];
  std::snprintf(text, sizeof text, "%.4g %%", speed.toDouble() * 100);
  return text;
}

Message paceText(const TimeMap& time) {
  if (time.held()) return say("held");
  const auto [least, most] = time.speeds();
  const bool own = least == Rational(1) && most == Rational(1);
  if (own) return time.reversed() ? say("backwards") : Message();
  const Message speed =
      least == most ? say("%1", speedText(least)) : say("%1 to %2", speedText(least), speedText(most));
  return time.reversed() ? say("%1, backwards", speed) : speed;
}

Message cadenceText(const FrameClock& source, const FrameRate& deliverable, const TimeMap& time, bool fields) {
  if (time.held()) return say("one picture, held");
  const Message shot = fields ? say("%1 fields", source.rate().name()) : verbatim(source.rate().name());
  if (source.variable())
    return say("%1 (variable) shown at %2: %3", shot, deliverable.name(), cadenceWords(source, deliverable));
  const auto [least, most] = time.speeds();
  const Message words = cadenceWords(source, deliverable, least);
  if (least == most && least == Rational(1)) return say("%1 shown at %2: %3", shot, deliverable.name(), words);
  if (least == most) return say("%1 at %2, shown at %3: %4", shot, speedText(least), deliverable.name(), words);
  return say("%1 shown at %2, from %3 to %4: from %5 to %6", shot, deliverable.name(), speedText(least),
             speedText(most), words, cadenceWords(source, deliverable, most));
}

} // namespace tromb
