// SPDX-License-Identifier: GPL-3.0-or-later
#include "time/FrameMap.h"

#include "time/Cadence.h"

#include <algorithm>
#include <utility>

namespace tromb {
namespace {

__extension__ using Wide = __int128;

/// The whole part of a · b and what is over, in [0, 1); exact also where a · b is no fraction of 64 bits.
std::pair<int64_t, double> partsOfProduct(const Rational& a, const Rational& b) {
  const Wide numerator = Wide(a.num()) * b.num();
  const Wide denominator = Wide(a.den()) * b.den();
  Wide whole = numerator / denominator;
  if (numerator < whole * denominator) --whole;
  return {int64_t(whole), double(numerator - whole * denominator) / double(denominator)};
}

} // namespace

FrameMap::FrameMap(const TimeMap& time, const FrameClock& clock, const FrameRate& rate, Treatment treatment)
    : m_time(time), m_clock(clock), m_rate(rate), m_treatment(treatment) {
  if (clock.frameCount() <= 1) return;
  // A picture that begins where the shot does, give or take the rounding of its times, is its first.
  const Rational tick(1, kTicksASecond);
  m_first = clock.variable() ? clock.onScreen(time.in() + tick) : clock.nearest(time.in());
  const int64_t end = clock.variable() ? clock.firstFrom(time.out() - tick) : clock.cutAt(time.out());
  m_end = std::max(m_first + 1, end);
}

int64_t FrameMap::within(int64_t frame) const {
  return std::clamp(frame, m_first, m_end - 1);
}

ShownFrames FrameMap::shown(int64_t n) const {
  if (m_treatment == Treatment::Mixed) return between(n);
  if (m_treatment == Treatment::Interpolated) {
    ShownFrames shown = between(n);
    shown.interpolated = shown.nextShare > 0;
    return shown;
  }
  const int64_t frame = nearest(n);
  return {frame, frame, 0};
}

int64_t FrameMap::nearest(int64_t n) const {
  if (m_time.held()) return m_first;
  const auto speed = m_time.speed();
  const Rational since = m_rate.timeOf(n);
  if (m_clock.variable()) {
    const Rational half =
        secondsOf(Rational::nearestProduct(m_rate.frameDuration(), m_time.speedAt(since) * Rational(kTicksASecond, 2)));
    const Rational moment = m_time.sourceTime(since);
    return within(m_time.reversed() ? m_clock.onScreen(moment - half) : m_clock.onScreen(moment, half));
  }
  const int64_t passed = speed ? Cadence(m_clock.rate(), m_rate, *speed).sourceFrame(n)
                               : Rational::nearestProduct(m_time.passed(since), m_clock.rate().value());
  return within(m_time.reversed() ? m_end - 1 - passed : m_first + passed);
}

ShownFrames FrameMap::between(int64_t n) const {
  const auto alone = [](int64_t frame) { return ShownFrames{frame, frame, 0}; };
  if (m_time.held()) return alone(m_first);
  const auto speed = m_time.speed();
  const Rational since = m_rate.timeOf(n);
  ShownFrames shown;
  if (m_clock.variable()) {
    const Rational moment = m_time.sourceTime(since);
    const int64_t before = m_clock.onScreen(moment);
    if (before < m_first) return alone(m_first);
    if (before + 1 >= m_end) return alone(m_end - 1);
    const Rational begins = m_clock.timeOf(before);
    const Rational lasts = m_clock.timeOf(before + 1) - begins;
    const double share = lasts > Rational(0) ? (moment.toDouble() - begins.toDouble()) / lasts.toDouble() : 0;
    shown = {before, before + 1, std::clamp(share, 0.0, 1.0)};
  } else {
    // Counted in frames from the beginning of the shot.
    const auto [passed, over] = speed ? partsOfProduct(Rational(n), Cadence(m_clock.rate(), m_rate, *speed).ratio())
                                      : partsOfProduct(m_time.passed(since), m_clock.rate().value());
    const int direction = m_time.reversed() ? -1 : 1;
    const int64_t begin = m_time.reversed() ? m_end - 1 : m_first;
    shown = {within(begin + direction * passed), within(begin + direction * (passed + 1)), over};
  }
  if (shown.nextShare >= 1) return alone(shown.next);
  return shown.nextShare > 0 && shown.next != shown.frame ? shown : alone(shown.frame);
}

} // namespace tromb
