// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/style/StatusLine.h"

#include "app/style/Theme.h"

#include <QPainter>
#include <algorithm>

namespace tromb {

StatusLine::StatusLine(Cell::State state, const QString& text, const QString& second, QWidget* parent, Form form)
    : QWidget(parent), m_state(state), m_text(text), m_second(second), m_form(form) {
  const int line = fontMetrics().height();
  setMinimumHeight(form == Form::OneLine ? line + 6 : 2 * line + 8);
  setAccessibleName(text + QStringLiteral(": ") + second);
  setToolTip(accessibleName());
}

void StatusLine::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  const int line = fontMetrics().height();
  drawStatusShape(painter, {2, 4 + (line - 10) / 2.0, 10, 10}, m_state);
  const auto say = [&](const QRect& rect, const QString& text, const QColor& colour) {
    painter.setPen(colour);
    painter.drawText(rect, Qt::AlignVCenter, fontMetrics().elidedText(text, Qt::ElideRight, rect.width()));
  };
  const QColor secondColour = m_state == Cell::State::Good ? Theme::current().faint : statusColour(m_state);
  if (m_form == Form::TwoLines) {
    say({20, 3, width() - 20, line}, m_text, Theme::current().ink);
    say({20, 3 + line, width() - 20, line}, m_second, secondColour);
    return;
  }
  const int first = std::min(width() / 4, 110);
  say({20, 3, first, line}, m_text, Theme::current().ink);
  say({20 + first + 8, 3, width() - 28 - first, line}, m_second, secondColour);
}

} // namespace tromb
