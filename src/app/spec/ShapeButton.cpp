// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/spec/ShapeButton.h"

#include "app/style/Theme.h"

#include <QPainter>
#include <cmath>

namespace tromb {

ShapeButton::ShapeButton(const QString& name, Size canvas, QWidget* parent)
    : QAbstractButton(parent), m_canvas(canvas) {
  setText(name);
  setAccessibleName(QStringLiteral("%1, %2").arg(name, QString::fromStdString(sizeText(canvas))));
  setCheckable(true);
  setFocusPolicy(Qt::StrongFocus);
  setCursor(Qt::PointingHandCursor);
}

QSize ShapeButton::sizeHint() const {
  return {fontMetrics().averageCharWidth() * 19, 74 + 2 * fontMetrics().height()};
}

void ShapeButton::paintEvent(QPaintEvent*) {
  const Theme& theme = Theme::current();
  QPainter painter(this);
  painter.setRenderHint(QPainter::Antialiasing);
  const QRectF all = QRectF(rect()).adjusted(1, 1, -1, -1);
  QColor fill = theme.sheet;
  if (isChecked()) {
    fill = theme.accent;
    fill.setAlphaF(0.16F);
  }
  painter.setPen(QPen(isChecked() || hasFocus() || underMouse() ? theme.accent : theme.line, hasFocus() ? 2 : 1));
  painter.setBrush(fill);
  painter.drawRoundedRect(all, 6, 6);
  // All shapes are drawn with the same area, so that none looks more important.
  constexpr double kSide = 42;
  const double scale = kSide / std::sqrt(double(m_canvas.width) * m_canvas.height);
  const QSizeF size(m_canvas.width * scale, m_canvas.height * scale);
  const double fit = std::min({1.0, 56 / size.height(), (all.width() - 16) / size.width()});
  const QSizeF shown = size * fit;
  painter.setPen(QPen(theme.ink, 1.5));
  painter.setBrush(theme.surround);
  painter.drawRoundedRect(QRectF(QPointF(all.center().x() - shown.width() / 2, 38 - shown.height() / 2), shown), 2, 2);
  QFont bold = font();
  bold.setWeight(QFont::DemiBold);
  painter.setFont(bold);
  painter.setPen(theme.ink);
  const int line = fontMetrics().height();
  painter.drawText(QRectF(4, 70, width() - 8, line), Qt::AlignCenter,
                   QFontMetrics(bold).elidedText(text(), Qt::ElideRight, width() - 10));
  painter.setFont(font());
  painter.setPen(theme.faint);
  painter.drawText(QRectF(4, 70 + line, width() - 8, line), Qt::AlignCenter,
                   QString::fromStdString(sizeText(m_canvas)));
}

} // namespace tromb
