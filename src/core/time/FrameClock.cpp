// SPDX-License-Identifier: GPL-3.0-or-later
#include "time/FrameClock.h"

#include <algorithm>
#include <cmath>

namespace tromb {
namespace {

constexpr double kSameRate = 0.0004;     ///< a measured rate this near to a named one means it
constexpr double kMillisecond = 0.00101; ///< rounding of files that count in milliseconds, with a hair
constexpr double kMostOfFrame = 0.25;    ///< of a frame's length that a stamp may lie off its place
constexpr double kSlackOfFrame = 0.02;   ///< of a frame's length that hardly anybody can see
constexpr double kMostKeepNominal = 0.5; ///< of a variable clock's frames, for its rate to be called so
constexpr double kLikeNominal = 0.02;

/// How far stamps may lie from their places, in ticks.
double slack(double frame, const Rational& tick) {
  const double millisecond = std::min(kMillisecond / tick.toDouble(), frame * kMostOfFrame);
  return std::max({1.01, frame * kSlackOfFrame, millisecond});
}

/// The largest distance of a stamp from its place at a constant rate, in ticks.
double farthest(const std::vector<int64_t>& ticks, const Rational& tick, const FrameRate& rate) {
  const long double frame =
      1.0L / (static_cast<long double>(rate.value().num()) / rate.value().den()) * tick.den() / tick.num();
  long double most = 0;
  for (size_t i = 0; i < ticks.size(); ++i)
    most = std::max(most, std::abs(static_cast<long double>(ticks[i]) - static_cast<long double>(i) * frame));
  return double(most);
}

/// True when a frame at this rate is a whole number of ticks, so that the file's clock tells it exactly.
bool counted(const FrameRate& rate, const Rational& tick) {
  return (rate.frameDuration() / tick).den() == 1;
}

/// The named rates near a measured one.
void addNamed(std::vector<FrameRate>& list, double rate, double within) {
  for (const FrameRate& named : FrameRate::named())
    if (std::abs(named.toDouble() / rate - 1) < within) list.push_back(named);
}

} // namespace

FrameClock::FrameClock(const FrameRate& rate, int64_t frameCount) : m_rate(rate), m_count(frameCount) {}

FrameClock::FrameClock(std::vector<int64_t> ticks, const Rational& tick, const FrameRate& nominal)
    : m_rate(nominal), m_count(int64_t(ticks.size())), m_tick(tick),
      m_ticks(std::make_shared<const std::vector<int64_t>>(std::move(ticks))) {}

FrameClock FrameClock::fromStamps(std::vector<int64_t> ticks, const Rational& tick,
                                  const std::vector<FrameRate>& declared) {
  const auto count = int64_t(ticks.size());
  // What the file says and its clock can tell exactly; then the names near it; then what it says.
  std::vector<FrameRate> likely;
  for (const FrameRate& rate : declared)
    if (counted(rate, tick) && farthest(ticks, tick, rate) < 0.51) return {rate, count};
  for (const FrameRate& rate : declared) addNamed(likely, rate.toDouble(), kSameRate);
  double mean = 0;
  if (count > 1 && ticks.back() > 0) {
    mean = double(count - 1) / (double(ticks.back()) * tick.toDouble());
    addNamed(likely, mean, kSameRate + slack(1 / mean / tick.toDouble(), tick) / double(ticks.back()));
  }
  likely.insert(likely.end(), declared.begin(), declared.end());
  for (const FrameRate& rate : likely)
    if (farthest(ticks, tick, rate) <= slack(rate.frameDuration().toDouble() / tick.toDouble(), tick))
      return {rate, count};
  if (count == 1) return {declared.empty() ? FrameRate() : declared.front(), count};
  // Every frame as long as the next, at a rate that nobody has named.
  const int64_t length = ticks[1];
  bool even = length > 0;
  for (size_t i = 1; even && i < ticks.size(); ++i) even = ticks[i] - ticks[i - 1] == length;
  if (even)
    if (const auto exact = FrameRate::near(Rational(1) / (Rational(length) * tick))) return {*exact, count};

  std::vector<int64_t> lengths;
  for (size_t i = 1; i < ticks.size(); ++i) lengths.push_back(ticks[i] - ticks[i - 1]);
  const auto middle = lengths.begin() + ptrdiff_t(lengths.size() / 2);
  std::nth_element(lengths.begin(), middle, lengths.end());
  const double usual = double(*middle);
  const double within = std::max(1.01, usual * kLikeNominal);
  const auto alike = std::count_if(lengths.begin(), lengths.end(),
                                   [&](int64_t each) { return std::abs(double(each) - usual) <= within; });
  if (usual > 0 && double(alike) > kMostKeepNominal * double(lengths.size())) {
    std::vector<FrameRate> names;
    addNamed(names, 1 / (usual * tick.toDouble()), kLikeNominal);
    if (names.empty())
      if (const auto own = FrameRate::near(Rational(1) / (Rational(*middle) * tick))) names.push_back(*own);
    if (!names.empty()) {
      const auto apart = [&](const FrameRate& rate) { return std::abs(rate.toDouble() * usual * tick.toDouble() - 1); };
      return {std::move(ticks), tick,
              *std::min_element(names.begin(), names.end(),
                                [&](const FrameRate& a, const FrameRate& b) { return apart(a) < apart(b); })};
    }
  }
  std::optional<FrameRate> average;
  if (mean > 0) average = FrameRate::near(Rational(count - 1) / (Rational(ticks.back()) * tick));
  if (!average) average = declared.empty() ? FrameRate() : declared.front();
  return {std::move(ticks), tick, *average};
}

Rational FrameClock::timeOf(int64_t frame) const {
  return m_ticks ? Rational((*m_ticks)[size_t(frame)]) * m_tick : m_rate.timeOf(frame);
}

Rational FrameClock::duration() const {
  if (m_count == 0) return {};
  if (!m_ticks) return m_rate.timeOf(m_count);
  // In whole ticks of the file's clock, so that the fraction stays a plain one.
  const int64_t last = std::max<int64_t>(1, Rational::nearestProduct(m_rate.frameDuration(), Rational(1) / m_tick));
  return Rational(m_ticks->back() + last) * m_tick;
}

int64_t FrameClock::onScreen(const Rational& seconds, const Rational& early) const {
  const int64_t last = std::max<int64_t>(0, m_count - 1);
  if (!m_ticks) {
    const Rational place = (seconds + early) * m_rate.value();
    const int64_t begun = early > Rational(0) ? place.ceil() - 1 : place.floor();
    return std::clamp<int64_t>(std::max(begun, (seconds * m_rate.value()).floor()), 0, last);
  }
  const Rational limit = seconds + early;
  const auto begins = [this](int64_t ticks) { return Rational(ticks) * m_tick; };
  // The first that begins too late.
  auto later =
      std::partition_point(m_ticks->begin(), m_ticks->end(), [&](int64_t ticks) { return begins(ticks) <= seconds; });
  later = std::partition_point(later, m_ticks->end(), [&](int64_t ticks) { return begins(ticks) < limit; });
  return std::clamp<int64_t>(later - m_ticks->begin() - 1, 0, last);
}

int64_t FrameClock::firstFrom(const Rational& seconds) const {
  if (!m_ticks) return std::clamp<int64_t>((seconds * m_rate.value()).ceil(), 0, m_count);
  return std::partition_point(m_ticks->begin(), m_ticks->end(),
                              [&](int64_t ticks) { return Rational(ticks) * m_tick < seconds; }) -
         m_ticks->begin();
}

int64_t FrameClock::cutAt(const Rational& seconds) const {
  if (!m_ticks) return std::clamp<int64_t>(m_rate.frameAt(seconds), 0, m_count);
  const int64_t later = firstFrom(seconds);
  if (later == 0) return 0;
  const Rational end = later == m_count ? duration() : timeOf(later);
  return seconds - timeOf(later - 1) <= end - seconds ? later - 1 : later;
}

int64_t FrameClock::nearest(const Rational& seconds) const {
  return std::clamp<int64_t>(cutAt(seconds), 0, std::max<int64_t>(0, m_count - 1));
}

int64_t FrameClock::frameOfStamp(int64_t ticks, const Rational& tick) const {
  if (!m_ticks) return Rational::nearestProduct(Rational(ticks) * tick, m_rate.value());
  if (tick != m_tick) return nearest(Rational(ticks) * tick);
  const auto at = std::lower_bound(m_ticks->begin(), m_ticks->end(), ticks);
  if (at == m_ticks->begin() || (at != m_ticks->end() && *at == ticks)) return at - m_ticks->begin();
  return at == m_ticks->end() || ticks - *(at - 1) <= *at - ticks ? at - m_ticks->begin() - 1 : at - m_ticks->begin();
}

} // namespace tromb
