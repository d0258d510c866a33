// SPDX-License-Identifier: GPL-3.0-or-later
// How BenchCanvas is drawn.
#include "app/bench/BenchCanvas.h"
#include "app/style/Theme.h"

#include <QPainter>
#include <QPainterPath>

namespace tromb {
namespace {

constexpr int kLoupe = 220;
constexpr int kPathSteps = 120;

} // namespace

void BenchCanvas::paintWindows(QPainter& painter) const {
  const Theme& theme = Theme::current();
  const auto& all = m_bench.document().project().deliverables;
  const Cell active = m_bench.cell(m_bench.column());
  // Dims the part of the picture that the active deliverable does not show.
  QPainterPath outside;
  outside.addRect(pictureRect());
  QPainterPath shown;
  for (int window = 0; window < int(active.framing.windows.size()); ++window)
    shown.addRect(toScreen(m_bench.windowRect(m_bench.column(), window)));
  painter.fillPath(outside.subtracted(shown), QColor(0, 0, 0, 110));
  const std::vector<QRectF> labels = labelRects();
  const auto outline = [&](int column) {
    const bool isActive = column == m_bench.column();
    const Cell cell = isActive ? active : m_bench.cell(column);
    for (int window = 0; window < int(cell.framing.windows.size()); ++window) {
      const QRectF rect = toScreen(m_bench.windowRect(column, window));
      painter.setBrush(Qt::NoBrush);
      painter.setPen(QPen(QColor(0, 0, 0, 120), isActive ? 4 : 2));
      painter.drawRect(rect);
      painter.setPen(QPen(isActive ? QColor(255, 255, 255) : QColor(255, 255, 255, 130), isActive ? 2 : 1));
      painter.drawRect(rect);
      if (isActive && window == m_bench.window() && !m_bench.placesSubject()) {
        painter.setBrush(theme.accent);
        painter.setPen(QPen(QColor(255, 255, 255), 1.5));
        for (const QPointF corner : {rect.topLeft(), rect.topRight(), rect.bottomLeft(), rect.bottomRight()})
          painter.drawRect(QRectF(corner - QPointF(4, 4), QSizeF(8, 8)));
      }
      const QRectF& label = labels[size_t(column)];
      if (window > 0 || label.isEmpty()) continue;
      painter.setPen(Qt::NoPen);
      painter.setBrush(isActive ? theme.accent : QColor(0, 0, 0, 130));
      painter.drawRoundedRect(label, 2, 2);
      painter.setPen(isActive ? theme.onAccent : QColor(255, 255, 255, 220));
      painter.drawText(label, Qt::AlignCenter, QString::fromStdString(all[size_t(column)].name));
    }
  };
  for (const int column : m_bench.columns())
    if (column != m_bench.column()) outline(column);
  outline(m_bench.column());
}

void BenchCanvas::paintPath(QPainter& painter) const {
  const Move* move = m_bench.moves().move();
  if (!move || move->size() < 2) return;
  const SizeF whole = m_bench.picture();
  const auto at = [&](double seconds) {
    const MovePlace place = placeAt(*move, seconds);
    return toScreen(QPointF(place.x * whole.width, place.y * whole.height));
  };
  const double from = move->front().time.toDouble();
  const double to = move->back().time.toDouble();
  QPainterPath path(at(from));
  for (int i = 1; i <= kPathSteps; ++i) path.lineTo(at(from + (to - from) * i / kPathSteps));
  painter.setBrush(Qt::NoBrush);
  painter.setPen(QPen(QColor(0, 0, 0, 150), 4));
  painter.drawPath(path);
  painter.setPen(QPen(QColor(255, 255, 255, 220), 1.5));
  painter.drawPath(path);
  painter.setBrush(Theme::current().accent);
  for (const MoveKey& key : *move) {
    const QPointF centre = at(key.time.toDouble());
    painter.drawPolygon(QPolygonF{{centre.x() - 5, centre.y()},
                                  {centre.x(), centre.y() - 5},
                                  {centre.x() + 5, centre.y()},
                                  {centre.x(), centre.y() + 5}});
  }
}

void BenchCanvas::paintTrack(QPainter& painter) const {
  const Track* track = m_bench.placesSubject() ? m_bench.following().track() : nullptr;
  if (track) {
    const SizeF whole = m_bench.picture();
    QPolygonF way;
    for (const TrackPoint& point : track->points)
      way << toScreen(QPointF(point.x() * whole.width, point.y() * whole.height));
    painter.setPen(QPen(QColor(0, 0, 0, 120), 3));
    painter.drawPolyline(way);
    painter.setPen(QPen(QColor(255, 255, 255, 170), 1, Qt::DotLine));
    painter.drawPolyline(way);
    for (const TrackPoint& point : track->points)
      if (point.frame == m_bench.frame()) {
        painter.setBrush(Qt::NoBrush);
        painter.drawRect(toScreen(QRectF(point.box.x * whole.width, point.box.y * whole.height,
                                         point.box.width * whole.width, point.box.height * whole.height)));
      }
  }
  if (!m_boxing) return;
  const QRectF box = toScreen(m_box.isEmpty() ? usualBox() : m_box);
  painter.setBrush(Qt::NoBrush);
  painter.setPen(QPen(QColor(0, 0, 0, 170), 4));
  painter.drawRect(box);
  painter.setPen(QPen(QColor(255, 255, 255), 2, m_box.isEmpty() ? Qt::DashLine : Qt::SolidLine));
  painter.drawRect(box);
}

/// What was found: ways as lines, what is seen at this moment as boxes with a word each. The kinds differ by their
/// lines, not by colour alone.
void BenchCanvas::paintFound(QPainter& painter) const {
  if (!m_found) return;
  const SizeF whole = m_bench.picture();
  const auto onScreen = [&](const RectF& box) {
    return toScreen(
        QRectF(box.x * whole.width, box.y * whole.height, box.width * whole.width, box.height * whole.height));
  };
  const auto twice = [&](QColor colour, double width, Qt::PenStyle style, const auto& draw) {
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(QColor(0, 0, 0, 150), width + 2));
    draw();
    painter.setPen(QPen(colour, width, style));
    draw();
  };
  const int64_t now = m_bench.frame();
  for (const CoursePart& part : m_found->course.parts) {
    if (now < part.first || now >= part.end) continue;
    const auto way = [&](const Way& each, bool chosen) {
      QPolygonF line;
      for (const TrackPoint& point : each.track.points)
        line << toScreen(QPointF(point.x() * whole.width, point.y() * whole.height));
      twice(chosen ? Theme::current().accent : QColor(230, 230, 230), chosen ? 2 : 1,
            chosen ? Qt::SolidLine : Qt::DotLine, [&] { painter.drawPolyline(line); });
    };
    for (const Way& each : part.others) way(each, false);
    for (const Way& each : part.ways) way(each, true);
  }
  const auto& glances = m_found->look.glances;
  auto glance = std::upper_bound(glances.begin(), glances.end(), now,
                                 [](int64_t frame, const Glance& g) { return frame < g.frame; });
  if (glance == glances.begin()) return;
  // Faces and lettering are looked for seldomer: what was seen last holds for a moment.
  const auto painted = [&](Sight::Kind kind) {
    constexpr int kBack = 6;
    auto at = glance;
    for (int back = 0; back < kBack && at != glances.begin(); ++back) {
      --at;
      bool any = false;
      for (const Sight& sight : at->sights) {
        if (sight.kind != kind) continue;
        any = true;
        const QRectF box = onScreen(sight.box);
        const Qt::PenStyle style = kind == Sight::Kind::Face     ? Qt::SolidLine
                                   : kind == Sight::Kind::Motion ? Qt::DashLine
                                                                 : Qt::DotLine;
        twice(QColor(255, 255, 255), 1.4, style, [&] { painter.drawRect(box); });
        const QString word = kind == Sight::Kind::Face     ? tr("face")
                             : kind == Sight::Kind::Motion ? tr("moves")
                             : kind == Sight::Kind::Words  ? tr("words")
                                                           : tr("stands out");
        const QRectF plate(box.topLeft() + QPointF(2, 2),
                           QSizeF(fontMetrics().horizontalAdvance(word) + 8, fontMetrics().height() + 2));
        painter.fillRect(plate, QColor(0, 0, 0, 160));
        painter.setPen(Qt::white);
        painter.drawText(plate, Qt::AlignCenter, word);
      }
      if (any || kind == Sight::Kind::Motion || kind == Sight::Kind::Detail) return;
    }
  };
  for (const Sight::Kind kind : {Sight::Kind::Detail, Sight::Kind::Motion, Sight::Kind::Words, Sight::Kind::Face})
    painted(kind);
}

