// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/spec/CanvasDrawing.h"

#include "app/style/Theme.h"
#include "preflight/Preflight.h"

#include <QPainter>
#include <algorithm>
#include <cmath>

namespace tromb {

CanvasDrawing::CanvasDrawing(QWidget* parent) : QWidget(parent) {
  setAccessibleName(tr("The canvas and the pictures of the sources, to scale"));
  setMinimumSize(150, 120);
  setMaximumHeight(kMostHeight);
  setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Expanding); // large where there is room, and never what scrolls
}

void CanvasDrawing::show(const Deliverable& deliverable, const std::vector<SourceInCanvas>& sources) {
  m_canvas = {double(deliverable.canvas.width), double(deliverable.canvas.height)};
  m_pixelAspect = deliverable.pixelAspect.toDouble();
  m_pictures.clear();
  for (const SourceInCanvas& each : sources) {
    const SizeF size = each.shape.picture();
    const QString name = QString::fromStdString(each.name);
    const auto same = std::find_if(m_pictures.begin(), m_pictures.end(), [&](const Picture& p) {
      return std::abs(p.size.width - size.width) < 1 && std::abs(p.size.height - size.height) < 1;
    });
    if (same != m_pictures.end()) {
      same->names << name;
      same->detail = std::min(same->detail, each.detail);
    } else {
      m_pictures.push_back({size, {name}, each.detail, {}});
    }
  }
  std::stable_sort(m_pictures.begin(), m_pictures.end(), [](const Picture& a, const Picture& b) {
    return a.size.width * a.size.height > b.size.width * b.size.height;
  });
  for (Picture& p : m_pictures) {
    const QString size = QStringLiteral("%1×%2").arg(qRound(p.size.width)).arg(qRound(p.size.height));
    p.words = p.names.size() == 1 ? tr("%1, %2").arg(p.names.front(), size)
                                  : tr("%n sources, %1", nullptr, int(p.names.size())).arg(size);
  }
  QStringList all;
  for (const Picture& p : m_pictures) all << p.words;
  setToolTip(all.join(QLatin1Char('\n')));
  update();
}

QRectF CanvasDrawing::rectOf(const SizeF& size) const {
  double width = m_canvas.width * m_pixelAspect;
  double height = m_canvas.height;
  for (const Picture& p : m_pictures) {
    width = std::max(width, p.size.width * m_pixelAspect);
    height = std::max(height, p.size.height);
  }
  const QRectF room = QRectF(rect()).adjusted(8, 8, -8, -8);
  // The canvas is what matters: pictures that are far larger run out of the drawing.
  constexpr double kCanvasShare = 0.62;
  const double canvas = std::min(room.width() / (m_canvas.width * m_pixelAspect), room.height() / m_canvas.height);
  const double scale = std::max(kCanvasShare * canvas, std::min(room.width() / width, room.height() / height));
  const QSizeF shown(size.width * m_pixelAspect * scale, size.height * scale);
  return {room.center() - QPointF(shown.width() / 2, shown.height() / 2), shown};
}

void CanvasDrawing::paintEvent(QPaintEvent*) {
  const Theme& theme = Theme::current();
  QPainter painter(this);
  painter.setRenderHint(QPainter::Antialiasing);
  painter.setPen(Qt::NoPen);
  painter.setBrush(theme.surround);
  painter.drawRoundedRect(rect(), 4, 4);
  painter.setClipRect(rect());
  QColor paper = QColor(Qt::white);
  paper.setAlphaF(0.5F);
  const QRectF canvas = rectOf(m_canvas);
  painter.setBrush(paper);
  painter.drawRect(canvas);
  QFont small = font();
  small.setPointSizeF(small.pointSizeF() * 0.85);
  painter.setFont(small);
  const QFontMetrics letters(small);
  for (const Picture& p : m_pictures) {
    const QRectF picture = rectOf(p.size);
    const bool soft = p.detail < kSharpDetail;
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(soft ? statusColourOnSurround(Cell::State::Soft) : QColor(255, 255, 255, 170), 1.3,
                        soft ? Qt::SolidLine : Qt::DashLine));
    painter.drawRect(picture);
  }
  painter.setPen(QPen(QColor(Qt::white), 2.2));
  painter.drawRect(canvas);
  // Names, from the largest down, where there is room for them.
  double below = rect().top();
  for (const Picture& p : m_pictures) {
    const QRectF picture = rectOf(p.size) & QRectF(rect()).adjusted(1, 1, -1, -1);
    const double top = std::max(picture.top() + 2, below);
    if (top + letters.height() > picture.bottom()) continue;
    const QString words = letters.elidedText(p.words, Qt::ElideRight, int(picture.width()) - 6);
    const QRectF box(picture.left() + 3, top, letters.horizontalAdvance(words) + 4, letters.height());
    painter.fillRect(box, QColor(40, 40, 40, 170));
    painter.setPen(Qt::white);
    painter.drawText(box, Qt::AlignCenter, words);
    below = box.bottom() + 1;
  }
  const QString size = QStringLiteral("%1×%2").arg(m_canvas.width).arg(m_canvas.height);
  QFont bold = small;
  bold.setWeight(QFont::DemiBold);
  painter.setFont(bold);
  const int width = QFontMetrics(bold).horizontalAdvance(size) + 6;
  const QRectF box(std::min(canvas.right() - width - 1, rect().right() - width - 1.0),
                   canvas.bottom() - letters.height() - 2, width, letters.height());
  painter.fillRect(box.translated(std::max(0.0, canvas.left() - box.left()), 0), Qt::white);
  painter.setPen(QColor(40, 40, 40));
  painter.drawText(box.translated(std::max(0.0, canvas.left() - box.left()), 0), Qt::AlignCenter, size);
}

std::vector<PaintedPart> CanvasDrawing::paintedParts() const {
  std::vector<PaintedPart> parts;
  for (const Picture& p : m_pictures)
    parts.push_back({p.words, tr("detail %1").arg(QString::fromStdString(detailText(p.detail))),
                     rectOf(p.size).toRect(), false, false});
  return parts;
}

} // namespace tromb
