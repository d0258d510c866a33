// SPDX-License-Identifier: GPL-3.0-or-later
#include "time/FrameClock.h"

#include <algorithm>

namespace tromb {

FrameClock::FrameClock(const FrameRate& rate, int64_t frameCount) : m_rate(rate), m_count(frameCount) {}

FrameClock::FrameClock(std::vector<int64_t> ticks, const Rational& tick, const FrameRate& average)
    : m_rate(average), m_count(int64_t(ticks.size())), m_tick(tick),
      m_ticks(std::make_shared<const std::vector<int64_t>>(std::move(ticks))) {}

Rational FrameClock::timeOf(int64_t frame) const {
  return m_ticks ? Rational((*m_ticks)[size_t(frame)]) * m_tick : m_rate.timeOf(frame);
}

int64_t FrameClock::cutAt(const Rational& seconds) const {
  if (!m_ticks) return std::clamp<int64_t>(m_rate.frameAt(seconds), 0, m_count);
  const Rational position = seconds / m_tick;
  const auto later = std::upper_bound(m_ticks->begin(), m_ticks->end(), position,
                                      [](const Rational& p, int64_t tick) { return p < Rational(tick); });
  const int64_t index = later - m_ticks->begin();
  if (index == 0) return 0;
  const Rational after = position - Rational((*m_ticks)[size_t(index - 1)]);
  // The last frame lasts as long as an average one.
  const Rational end =
      later == m_ticks->end() ? Rational(m_ticks->back()) + m_rate.frameDuration() / m_tick : Rational(*later);
  return after <= end - position ? index - 1 : index;
}

int64_t FrameClock::nearest(const Rational& seconds) const {
  return std::clamp<int64_t>(cutAt(seconds), 0, std::max<int64_t>(0, m_count - 1));
}

} // namespace tromb