void BenchCanvas::paintSubject(QPainter& painter) const {
  const auto subject = m_bench.subject();
  if (!subject) return;
  const QPointF at = toScreen(*subject);
  for (const auto& [colour, width] : {std::pair(QColor(0, 0, 0, 170), 4.0), std::pair(QColor(255, 255, 255), 1.8)}) {
    painter.setPen(QPen(colour, width));
    painter.setBrush(Qt::NoBrush);
    painter.drawEllipse(at, 8, 8);
    for (const QPointF arm : {QPointF(1, 0), QPointF(-1, 0), QPointF(0, 1), QPointF(0, -1)})
      painter.drawLine(at + arm * 5, at + arm * 14);
  }
  if (m_bench.placesSubject()) {
    painter.setPen(Qt::NoPen);
    painter.setBrush(Theme::current().accent);
    painter.drawEllipse(at, 4, 4);
  }
}

void BenchCanvas::paintLoupe(QPainter& painter) const {
  if (!m_loupe || m_picture.isNull() || !pictureRect().contains(m_pointer)) return;
  // The loupe shows one pixel of the source as one pixel of the screen.
  const QPointF at = toPicture(m_pointer) * (m_picture.width() / m_bench.picture().width);
  const QRectF from(at - QPointF(kLoupe / 2.0, kLoupe / 2.0), QSizeF(kLoupe, kLoupe));
  QRectF to(m_pointer + QPointF(18, 18), QSizeF(kLoupe, kLoupe));
  if (to.right() > width()) to.moveRight(m_pointer.x() - 18);
  if (to.bottom() > height()) to.moveBottom(m_pointer.y() - 18);
  painter.fillRect(to, Theme::current().surround);
  painter.drawImage(to, m_picture, from);
  painter.setBrush(Qt::NoBrush);
  painter.setPen(QPen(QColor(255, 255, 255), 2));
  painter.drawRect(to);
}

