// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/bench/MoveCurves.h"

#include "app/style/Theme.h"

#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <algorithm>
#include <cmath>

namespace tromb {
namespace {

constexpr double kRuler = 16;
constexpr double kKeyReach = 7;

double& member(MoveKey& key, int axis) {
  return axis == 0 ? key.x : axis == 1 ? key.y : key.zoom;
}
double part(const MovePlace& place, int axis) {
  return axis == 0 ? place.x : axis == 1 ? place.y : place.zoom;
}

} // namespace

MoveCurves::MoveCurves(Bench& bench, QWidget* parent) : QWidget(parent), m_bench(bench) {
  setFocusPolicy(Qt::StrongFocus);
  setAccessibleName(tr("The move along the shot"));
  setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Fixed);
  connect(&bench, &Bench::changed, this, [this] {
    updateGeometry(); // curves unfold where there is a move
    update();
  });
  connect(&bench, &Bench::moved, this, qOverload<>(&QWidget::update));
}

QSize MoveCurves::sizeHint() const {
  return {600, int(kRuler) + 2 + std::max(1, lanes()) * (fontMetrics().height() + 8)};
}

int MoveCurves::lanes() const {
  const Move* move = m_bench.moves().move();
  if (!move || (m_bench.placesSubject() && move->size() < 2)) return 0;
  return axes();
}

QRectF MoveCurves::lane(int axis) const {
  const double left = fontMetrics().horizontalAdvance(tr("across")) + 16.0;
  const double height = (this->height() - kRuler - 2) / std::max(1, lanes());
  return QRectF(left, kRuler + axis * height, width() - left - 10, height).adjusted(0, 3, 0, -3);
}

double MoveCurves::xOf(double seconds) const {
  const QRectF all = lane(0);
  const double from = m_bench.timeOf(m_bench.firstFrame()).toDouble();
  const double to = m_bench.timeOf(m_bench.endFrame()).toDouble();
  return all.left() + (seconds - from) / std::max(1e-6, to - from) * all.width();
}

double MoveCurves::secondsAt(double x) const {
  const QRectF all = lane(0);
  const double from = m_bench.timeOf(m_bench.firstFrame()).toDouble();
  const double to = m_bench.timeOf(m_bench.endFrame()).toDouble();
  return from + (x - all.left()) / all.width() * (to - from);
}

std::pair<double, double> MoveCurves::range(int axis) const {
  if (axis < 2) return {0, 1};
  double most = 2;
  if (const Move* move = m_bench.moves().move())
    for (const MoveKey& key : *move) most = std::max(most, key.zoom * 1.15);
  return {1, most};
}

double MoveCurves::yOf(int axis, double value) const {
  const auto [least, most] = range(axis);
  const QRectF box = lane(axis);
  // A place further down in the picture is further down in the lane; a closer zoom is further up.
  const double share = (value - least) / (most - least);
  return axis == 2 ? box.bottom() - share * box.height() : box.top() + share * box.height();
}

double MoveCurves::valueAt(int axis, double y) const {
  const auto [least, most] = range(axis);
  const QRectF box = lane(axis);
  const double share = axis == 2 ? (box.bottom() - y) / box.height() : (y - box.top()) / box.height();
  return least + share * (most - least);
}

std::vector<PaintedPart> MoveCurves::paintedParts() const {
  std::vector<PaintedPart> parts;
  const Move* move = m_bench.moves().move();
  const auto here = m_bench.moves().keyAt(m_bench.time());
  for (int i = 0; move && lanes() > 0 && i < int(move->size()); ++i) {
    const MoveKey& key = (*move)[size_t(i)];
    const QPointF at(xOf(key.time.toDouble()), yOf(0, key.x));
    parts.push_back({tr("Key %1 of %2").arg(i + 1).arg(move->size()),
                     tr("across %1 %, down %2 %, zoom %3")
                         .arg(key.x * 100, 0, 'f', 1)
                         .arg(key.y * 100, 0, 'f', 1)
                         .arg(key.zoom, 0, 'f', 2),
                     QRect(at.toPoint() - QPoint(5, 5), QSize(10, 10)), here == i});
  }
  return parts;
}

QString MoveCurves::paintedValue() const {
  const Move* move = m_bench.moves().move();
  if (!move || lanes() == 0) return tr("no move");
  return m_bench.moves().keyAt(m_bench.time()) ? tr("a key at this frame") : tr("no key at this frame");
}

void MoveCurves::pressPart(int part) {
  const Move* move = m_bench.moves().move();
  if (move && part < int(move->size())) m_bench.goTo(m_bench.frameOf((*move)[size_t(part)].time.toDouble()));
}

void MoveCurves::mousePressEvent(QMouseEvent* event) {
  m_key = m_axis = -1;
  m_gesture = m_bench.document().newGesture();
  if (const Move* move = m_bench.moves().move())
    for (int i = 0; i < int(move->size()); ++i)
      for (int axis = 0; axis < lanes(); ++axis) {
        MoveKey key = (*move)[size_t(i)];
        const QPointF at(xOf(key.time.toDouble()), yOf(axis, member(key, axis)));
        if (QLineF(at, event->position()).length() < kKeyReach) {
          m_key = i;
          m_axis = axis;
        }
      }
  if (m_key < 0) m_bench.goTo(m_bench.frameOf(secondsAt(event->position().x())));
  update();
}

