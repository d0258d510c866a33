// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/style/CanvasGuides.h"

#include "destination/Destination.h"

namespace tromb {
namespace {

/// EBU R 95 (2017), for pictures of 16:9: 3.5 % from each edge for action, 5 % for graphics.
constexpr double kActionSafe = 0.035;
constexpr double kGraphicsSafe = 0.05;
constexpr double kCross = 6; ///< half the length of the lines at the centre

void paintSafe(QPainter& painter, const QRectF& canvas) {
  for (const double inset : {kActionSafe, kGraphicsSafe}) {
    const double x = canvas.width() * inset;
    const double y = canvas.height() * inset;
    painter.setPen(QPen(QColor(255, 255, 255, inset == kActionSafe ? 110 : 190), 1));
    painter.drawRect(canvas.adjusted(x, y, -x, -y));
  }
}

void paintThirds(QPainter& painter, const QRectF& canvas) {
  painter.setPen(QPen(QColor(255, 255, 255, 140), 1));
  for (const double share : {1.0 / 3, 2.0 / 3}) {
    const double x = canvas.left() + canvas.width() * share;
    const double y = canvas.top() + canvas.height() * share;
    painter.drawLine(QPointF(x, canvas.top()), QPointF(x, canvas.bottom()));
    painter.drawLine(QPointF(canvas.left(), y), QPointF(canvas.right(), y));
  }
  const QPointF middle = canvas.center();
  painter.drawLine(middle - QPointF(kCross, 0), middle + QPointF(kCross, 0));
  painter.drawLine(middle - QPointF(0, kCross), middle + QPointF(0, kCross));
}

} // namespace

void paintGuides(QPainter& painter, const QRectF& canvas, const Deliverable& deliverable, const CanvasGuides& guides) {
  painter.setBrush(Qt::NoBrush);
  if (guides.thirds) paintThirds(painter, canvas);
  if (guides.safeAreas) paintSafe(painter, canvas);
  const auto to = guides.covered || guides.safeAreas ? destination(deliverable.destination) : nullptr;
  if (!to) return;
  if (guides.safeAreas && to->safe != SafeInsets()) { // what the destination asks for itself
    painter.setPen(QPen(QColor(255, 255, 255, 230), 1, Qt::DashLine));
    painter.drawRect(canvas.adjusted(to->safe.left * canvas.width(), to->safe.top * canvas.height(),
                                     -to->safe.right * canvas.width(), -to->safe.bottom * canvas.height()));
  }
  if (!guides.covered) return;
  for (const CoveredPart& each : to->covered) {
    const QRectF part(canvas.left() + each.part.x * canvas.width(), canvas.top() + each.part.y * canvas.height(),
                      each.part.width * canvas.width(), each.part.height * canvas.height());
    painter.fillRect(part, QColor(0, 0, 0, 90));
    painter.fillRect(part, QBrush(QColor(255, 255, 255, 150), Qt::BDiagPattern));
  }
}

} // namespace tromb
