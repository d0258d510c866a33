// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/order/SpeedCurve.h"

#include "app/style/Theme.h"
#include "time/Cadence.h"

#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <algorithm>
#include <array>
#include <cmath>

namespace tromb {
namespace {

constexpr double kKeyReach = 8;
constexpr double kStep = 1.05; ///< of an arrow key
// Speeds that have a line.
constexpr std::array<std::pair<int, int>, 7> kLines{{{1, 10}, {1, 4}, {1, 2}, {1, 1}, {2, 1}, {4, 1}, {10, 1}}};

} // namespace

SpeedCurve::SpeedCurve(Pacing& pacing, QWidget* parent)
    : QWidget(parent), m_pacing(pacing), m_held(pacing.session().document()) {
  setFocusPolicy(Qt::StrongFocus);
  setAccessibleName(tr("The speed along the shot"));
  connect(&pacing, &Pacing::changed, this, qOverload<>(&QWidget::update));
  connect(&pacing, &Pacing::moved, this, qOverload<>(&QWidget::update));
}

QRectF SpeedCurve::field() const {
  const double left = fontMetrics().horizontalAdvance(QStringLiteral("1000 %")) + 14.0;
  return QRectF(left, 8, width() - left - 10, height() - 16);
}

/// Twice as fast is as far up as half as fast is down.
double SpeedCurve::yOf(double speed) const {
  const double least = std::log2(kLeastTypedSpeed.toDouble());
  const double most = std::log2(kMostTypedSpeed.toDouble());
  const QRectF box = field();
  return box.bottom() - (std::log2(std::max(speed, 1e-3)) - least) / (most - least) * box.height();
}

Rational SpeedCurve::speedAt(double y) const {
  const double least = std::log2(kLeastTypedSpeed.toDouble());
  const double most = std::log2(kMostTypedSpeed.toDouble());
  const QRectF box = field();
  const double speed = std::exp2(least + (box.bottom() - y) / box.height() * (most - least));
  // Near a line it is the line's, near nothing it is a whole percent.
  constexpr double kNear = 4; // pixels
  for (const auto& [over, under] : kLines)
    if (std::abs(yOf(double(over) / under) - y) < kNear) return {over, under};
  return {std::max<int64_t>(1, std::llround(speed * 100)), 100};
}

QPointF SpeedCurve::pointOf(const Rational& sourceTime, const Rational& speed) const {
  const Shot& shot = *m_pacing.shot();
  const QRectF box = field();
  const double share = ((sourceTime - shot.in) / (shot.out - shot.in)).toDouble();
  return {box.left() + share * box.width(), yOf(speed.toDouble())};
}

Rational SpeedCurve::timeAt(double x) const {
  const Shot& shot = *m_pacing.shot();
  const QRectF box = field();
  constexpr int64_t kParts = 1'000'000;
  const double share = std::clamp((x - box.left()) / box.width(), 0.0, 1.0);
  return onTick(shot.in + (shot.out - shot.in) * Rational(std::llround(share * kParts), kParts));
}

std::vector<PaintedPart> SpeedCurve::paintedParts() const {
  std::vector<PaintedPart> parts;
  const Shot* shot = m_pacing.shot();
  for (size_t i = 0; shot && i < shot->pace.keys.size(); ++i) {
    const SpeedKey& key = shot->pace.keys[i];
    const QPoint at = pointOf(key.time, key.speed).toPoint();
    parts.push_back({tr("Key %1 of %2").arg(i + 1).arg(shot->pace.keys.size()),
                     QString::fromStdString(speedText(key.speed)), QRect(at - QPoint(5, 5), QSize(10, 10)),
                     m_pacing.chosen() == int(i)});
  }
  return parts;
}

QString SpeedCurve::paintedValue() const {
  const Shot* shot = m_pacing.shot();
  if (!shot) return tr("no shot whose speed can be changed");
  const TimeMap time = shot->time();
  return QString::fromStdString(speedText(time.speedAt(time.sinceBegin(m_pacing.sourceTime()))));
}

void SpeedCurve::mousePressEvent(QMouseEvent* event) {
  const Shot* shot = m_pacing.shot();
  if (!shot || event->button() != Qt::LeftButton) return;
  m_dragged = -1;
  for (size_t i = 0; i < shot->pace.keys.size(); ++i)
    if (QLineF(pointOf(shot->pace.keys[i].time, shot->pace.keys[i].speed), event->position()).length() < kKeyReach)
      m_dragged = int(i);
  m_gesture = m_pacing.session().document().newGesture();
  if (m_dragged >= 0)
    m_pacing.choose(m_dragged);
  else
    m_pacing.goTo(timeAt(event->position().x()));
}

void SpeedCurve::mouseMoveEvent(QMouseEvent* event) {
  if (!m_pacing.shot() || !(event->buttons() & Qt::LeftButton)) return;
  if (m_dragged < 0) return m_pacing.goTo(timeAt(event->position().x()));
  m_pacing.changeKey(m_dragged, timeAt(event->position().x()), speedAt(event->position().y()), m_gesture);
}

void SpeedCurve::mouseReleaseEvent(QMouseEvent*) {
  if (m_dragged >= 0) m_pacing.choose(m_dragged);
  m_dragged = -1;
}

void SpeedCurve::mouseDoubleClickEvent(QMouseEvent* event) {
  if (m_pacing.shot()) m_pacing.setKey(timeAt(event->position().x()));
}

void SpeedCurve::nudge(int frames, double factor) {
  const int chosen = m_pacing.chosen();
  if (chosen < 0) return;
  const SpeedKey key = m_pacing.shot()->pace.keys[size_t(chosen)];
  const Rational there = key.time + m_pacing.clock().rate().frameDuration() * Rational(frames);
  const Rational speed =
      factor == 1 ? key.speed : Rational(std::llround(key.speed.toDouble() * factor * 10'000), 10'000);
  m_pacing.changeKey(chosen, there, speed, m_held.of(frames != 0 ? QStringLiteral("time") : QStringLiteral("speed")));
  m_pacing.choose(chosen);
}

void SpeedCurve::keyPressEvent(QKeyEvent* event) {
  if (!m_pacing.shot()) return QWidget::keyPressEvent(event);
  const int many = event->modifiers() & Qt::ShiftModifier ? 10 : 1;
  switch (event->key()) {
  case Qt::Key_Left:
    return nudge(-many, 1);
  case Qt::Key_Right:
    return nudge(many, 1);
  case Qt::Key_Up:
    return nudge(0, std::pow(kStep, many));
  case Qt::Key_Down:
    return nudge(0, std::pow(kStep, -many));
  case Qt::Key_PageUp:
    return m_pacing.choose(m_pacing.chosen() - 1);
  case Qt::Key_PageDown:
    return m_pacing.choose(m_pacing.chosen() + 1);
  case Qt::Key_Backspace:
    return m_pacing.removeKey(m_pacing.chosen());
  default:
    QWidget::keyPressEvent(event);
  }
}

void SpeedCurve::paintEvent(QPaintEvent*) {
  const Theme& theme = Theme::current();
  QPainter painter(this);
  painter.setRenderHint(QPainter::Antialiasing);
  painter.fillRect(rect(), theme.sheet);
  const QRectF box = field();
  painter.fillRect(box, theme.paper);
  for (const auto& [over, under] : kLines) {
    const double y = yOf(double(over) / under);
    painter.setPen(QPen(theme.line, over == under ? 2 : 1));
    painter.drawLine(QPointF(box.left(), y), QPointF(box.right(), y));
    painter.setPen(over == under ? theme.ink : theme.faint);
    painter.drawText(QRectF(0, y - 10, box.left() - 8, 20), Qt::AlignRight | Qt::AlignVCenter,
                     QString::fromStdString(speedText(Rational(over, under))));
  }
  const Shot* shot = m_pacing.shot();
  if (!shot) {
    painter.setPen(theme.faint);
    painter.drawText(box, Qt::AlignCenter, tr("There is no shot under the playhead whose speed can be changed"));
    return;
  }
  const TimeMap time = shot->time();
  QPainterPath curve;
  const int steps = std::max(2, int(box.width()));
  const Rational first = time.sinceBegin(shot->in);
  const Rational way = time.sinceBegin(shot->out) - first;
  // Along the shot in small steps of its time, since a step in speed would be slanted along the source.
  for (int i = 0; i <= steps; ++i) {
    const Rational since = onTick(first + way * Rational(i, steps));
    const QPointF at = pointOf(time.sourceTime(since), time.speedAt(since));
    i == 0 ? curve.moveTo(at) : curve.lineTo(at);
  }
  painter.setClipRect(box.adjusted(-6, -6, 6, 6));
  painter.setBrush(Qt::NoBrush);
  painter.setPen(QPen(theme.accent, 1.8));
  painter.drawPath(curve);
  for (size_t i = 0; i < shot->pace.keys.size(); ++i) {
    const QPointF at = pointOf(shot->pace.keys[i].time, shot->pace.keys[i].speed);
    painter.setBrush(m_pacing.chosen() == int(i) ? theme.ink : theme.accent);
    painter.setPen(QPen(theme.sheet, 1));
    painter.drawPolygon(
        QPolygonF{{at.x() - 6, at.y()}, {at.x(), at.y() - 6}, {at.x() + 6, at.y()}, {at.x(), at.y() + 6}});
  }
  const double x = pointOf(m_pacing.sourceTime(), Rational(1)).x();
  painter.setPen(QPen(theme.ink, 1.2));
  painter.drawLine(QPointF(x, box.top()), QPointF(x, box.bottom()));
  painter.setClipping(false);
  if (!hasFocus()) return;
  painter.setBrush(Qt::NoBrush);
  painter.setPen(QPen(theme.accent, 1));
  painter.drawRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5));
}

} // namespace tromb
