// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/shell/StatusTip.h"

#include <QStatusTipEvent>

namespace tromb {

StatusTip::StatusTip(QWidget* window) : QLabel(window) {
  setObjectName(QStringLiteral("statusTip"));
  setAttribute(Qt::WA_TransparentForMouseEvents);
  setAttribute(Qt::WA_StyledBackground);
  setTextFormat(Qt::PlainText);
  hide();
  window->installEventFilter(this);
}

bool StatusTip::eventFilter(QObject* watched, QEvent* event) {
  if (event->type() != QEvent::StatusTip) return QLabel::eventFilter(watched, event);
  setText(static_cast<QStatusTipEvent*>(event)->tip());
  adjustSize();
  move(0, parentWidget()->height() - height());
  raise();
  setVisible(!text().isEmpty());
  return true;
}

} // namespace tromb
