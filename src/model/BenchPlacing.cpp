// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/BenchPlacing.h"

#include "model/Bench.h"

#include <algorithm>
#include <cmath>

namespace tromb {
namespace {

constexpr double kHeldNear = 0.06; ///< of the zoom at which detail is 1.00

} // namespace

BenchPlacing::BenchPlacing(Bench& bench) : m_bench(bench), m_document(bench.document()) {}

void BenchPlacing::placeSubject(QPointF at, int gesture) {
  if (!m_bench.media()) return;
  Shot changed = *m_bench.shot();
  // The windows of a stack have subjects of their own. Windows before this one that had none get one at their present
  // place.
  while (changed.subjects.size() <= size_t(m_bench.window())) {
    const QPointF centre = m_bench.windowRect(m_bench.column(), int(changed.subjects.size())).center();
    changed.subjects.emplace_back();
    changed.subjects.back().move.front().x = Bench::inside(centre.x() / m_bench.picture().width);
    changed.subjects.back().move.front().y = Bench::inside(centre.y() / m_bench.picture().height);
  }
  Move& move = changed.subjects[size_t(m_bench.window())].move;
  MoveKey key;
  key.x = Bench::inside(at.x() / m_bench.picture().width);
  key.y = Bench::inside(at.y() / m_bench.picture().height);
  if (move.size() > 1) {
    const auto there = m_bench.moves().keyAt(m_bench.time());
    key.time = m_bench.time();
    key.ease = there && m_bench.placesSubject() ? move[size_t(*there)].ease : Ease::Eased;
    tromb::setKey(move, key);
  } else {
    if (!move.empty()) key.time = move.front().time;
    move = {key};
  }
  changed.subjects[size_t(m_bench.window())].guess = 0;
  m_document.changeShots({changed}, tr("Place the subject"), gesture);
}

void BenchPlacing::removeSubject() {
  if (!m_bench.shot() || m_bench.shot()->subjects.empty()) return;
  Shot changed = *m_bench.shot();
  changed.subjects.clear();
  m_document.changeShots({changed}, tr("Remove the subject"));
}

void BenchPlacing::setWanted(double atX, double atY) {
  if (!m_bench.shot() || m_bench.shot()->subjects.empty()) return;
  Shot changed = *m_bench.shot();
  for (Subject& subject : changed.subjects) {
    subject.atX = Bench::inside(atX);
    subject.atY = Bench::inside(atY);
  }
  m_document.changeShots({changed}, tr("Where the subject is wanted"));
}

void BenchPlacing::setWindowTo(const Window& window, const QString& text, int gesture) {
  const auto& d = m_document.project().deliverables[size_t(m_bench.column())];
  Framing framing = d.framingOf(m_bench.shotId());
  Window& stored = framing.windows[size_t(m_bench.window())];
  if (stored.move.empty()) {
    stored.x = window.x;
    stored.y = window.y;
    stored.zoom = window.zoom;
    stored.follows = window.follows;
  } else {
    MoveKey key;
    key.time = m_bench.time();
    key.x = window.x;
    key.y = window.y;
    key.zoom = window.zoom;
    const auto there = m_bench.moves().keyAt(key.time);
    key.ease = there && !m_bench.placesSubject() ? stored.move[size_t(*there)].ease : Ease::Eased;
    tromb::setKey(stored.move, key);
    stored.follows = window.follows;
  }
  m_document.setFramings({{{m_bench.row(), m_bench.column()}, framing}}, text, gesture);
}

QPointF BenchPlacing::snapped(QPointF centre, const SizeF& size, double reach) const {
  const SizeF whole = m_bench.picture();
  std::vector<double> xs{whole.width / 2, whole.width / 3, whole.width * 2 / 3, size.width / 2,
                         whole.width - size.width / 2};
  std::vector<double> ys{whole.height / 2, whole.height / 3, whole.height * 2 / 3, size.height / 2,
                         whole.height - size.height / 2};
  for (const int column : m_bench.columns()) {
    if (column == m_bench.column()) continue;
    const QRectF other = m_bench.windowRect(column, 0);
    xs.insert(xs.end(), {other.center().x(), other.left() + size.width / 2, other.right() - size.width / 2});
    ys.insert(ys.end(), {other.center().y(), other.top() + size.height / 2, other.bottom() - size.height / 2});
  }
  const auto nearest = [reach](double value, const std::vector<double>& lines) {
    double best = value;
    double distance = reach;
    for (const double line : lines)
      if (const double d = std::abs(line - value); d < distance) {
        distance = d;
        best = line;
      }
    return best;
  };
  return {nearest(centre.x(), xs), nearest(centre.y(), ys)};
}

void BenchPlacing::placeWindow(QPointF centre, double snap, int gesture) {
  if (!m_bench.media()) return;
  const Cell at = m_bench.cell(m_bench.column());
  Window window = windowNow(at, size_t(m_bench.window()));
  const SizeF whole = m_bench.picture();
  const RectF rect = resolveWindow(whole, m_bench.share(), window);
  if (snap > 0) centre = snapped(centre, {rect.width, rect.height}, snap);
  window.x = centre.x() / whole.width;
  window.y = centre.y() / whole.height;
  window.follows = false;
  setWindowTo(stopped(whole, m_bench.share(), window), tr("Slide"), gesture);
}

void BenchPlacing::zoomWindow(double zoom, bool held, int gesture) {
  if (!m_bench.media()) return;
  Window window = windowNow(m_bench.cell(m_bench.column()), size_t(m_bench.window()));
  // Detail falls as zoom grows: where it is 1.00, the zoom is what detail is at zoom 1.
  Window widest = window;
  widest.zoom = 1;
  const RectF rect = resolveWindow(m_bench.picture(), m_bench.share(), widest);
  const SizeF density = m_bench.cell(m_bench.column()).shape.recordedDensity();
  const double sharp = std::min(rect.width * density.width / m_bench.share().width,
                                rect.height * density.height / m_bench.share().height);
  if (held && sharp > 1 && std::abs(zoom / sharp - 1) < kHeldNear) zoom = sharp;
  window.zoom = zoom;
  window.follows = m_document.project()
                       .deliverables[size_t(m_bench.column())]
                       .framingOf(m_bench.shotId())
                       .windows[size_t(m_bench.window())]
                       .follows;
  const bool follows = window.follows;
  window = stopped(m_bench.picture(), m_bench.share(), window);
  window.follows = follows;
  setWindowTo(window, tr("Zoom"), gesture);
}

void BenchPlacing::nudge(double canvasX, double canvasY, int gesture) {
  if (!m_bench.media()) return;
  const QRectF rect = m_bench.windowRect(m_bench.column(), m_bench.window());
  const double perPixel = rect.width() / m_bench.share().width;
  if (m_bench.placesSubject()) {
    placeSubject(m_bench.subject().value_or(m_bench.middle()) + QPointF(canvasX, canvasY) * perPixel, gesture);
    return;
  }
  placeWindow(rect.center() + QPointF(canvasX, canvasY) * perPixel, 0, gesture);
}

void BenchPlacing::follow() {
  if (m_bench.row() < 0) return;
  Framing framing = m_document.project().deliverables[size_t(m_bench.column())].framingOf(m_bench.shotId());
  for (Window& window : framing.windows) {
    window.follows = true;
    window.move.clear();
  }
  apply(framing, tr("Follow the subject"));
}

void BenchPlacing::apply(const Framing& framing, const QString& text) {
  if (m_bench.row() >= 0) m_document.setFramings({{{m_bench.row(), m_bench.column()}, framing}}, text);
}

void BenchPlacing::applyWay(const WayToFill& way) {
  if (m_bench.row() < 0) return;
  if (way.kind != WayToFill::Kind::Canvas) return apply(way.framing, tr("Another way to fill"));
  Deliverable changed = m_document.project().deliverables[size_t(m_bench.column())];
  changed.canvas = way.canvas;
  m_document.undoStack().beginMacro(tr("The largest sharp canvas"));
  m_document.editDeliverable(m_bench.column(), changed);
  apply(way.framing, {});
  m_document.undoStack().endMacro();
}

std::vector<WayToFill> BenchPlacing::ways() const {
  if (!m_bench.media()) return {};
  const Cell at = m_bench.cell(m_bench.column());
  if (at.detail >= kSharpDetail && at.uncoveredPercent <= 0) return {};
  const CellPlace place{m_bench.row(), m_bench.column()};
  auto ways = waysOf(m_document, place, m_framing ? m_framing->matters(*m_bench.shot()) : std::vector<SeenBox>());
  std::erase_if(ways, [](const WayToFill& way) { return way.kind == WayToFill::Kind::Now; }); // it is seen anyhow
  return ways;
}

double BenchPlacing::secondsAWidth() const {
  if (!m_bench.media()) return 0;
  const Cell at = m_bench.cell(m_bench.column());
  const double fastest = fastestTravel(at.shape, at.canvas, at.framing, at.subjects, m_bench.shot()->in.toDouble(),
                                       m_bench.shot()->out.toDouble()) *
                         m_bench.shot()->time().speeds().most.toDouble();
  return fastest > 1e-6 ? 1 / fastest : 0;
}

} // namespace tromb