void MoveCurves::mouseMoveEvent(QMouseEvent* event) {
  if (!(event->buttons() & Qt::LeftButton)) return;
  const Move* move = m_bench.moves().move();
  if (m_key < 0 || !move || m_key >= int(move->size())) {
    m_bench.goTo(m_bench.frameOf(secondsAt(event->position().x())));
    return;
  }
  MoveKey key = (*move)[size_t(m_key)];
  key.time = m_bench.timeOf(m_bench.frameOf(secondsAt(event->position().x())));
  member(key, m_axis) = valueAt(m_axis, event->position().y());
  m_bench.moves().changeKey(m_key, key, m_gesture);
}

void MoveCurves::mouseReleaseEvent(QMouseEvent*) {
  m_axis = -1;
}

void MoveCurves::mouseDoubleClickEvent(QMouseEvent* event) {
  m_bench.goTo(m_bench.frameOf(secondsAt(event->position().x())));
  m_bench.moves().setKey();
}

void MoveCurves::keyPressEvent(QKeyEvent* event) {
  switch (event->key()) {
  case Qt::Key_Left:
    return m_bench.goTo(m_bench.frame() - (event->modifiers() & Qt::ShiftModifier ? 10 : 1));
  case Qt::Key_Right:
    return m_bench.goTo(m_bench.frame() + (event->modifiers() & Qt::ShiftModifier ? 10 : 1));
  case Qt::Key_Home:
    return m_bench.goTo(m_bench.firstFrame());
  case Qt::Key_End:
    return m_bench.goTo(m_bench.endFrame() - 1);
  case Qt::Key_PageUp:
    return m_bench.moves().goToKey(-1);
  case Qt::Key_PageDown:
    return m_bench.moves().goToKey(1);
  case Qt::Key_Backspace: {
    const auto here = m_key >= 0 ? std::optional(m_key) : m_bench.moves().keyAt(m_bench.time());
    if (here) m_bench.moves().removeKey(*here);
    m_key = -1;
    return;
  }
  default:
    QWidget::keyPressEvent(event);
  }
}

void MoveCurves::paintEvent(QPaintEvent*) {
  const Theme& theme = Theme::current();
  QPainter painter(this);
  painter.fillRect(rect(), theme.sheet);
  if (!m_bench.media()) return;
  painter.setRenderHint(QPainter::Antialiasing);
  const QString names[] = {tr("across"), tr("down"), tr("zoom")};
  const Move* move = m_bench.moves().move();
  for (int axis = 0; axis < lanes(); ++axis) {
    const QRectF box = lane(axis);
    painter.setPen(Qt::NoPen);
    painter.setBrush(theme.paper);
    painter.drawRect(box);
    painter.setPen(theme.faint);
    painter.drawText(QRectF(6, box.top(), box.left() - 10, box.height()), Qt::AlignVCenter | Qt::AlignLeft,
                     names[axis]);
    const Track* track = m_bench.placesSubject() && axis < 2 ? m_bench.following().track() : nullptr;
    if (track) {
      QPolygonF way;
      for (const TrackPoint& point : track->points)
        way << QPointF(xOf(m_bench.timeOf(point.frame).toDouble()), yOf(axis, axis == 0 ? point.x() : point.y()));
      painter.setPen(QPen(theme.faint, 1));
      painter.drawPolyline(way);
    }
    if (!move) continue;
    QPainterPath curve;
    const int steps = std::max(2, int(box.width() / 2));
    for (int i = 0; i <= steps; ++i) {
      const double x = box.left() + box.width() * i / steps;
      const QPointF at(x, yOf(axis, part(placeAt(*move, secondsAt(x)), axis)));
      i == 0 ? curve.moveTo(at) : curve.lineTo(at);
    }
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(theme.accent, 1.6));
    painter.drawPath(curve);
    for (int i = 0; i < int(move->size()); ++i) {
      MoveKey key = (*move)[size_t(i)];
      const QPointF at(xOf(key.time.toDouble()), yOf(axis, member(key, axis)));
      painter.setBrush(i == m_key ? theme.ink : theme.accent);
      painter.setPen(QPen(theme.sheet, 1));
      painter.drawPolygon(
          QPolygonF{{at.x() - 5, at.y()}, {at.x(), at.y() - 5}, {at.x() + 5, at.y()}, {at.x(), at.y() + 5}});
    }
  }
  if (lanes() == 0) {
    painter.fillRect(lane(0), theme.paper);
    painter.setPen(theme.faint);
    painter.drawText(lane(0), Qt::AlignCenter,
                     !m_bench.placesSubject() && !m_bench.cell(m_bench.column()).framing.byHand() && m_bench.subject()
                         ? tr("The window follows the subject. Set a key to give it a move of its own.")
                     : m_bench.placesSubject() && !m_bench.subject()
                         ? tr("No subject yet: double-click in the picture to put it")
                         : tr("It stays where it is. Set a key to begin a move."));
  }
  const double x = xOf(m_bench.time().toDouble());
  painter.setPen(QPen(theme.ink, 1.5));
  painter.drawLine(QPointF(x, 4), QPointF(x, height() - 2));
  painter.setBrush(theme.ink);
  painter.drawPolygon(QPolygonF{{x - 5, 3}, {x + 5, 3}, {x, 11}});
  if (hasFocus()) {
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(theme.accent, 1));
    painter.drawRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5));
  }
}

} // namespace tromb
