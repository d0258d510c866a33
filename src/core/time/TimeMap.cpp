// SPDX-License-Identifier: GPL-3.0-or-later
#include "time/TimeMap.h"

#include <algorithm>
#include <cmath>

namespace tromb {
namespace {

constexpr int64_t kSpeedPart = 1'000'000; ///< to what a speed in the middle of a change is rounded

/// The share of a change of speed that is done after the share `u` of its time.
double eased(SpeedEase ease, double u) {
  return ease == SpeedEase::Smooth ? u * u * (3 - 2 * u) : ease == SpeedEase::Even ? u : 0;
}

/// Its integral from 0 to `u`; both eases come to a half in the end.
double summed(SpeedEase ease, double u) {
  return ease == SpeedEase::Smooth ? u * u * u * (1 - u / 2) : ease == SpeedEase::Even ? u * u / 2 : 0;
}

int64_t atSpeed(int64_t ticks, const Rational& speed) {
  return Rational::nearestProduct(Rational(ticks), speed);
}

} // namespace

TimeMap::TimeMap(const Rational& in, const Rational& out, const Pace& pace)
    : m_in(ticksOf(in)), m_out(ticksOf(out)), m_speed(pace.speed), m_reversed(pace.reversed),
      m_held(pace.held > Rational(0)) {
  if (m_held) {
    m_length = ticksOf(pace.held);
  } else if (pace.keys.empty()) {
    m_length = atSpeed(m_out - m_in, Rational(1) / m_speed);
  } else {
    layKeys(pace.keys);
    const int64_t begin = curveOf(m_in);
    const int64_t end = curveOf(m_out);
    m_length = end - begin;
    m_begin = m_reversed ? end : begin;
  }
  m_length = std::max<int64_t>(1, m_length);
}

void TimeMap::layKeys(const std::vector<SpeedKey>& keys) {
  m_keyed = true;
  m_before = keys.front().speed;
  m_after = keys.back().speed;
  m_firstKey = ticksOf(keys.front().time);
  m_lastKey = ticksOf(keys.back().time);
  int64_t begin = 0;
  for (size_t i = 0; i + 1 < keys.size(); ++i) {
    Stretch stretch;
    stretch.begin = begin;
    stretch.from = ticksOf(keys[i].time);
    stretch.passes = ticksOf(keys[i + 1].time) - stretch.from;
    stretch.ease = keys[i].ease;
    stretch.first = keys[i].speed;
    stretch.last = stretch.ease == SpeedEase::Step ? stretch.first : keys[i + 1].speed;
    if (stretch.passes <= 0) continue;
    // Both eases spend as long on either side of the middle, so that the mean speed is that of the ends.
    const Rational mean = ((stretch.first + stretch.last) / Rational(2)).plain(INT32_MAX, INT32_MAX);
    stretch.length = std::max<int64_t>(1, atSpeed(stretch.passes, Rational(1) / mean));
    begin += stretch.length;
    m_stretches.push_back(stretch);
  }
}

int64_t TimeMap::passedIn(const Stretch& stretch, int64_t since) {
  if (stretch.first == stretch.last)
    return Rational::nearestProduct(Rational(since), Rational(stretch.passes, stretch.length));
  const double u = double(since) / double(stretch.length);
  const double first = stretch.first.toDouble();
  const double change = stretch.last.toDouble() - first;
  return std::llround(double(stretch.passes) * (first * u + change * summed(stretch.ease, u)) / (first + change / 2));
}

int64_t TimeMap::sourceOf(int64_t onCurve) const {
  if (onCurve <= 0) return m_firstKey + atSpeed(onCurve, m_before);
  const auto after = std::upper_bound(m_stretches.begin(), m_stretches.end(), onCurve,
                                      [](int64_t ticks, const Stretch& each) { return ticks < each.begin; });
  if (after == m_stretches.begin()) return m_lastKey + atSpeed(onCurve, m_after);
  const Stretch& stretch = *(after - 1);
  const int64_t since = onCurve - stretch.begin;
  return since < stretch.length ? stretch.from + passedIn(stretch, since)
                                : m_lastKey + atSpeed(since - stretch.length, m_after);
}

int64_t TimeMap::curveOf(int64_t ofSource) const {
  if (ofSource <= m_firstKey) return atSpeed(ofSource - m_firstKey, Rational(1) / m_before);
  const int64_t end = m_stretches.empty() ? 0 : m_stretches.back().begin + m_stretches.back().length;
  if (ofSource >= m_lastKey) return end + atSpeed(ofSource - m_lastKey, Rational(1) / m_after);
  const auto after = std::upper_bound(m_stretches.begin(), m_stretches.end(), ofSource,
                                      [](int64_t ticks, const Stretch& each) { return ticks < each.from; });
  const Stretch& stretch = *(after - 1);
  // The first tick at which it has passed; the one before may be nearer.
  int64_t low = 0;
  int64_t high = stretch.length;
  const int64_t wanted = ofSource - stretch.from;
  while (low < high) {
    const int64_t middle = low + (high - low) / 2;
    if (passedIn(stretch, middle) < wanted)
      low = middle + 1;
    else
      high = middle;
  }
  if (low > 0 && wanted - passedIn(stretch, low - 1) < passedIn(stretch, low) - wanted) --low;
  return stretch.begin + low;
}

Rational TimeMap::passed(const Rational& sinceBegin) const {
  if (m_held) return {};
  if (!m_keyed) return secondsOf(Rational::nearestProduct(sinceBegin, m_speed * Rational(kTicksASecond)));
  const int64_t since = ticksOf(sinceBegin);
  return secondsOf(m_reversed ? m_out - sourceOf(m_begin - since) : sourceOf(m_begin + since) - m_in);
}

Rational TimeMap::sourceTime(const Rational& sinceBegin) const {
  if (m_held) return in();
  const int64_t passes = ticksOf(passed(sinceBegin));
  return secondsOf(m_reversed ? m_out - passes : m_in + passes);
}

Rational TimeMap::sinceBegin(const Rational& sourceTime) const {
  if (m_held) return {};
  const int64_t moment = ticksOf(sourceTime);
  if (!m_keyed) return secondsOf(atSpeed(m_reversed ? m_out - moment : moment - m_in, Rational(1) / m_speed));
  return secondsOf(m_reversed ? m_begin - curveOf(moment) : curveOf(moment) - m_begin);
}

Rational TimeMap::speedAt(const Rational& sinceBegin) const {
  if (m_held) return Rational(0);
  if (!m_keyed) return m_speed;
  const int64_t since = ticksOf(sinceBegin);
  const int64_t onCurve = m_reversed ? m_begin - since : m_begin + since;
  if (onCurve <= 0) return m_before;
  for (const Stretch& each : m_stretches)
    if (onCurve < each.begin + each.length) {
      if (each.first == each.last) return each.first;
      const double share = eased(each.ease, double(onCurve - each.begin) / double(each.length));
      const double speed = each.first.toDouble() + share * (each.last.toDouble() - each.first.toDouble());
      return {std::max<int64_t>(1, std::llround(speed * double(kSpeedPart))), kSpeedPart};
    }
  return m_after;
}

TimeMap::Speeds TimeMap::speeds() const {
  if (m_held) return {Rational(0), Rational(0)};
  if (!m_keyed) return {m_speed, m_speed};
  // Between two keys the speed goes one way only.
  const Rational first = speedAt(Rational(0));
  const Rational last = speedAt(secondsOf(m_length - 1));
  Speeds speeds{std::min(first, last), std::max(first, last)};
  for (const Stretch& each : m_stretches)
    for (const auto& [moment, speed] :
         {std::pair(each.from, each.first), std::pair(each.from + each.passes, each.last)})
      if (moment > m_in && moment < m_out) {
        speeds.least = std::min(speeds.least, speed);
        speeds.most = std::max(speeds.most, speed);
      }
  return speeds;
}

std::optional<Rational> TimeMap::speed() const {
  const auto [least, most] = speeds();
  return least == most ? std::optional(least) : std::nullopt;
}

} // namespace tromb
