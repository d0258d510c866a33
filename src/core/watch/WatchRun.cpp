// SPDX-License-Identifier: GPL-3.0-or-later
#include "watch/WatchRun.h"

#include <algorithm>
#include <cstdlib>
#include <stdexcept>

namespace tromb {
namespace {

/// The first sample that is not before a moment: what is counted in samples never shows the frame before.
int64_t firstSampleAt(const Rational& seconds) {
  return (seconds * Rational(kSoundRate)).ceil();
}

Rational framesAt(int64_t sample, const FrameRate& rate) {
  return Rational(sample, kSoundRate) * rate.value();
}

} // namespace

int64_t frameOnScreen(const Rational& moment, bool backwards, const FrameRate& rate, int64_t frames) {
  const Rational slack = secondsOf(2);
  const int64_t frame =
      backwards ? ((moment - slack) * rate.value()).ceil() - 1 : ((moment + slack) * rate.value()).floor();
  return std::clamp<int64_t>(frame, 0, frames - 1);
}

WatchRun::WatchRun(const Rational& from, int speed, const Rational& begin, const Rational& end, bool round)
    : m_begin(firstSampleAt(begin)), m_end(firstSampleAt(end)), m_from(std::clamp(firstSampleAt(from), m_begin, m_end)),
      m_speed(speed), m_round(round) {
  if (speed == 0 || std::abs(speed) > kMostSpeed || m_end <= m_begin)
    throw std::invalid_argument("nothing to watch between these moments at this speed");
}

int64_t WatchRun::mixSampleAfter(int64_t passed) const {
  const int64_t at = backwards() ? m_from - passed : m_from + passed;
  const int64_t length = m_end - m_begin;
  if (!backwards() && at >= m_end) return m_round ? m_begin + (at - m_end) % length : m_end;
  if (backwards() && at <= m_begin) return m_round ? m_end - (m_begin - at) % length : m_begin;
  return at;
}

Rational WatchRun::at(int64_t heard) const {
  return {mixSample(heard), kSoundRate};
}

int64_t WatchRun::toEnd(int64_t heard) const {
  return backwards() ? mixSample(heard) - m_begin : m_end - mixSample(heard);
}

bool WatchRun::over(int64_t heard) const {
  return !m_round && toEnd(heard) <= 0;
}

int64_t WatchRun::frameAt(int64_t heard, const FrameRate& rate, int64_t frames) const {
  const Rational at = framesAt(mixSample(heard), rate);
  return std::clamp<int64_t>(backwards() ? at.ceil() - 1 : at.floor(), 0, frames - 1);
}

int64_t WatchRun::nextChange(int64_t heard, const std::vector<FrameRate>& rates) const {
  const int64_t speed = std::abs(m_speed);
  const int64_t untilEnd = std::max<int64_t>(1, (toEnd(heard) + speed - 1) / speed);
  int64_t next = untilEnd;
  for (const FrameRate& rate : rates) {
    if (speed > 1) {
      next = std::min(next, (rate.frameDuration() * Rational(kSoundRate)).ceil());
      continue;
    }
    const int64_t now = mixSample(heard);
    const Rational at = framesAt(now, rate);
    const int64_t then = backwards() ? (Rational(at.ceil() - 1) * rate.frameDuration() * Rational(kSoundRate)).floor()
                                     : (Rational(at.floor() + 1) * rate.frameDuration() * Rational(kSoundRate)).ceil();
    next = std::min(next, std::abs(then - now));
  }
  return heard + std::max<int64_t>(1, next);
}

} // namespace tromb