void BenchCanvas::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  const Theme& theme = Theme::current();
  painter.fillRect(rect(), theme.surround);
  painter.setRenderHints(QPainter::SmoothPixmapTransform | QPainter::Antialiasing);
  if (!m_bench.media()) {
    painter.setPen(Qt::white);
    painter.drawText(rect(), Qt::AlignCenter,
                     m_bench.shot() ? tr("There is no picture to show") : tr("Choose a shot in the running order"));
    return;
  }
  const QRectF shown = pictureRect();
  painter.fillRect(shown, QColor(40, 40, 40));
  const QSize pixels = (shown.size() * devicePixelRatioF()).toSize();
  if (!m_picture.isNull() && m_drawn.size() != pixels)
    m_drawn = QPixmap::fromImage(m_picture.scaled(pixels, Qt::IgnoreAspectRatio, Qt::SmoothTransformation));
  if (!m_picture.isNull()) painter.drawPixmap(shown, m_drawn, QRectF(m_drawn.rect()));
  if (m_thirds) {
    painter.setPen(QPen(QColor(255, 255, 255, 90), 1));
    for (const double share : {1.0 / 3, 2.0 / 3}) {
      painter.drawLine(QPointF(shown.left() + shown.width() * share, shown.top()),
                       QPointF(shown.left() + shown.width() * share, shown.bottom()));
      painter.drawLine(QPointF(shown.left(), shown.top() + shown.height() * share),
                       QPointF(shown.right(), shown.top() + shown.height() * share));
    }
    const QPointF centre = shown.center();
    painter.drawLine(centre - QPointF(12, 0), centre + QPointF(12, 0));
    painter.drawLine(centre - QPointF(0, 12), centre + QPointF(0, 12));
  }
  paintWindows(painter);
  paintFound(painter);
  paintTrack(painter);
  paintPath(painter);
  paintSubject(painter);
  paintLoupe(painter);
  if (hasFocus()) {
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(theme.accent, 2));
    painter.drawRect(QRectF(rect()).adjusted(1, 1, -1, -1));
  }
}

} // namespace tromb
