// SPDX-License-Identifier: GPL-3.0-or-later
#include "project/Timing.h"

#include "time/Cadence.h"

#include <algorithm>
#include <functional>

namespace tromb {
namespace {

/// The moment in other starts of the same shots: the same moment of the same source.
Rational carried(const Rational& moment, const std::vector<Rational>& from, const std::vector<Rational>& to,
                 const std::function<Rational(size_t shot, const Rational& since)>& within) {
  if (moment < Rational(0)) return moment;
  if (moment >= from.back()) return to.back() + (moment - from.back());
  const auto after = std::upper_bound(from.begin(), from.end(), moment);
  const auto shot = size_t(after - from.begin()) - 1;
  return std::clamp(to[shot] + within(shot, moment - from[shot]), to[shot], to[shot + 1]);
}

} // namespace

namespace {

/// The clock of a source's frames, each picture once.
FrameClock framesOf(const Source& source, const MediaInfo& media) {
  const FrameClock& clock = media.video->clock;
  return source.repeats && !clock.variable() ? source.repeats->clockOf(clock) : clock;
}

} // namespace

FrameRate shotRate(const Source& source, const MediaInfo& media) {
  return framesOf(source, media).rate();
}

TimeMap timeIn(const Deliverable& deliverable, const Shot& shot, const Source& source, const MediaInfo& media) {
  TimeMap own = shot.time();
  if (treatmentIn(deliverable, shot) != Treatment::EveryFrame || media.kind != MediaKind::Video || own.held() ||
      media.video->clock.variable())
    return own;
  const Rational speed = deliverable.rate.value() / framesOf(source, media).rate().value();
  // Beyond what a shot may have, sound and windows could not follow.
  if (speed < kLeastSpeed || speed > kMostSpeed) return own;
  return {shot.in, shot.out, {speed, shot.pace.reversed}};
}

bool readsFields(const Deliverable& deliverable, const Shot& shot, const Source& source, const MediaInfo& media) {
  if (media.kind != MediaKind::Video || media.video->clock.variable() || source.repeats ||
      scanOf(source, *media.video) == Scan::Progressive || treatmentIn(deliverable, shot) == Treatment::EveryFrame)
    return false;
  const FrameClock& clock = media.video->clock;
  const TimeMap time = shot.time();
  if (time.held() || clock.rate().value().num() > kMostRateNumerator / 2) return false;
  const auto speed = time.speed();
  return !speed || Cadence(clock.rate(), deliverable.rate, *speed).ratio().den() != 1;
}

FrameClock clockIn(const Deliverable& deliverable, const Shot& shot, const Source& source, const MediaInfo& media) {
  const FrameClock clock = framesOf(source, media);
  if (!readsFields(deliverable, shot, source, media)) return clock;
  return {FrameRate(clock.rate().value() * Rational(2)), clock.frameCount() * 2};
}

Shot wholeShot(const Deliverable& deliverable, const Source& source, const MediaInfo& media) {
  Shot whole;
  whole.out = media.duration;
  if (source.slowMotion && media.kind == MediaKind::Video)
    whole.pace.speed = frameByFrameSpeed(media, deliverable.rate);
  bringOnTicks(whole);
  return whole;
}

ShotCadence cadenceIn(const Deliverable& deliverable, const Shot& shot, const Source& source, const MediaInfo& media) {
  const FrameClock clock = clockIn(deliverable, shot, source, media);
  return {FrameMap(timeIn(deliverable, shot, source, media), clock, deliverable.rate, treatmentIn(deliverable, shot)),
          clock, deliverable.rate, readsFields(deliverable, shot, source, media)};
}

Timing::Timing(const Project& project, const Footage& footage, const Deliverable& deliverable)
    : m_projectStarts(project.shotStarts()) {
  const bool may = std::any_of(project.shots.begin(), project.shots.end(), [&](const Shot& shot) {
    return treatmentIn(deliverable, shot) == Treatment::EveryFrame;
  });
  if (!may) {
    m_starts = m_projectStarts;
    return;
  }
  int64_t ticks = 0;
  bool differs = false;
  m_starts.push_back(Rational(0));
  for (const Shot& shot : project.shots) {
    const auto facts = footage.find(shot.source);
    const Source* source = project.source(shot.source);
    const bool known = source && facts != footage.end() && facts->second;
    Times times{shot.time(), known ? timeIn(deliverable, shot, *source, *facts->second) : shot.time()};
    differs = differs || times.here.length() != times.project.length() || times.here.speeds() != times.project.speeds();
    ticks += times.here.length();
    m_starts.push_back(secondsOf(ticks));
    m_shots.push_back(std::move(times));
  }
  if (!differs) m_shots.clear();
}

Rational durationIn(const Project& project, const Footage& footage, const Deliverable& deliverable) {
  return Timing(project, footage, deliverable).duration();
}

bool Timing::same(const Timing& other) const {
  // In each shot there is its own pace, or one speed: lengths alone do not tell a change of speed from its mean.
  return m_starts == other.m_starts &&
         std::equal(m_shots.begin(), m_shots.end(), other.m_shots.begin(), other.m_shots.end(),
                    [](const Times& a, const Times& b) { return a.here.speed() == b.here.speed(); });
}

Rational Timing::fromProject(const Rational& moment) const {
  if (asProject()) return moment;
  return carried(moment, m_projectStarts, m_starts, [this](size_t shot, const Rational& since) {
    const Times& times = m_shots[shot];
    // A held picture is one moment of its source for as long as it is held.
    return times.project.held() ? since : times.here.sinceBegin(times.project.sourceTime(since));
  });
}

Rational Timing::toProject(const Rational& moment) const {
  if (asProject()) return moment;
  return carried(moment, m_starts, m_projectStarts, [this](size_t shot, const Rational& since) {
    const Times& times = m_shots[shot];
    return times.here.held() ? since : times.project.sinceBegin(times.here.sourceTime(since));
  });
}

} // namespace tromb
