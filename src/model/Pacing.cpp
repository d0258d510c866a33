// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/Pacing.h"

#include <algorithm>
#include <utility>

namespace tromb {
namespace {

Rational chosenSpeed(const Rational& speed) {
  constexpr int64_t kParts = 10'000; // hundredths of a percent
  return std::clamp(Rational((speed * Rational(kParts)).nearest(), kParts), kLeastTypedSpeed, kMostTypedSpeed);
}

} // namespace

Pacing::Pacing(Session& session, QObject* parent) : QObject(parent), m_session(session) {
  connect(&session, &Session::playheadMoved, this, [this] { follow(false); });
  connect(&session.document().undoStack(), &QUndoStack::indexChanged, this, [this] { follow(true); });
  connect(&session.document(), &Document::mediaChanged, this, [this] { follow(true); });
  follow(true);
}

void Pacing::follow(bool edited) {
  m_under = m_session.underPlayhead();
  const Shot* now = shot();
  const std::string id = now ? now->id : std::string();
  const bool other = std::exchange(m_shot, id) != id;
  const int before = m_chosen;
  if (other || m_chosen >= (now ? int(now->pace.keys.size()) : 0)) m_chosen = -1;
  if (now)
    if (const int here = keyAt(m_under.sourceTime); here >= 0) m_chosen = here;
  if (other || edited || m_chosen != before)
    emit changed();
  else
    emit moved();
}

const Shot* Pacing::shot() const {
  const auto& shots = m_session.document().project().shots;
  if (m_under.row < 0 || m_under.row >= int(shots.size())) return nullptr;
  const Shot& shot = shots[size_t(m_under.row)];
  const Result<MediaInfo>* media = m_session.document().media(shot.source);
  const bool moves = media && *media && (*media)->kind == MediaKind::Video && shot.pace.held == Rational(0);
  return moves ? &shot : nullptr;
}

const FrameClock& Pacing::clock() const {
  return (*m_session.document().media(shot()->source))->video->clock;
}

const Rational& Pacing::sourceTime() const {
  return m_under.sourceTime;
}

Rational Pacing::onFrame(const Rational& sourceTime) const {
  const Shot& its = *shot();
  const Rational frame = clock().timeOf(clock().nearest(sourceTime));
  return std::clamp(onTick(frame), its.in, its.out);
}

void Pacing::goTo(const Rational& sourceTime) {
  const Shot* its = shot();
  if (!its) return;
  const TimeMap time = its->time();
  const Rational last = time.reversed() ? its->in : its->out - clock().rate().frameDuration();
  const Rational there = std::clamp(sourceTime, its->in, std::max(its->in, time.reversed() ? its->out : last));
  const Rational end = secondsOf(std::max<int64_t>(0, time.length() - 1)); // the next shot begins behind it
  m_session.setPlayhead(m_session.starts()[size_t(m_under.row)] + std::clamp(time.sinceBegin(there), Rational(0), end));
}

void Pacing::put(Pace pace, const QString& text, int gesture) {
  Shot changed = *shot();
  changed.pace = std::move(pace);
  bringOnTicks(changed);
  m_session.document().changeShots({changed}, text, gesture);
}

void Pacing::setSpeed(const Rational& speed, int gesture) {
  if (!shot()) return;
  Pace pace = shot()->pace;
  pace.speed = chosenSpeed(speed);
  pace.keys.clear();
  if (pace != shot()->pace) put(std::move(pace), tr("Change the speed"), gesture);
}

void Pacing::setLength(const Rational& seconds) {
  if (!shot() || seconds <= Rational(0)) return;
  Pace pace = shot()->pace;
  const auto quicker = [&](const Rational& speed, const Rational& by) {
    const Rational made = (speed * by).plain(kMostSpeedPart, kMostSpeedPart);
    return std::clamp(made, kLeastTypedSpeed, kMostTypedSpeed);
  };
  // Typed lengths and tick counts have long denominators.
  const Rational by = (shot()->duration() / seconds).plain(kMostSpeedPart, kMostSpeedPart);
  pace.speed = ((shot()->out - shot()->in) / seconds).plain(kMostSpeedPart, kMostSpeedPart);
  pace.speed = std::clamp(pace.speed, kLeastTypedSpeed, kMostTypedSpeed);
  for (SpeedKey& key : pace.keys) key.speed = quicker(key.speed, by);
  if (pace != shot()->pace) put(std::move(pace), tr("Change the length by speed"));
}

int Pacing::chosen() const {
  return shot() ? m_chosen : -1;
}

void Pacing::choose(int key) {
  if (!shot() || key < 0 || key >= int(shot()->pace.keys.size())) return;
  m_chosen = key;
  goTo(shot()->pace.keys[size_t(key)].time);
  emit changed();
}

int Pacing::keyAt(const Rational& sourceTime) const {
  const Rational half = clock().rate().frameDuration() / Rational(2);
  const auto& keys = shot()->pace.keys;
  for (size_t i = 0; i < keys.size(); ++i)
    if (keys[i].time - sourceTime <= half && sourceTime - keys[i].time <= half) return int(i);
  return -1;
}

void Pacing::setKey(const Rational& sourceTime) {
  if (!shot()) return;
  const Rational at = onFrame(sourceTime);
  if (const int there = keyAt(at); there >= 0) return choose(there);
  Pace pace = shot()->pace;
  if (pace.keys.size() >= kMostSpeedKeys) return;
  const TimeMap time = shot()->time();
  const auto after = std::find_if(pace.keys.begin(), pace.keys.end(), [&](const SpeedKey& k) { return k.time > at; });
  const int place = int(after - pace.keys.begin());
  pace.keys.insert(after, {at, time.speedAt(time.sinceBegin(at)), SpeedEase::Smooth});
  put(std::move(pace), tr("Set a key of speed"));
  choose(place);
}

void Pacing::changeKey(int key, const Rational& sourceTime, const Rational& speed, int gesture) {
  if (!shot() || key < 0 || key >= int(shot()->pace.keys.size())) return;
  Pace pace = shot()->pace;
  const auto place = size_t(key);
  const Rational frame = onTick(clock().rate().frameDuration());
  const Rational least = place == 0 ? shot()->in : pace.keys[place - 1].time + frame;
  const Rational most = place + 1 == pace.keys.size() ? shot()->out : pace.keys[place + 1].time - frame;
  SpeedKey& its = pace.keys[place];
  if (least <= most) its.time = std::clamp(onFrame(sourceTime), least, most);
  its.speed = chosenSpeed(speed);
  if (pace != shot()->pace) put(std::move(pace), tr("Change a key of speed"), gesture);
}

void Pacing::setEase(SpeedEase ease) {
  if (chosen() < 0) return;
  Pace pace = shot()->pace;
  pace.keys[size_t(m_chosen)].ease = ease;
  if (pace != shot()->pace) put(std::move(pace), tr("Change how the speed goes on"));
}

void Pacing::removeKey(int key) {
  if (!shot() || key < 0 || key >= int(shot()->pace.keys.size())) return;
  Pace pace = shot()->pace;
  pace.speed = pace.keys[size_t(key)].speed;
  pace.keys.erase(pace.keys.begin() + key);
  m_chosen = -1;
  put(std::move(pace), tr("Take away a key of speed"));
}

} // namespace tromb
