// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QLabel>
#include <QPainter>

namespace tromb {

/// One line that ends in an ellipsis where there is too little room for it; all of it is its tool tip then.
class ElidedLabel : public QLabel {
public:
  using QLabel::QLabel;
  [[nodiscard]] QSize minimumSizeHint() const override {
    return {fontMetrics().horizontalAdvance(QStringLiteral("MMM…")), QLabel::minimumSizeHint().height()};
  }

protected:
  void paintEvent(QPaintEvent*) override {
    QPainter painter(this);
    const QString shown = fontMetrics().elidedText(text(), Qt::ElideRight, width());
    setToolTip(shown == text() ? QString() : text());
    painter.setPen(palette().color(foregroundRole()));
    painter.drawText(rect(), int(alignment()), shown);
  }
};

} // namespace tromb
