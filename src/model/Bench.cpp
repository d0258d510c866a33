// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/Bench.h"

#include "project/Sharing.h"

#include "time/Ticks.h"

#include <algorithm>
#include <cmath>

namespace tromb {

Bench::Bench(Session& session, QObject* parent)
    : QObject(parent), m_session(session), m_document(session.document()), m_placing(*this), m_moves(*this),
      m_following(*this), m_source(*this) {
  const auto told = [this] { emit changed(); };
  const auto fewer = [this] { setWindow(m_window); };
  // Changes of other shots do not matter here.
  connect(&m_document, &Document::framingsChanged, this, [this, fewer](const std::vector<CellPlace>& places) {
    if (std::any_of(places.begin(), places.end(), [at = row()](const CellPlace& place) { return place.shot == at; }))
      fewer();
  });
  connect(&m_document, &Document::shotChanged, this, [this](int row) {
    if (row == this->row()) emit changed();
  });
  const auto sourcesChanged = [this](const QStringList& ids) {
    if (row() < 0 || !m_document.shows(row(), ids)) return;
    emit changed();
    lookAgain();
  };
  connect(&m_document, &Document::mediaChanged, this, sourcesChanged);
  connect(&m_document, &Document::sourceChanged, this, [this, sourcesChanged](int row) {
    sourcesChanged({QString::fromStdString(m_document.project().sources[size_t(row)].id)});
  });
  connect(&m_document, &Document::deliverableChanged, this, told);
  connect(&m_document, &Document::deliverablesInserted, this, [this, told] {
    told();
    lookAgain(); // with the first one there is something to place
  });
  connect(&m_document, &Document::deliverableMoved, this, told);
  connect(&m_document, &Document::deliverablesRemoved, this, fewer);
  connect(&m_document, &Document::shotsRemoved, this, fewer);
  connect(&m_document, &Document::reset, this, [this, fewer] {
    m_following.forget();
    fewer();
  });
  connect(&session, &Session::playheadMoved, this, &Bench::lookAgain);
  connect(&session, &Session::selectionChanged, this, &Bench::lookAgain);
}

/// Emits a signal for everything that has changed since the last time.
void Bench::lookAgain() {
  const bool other = shotId() != m_seenShot || column() != m_seenColumn;
  const bool later = shotId() != m_seenShot || frame() != m_seenFrame;
  m_seenShot = shotId();
  m_seenColumn = column();
  m_seenFrame = frame();
  if (other) {
    m_window = 0;
    emit changed();
  }
  if (later) emit moved();
}

int Bench::row() const {
  return m_document.project().deliverables.empty() ? -1 : m_session.underPlayhead().row;
}

std::vector<int> Bench::columns() const {
  const auto& all = m_document.project().deliverables;
  std::vector<int> framed;
  for (size_t i = 0; i < all.size(); ++i)
    if (framesItself(all[i])) framed.push_back(int(i));
  return framed;
}

int Bench::column() const {
  return placeOfNormal(m_document.project().deliverables, m_session.current().deliverable);
}

int Bench::columnAfter(int step) const {
  const std::vector<int> framed = columns();
  if (framed.empty()) return 0;
  const auto now = int(std::find(framed.begin(), framed.end(), column()) - framed.begin());
  const auto count = int(framed.size());
  return framed[size_t((now + step % count + count) % count)];
}

const Shot* Bench::shot() const {
  const int at = row();
  return at < 0 ? nullptr : &m_document.project().shots[size_t(at)];
}

std::string Bench::shotId() const {
  return shot() ? shot()->id : std::string();
}

const MediaInfo* Bench::media() const {
  const Shot* at = shot();
  const Result<MediaInfo>* media = at ? m_document.media(at->source) : nullptr;
  return media && *media && (*media)->video ? &**media : nullptr;
}

void Bench::setWindow(int window) {
  const Shot* at = shot();
  const auto& all = m_document.project().deliverables;
  const int count = at ? int(all[size_t(column())].framingOf(at->id).windows.size()) : 1;
  m_window = std::clamp(window, 0, count - 1);
  emit changed();
}

void Bench::setPlacesSubject(bool subject) {
  if (m_subject == subject) return;
  m_subject = subject;
  emit changed();
}

// ---- the moment

/// A still has no frames of its own: its moments are counted at the first deliverable's rate.
FrameRate Bench::stillRate() const {
  const auto& all = m_document.project().deliverables;
  return all.empty() ? FrameRate() : all.front().rate;
}

int64_t Bench::frame() const {
  const MediaInfo* info = media();
  if (!info) return 0;
  const Rational at = m_session.underPlayhead().sourceTime;
  // A frame's time may have been rounded to the tick just before it. Backwards, a frame is shown from its end on.
  const bool back = shot()->pace.reversed;
  const int64_t shown = info->kind == MediaKind::Still ? stillRate().frameAt(at)
                        : back                         ? info->video->clock.onScreen(at - secondsOf(2))
                                                       : info->video->clock.onScreen(at, secondsOf(1));
  return std::clamp(shown, firstFrame(), endFrame() - 1);
}

int64_t Bench::firstFrame() const {
  const MediaInfo* info = media();
  return info ? info->video->clock.nearest(shot()->in) : 0;
}

int64_t Bench::endFrame() const {
  const MediaInfo* info = media();
  if (!info) return 1;
  if (info->kind == MediaKind::Still) return std::max<int64_t>(1, frameOf(shot()->out.toDouble()));
  return std::max(firstFrame() + 1, info->video->clock.cutAt(shot()->out));
}

Rational Bench::time() const {
  return timeOf(frame());
}

Rational Bench::timeOf(int64_t frame) const {
  const MediaInfo* info = media();
  if (!info) return Rational(0);
  return info->kind == MediaKind::Still ? stillRate().timeOf(frame) : info->video->clock.timeOf(frame);
}

int64_t Bench::frameOf(double seconds) const {
  const MediaInfo* info = media();
  if (!info) return 0;
  const Rational time(int64_t(std::lround(std::max(0.0, seconds) * 1'000'000)), 1'000'000);
  return info->kind == MediaKind::Still ? stillRate().frameAt(time) : info->video->clock.nearest(time);
}

void Bench::goTo(int64_t frame) {
  const MediaInfo* info = media();
  if (!info) return;
  frame = std::clamp(frame, firstFrame(), endFrame() - 1);
  // Of several frames with the same time the last one is shown, so a step back skips all of them.
  const Rational now = time();
  while (frame < this->frame() && frame > firstFrame() && timeOf(frame) == now) --frame;
  const Rational start = m_session.starts()[size_t(row())];
  const bool back = shot()->pace.reversed && info->kind == MediaKind::Video;
  const Rational moment = !back ? timeOf(frame) : frame + 1 < endFrame() ? timeOf(frame + 1) : shot()->out;
  m_session.setPlayhead(start + std::max(Rational(0), shot()->time().sinceBegin(moment)));
}

// ---- what is seen

SizeF Bench::picture() const {
  const MediaInfo* info = media();
  return info ? shapeOf(*m_document.project().source(shot()->source), *info->video).picture() : SizeF{16, 9};
}

QPointF Bench::middle() const {
  return {picture().width / 2, picture().height / 2};
}

Cell Bench::cellAt(int column, const Rational& time) const {
  Cell cell = m_document.cell({row(), column});
  if (!cell.placements.empty()) turnTo(cell, time.toDouble());
  return cell;
}

SizeF Bench::share() const {
  const auto& d = m_document.project().deliverables[size_t(column())];
  const PixelRect rect = canvasShares(d.framingOf(shotId()), d.canvas)[size_t(m_window)];
  return {double(rect.width) * d.pixelAspect.toDouble(), double(rect.height)};
}

QRectF Bench::windowRect(int column, int window) const {
  const Cell at = cell(column);
  if (at.placements.empty()) return {};
  int seen = 0;
  const double wider = picture().width / at.shape.picture().width; // where the canvas's pixels are not square
  for (const Placement& p : at.placements)
    if (!p.isGround() && seen++ == window)
      return {p.window.x * wider, p.window.y, p.window.width * wider, p.window.height};
  return {};
}

std::optional<QPointF> Bench::subject() const {
  const Shot* at = shot();
  if (!media() || at->subjects.size() <= size_t(m_window)) return {};
  const MovePlace place = placeAt(at->subjects[size_t(m_window)].move, time().toDouble());
  return QPointF(place.x * picture().width, place.y * picture().height);
}

} // namespace tromb
