// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/style/WheelGuard.h"

#include <QAbstractScrollArea>
#include <QAbstractSpinBox>
#include <QComboBox>
#include <QEvent>
#include <QSlider>

namespace tromb {
namespace {

bool liesOnAPage(const QWidget* widget) {
  for (widget = widget->parentWidget(); widget; widget = widget->parentWidget())
    if (qobject_cast<const QAbstractScrollArea*>(widget)) return true;
  return false;
}

} // namespace

bool WheelGuard::eventFilter(QObject* watched, QEvent* event) {
  if (event->type() != QEvent::Wheel && event->type() != QEvent::Polish) return false;
  auto* list = qobject_cast<QComboBox*>(watched);
  auto* number = qobject_cast<QAbstractSpinBox*>(watched);
  auto* slider = qobject_cast<QSlider*>(watched);
  if (!list && !number && !slider) return false;
  auto* widget = static_cast<QWidget*>(watched);
  if (event->type() == QEvent::Polish) {
    if (widget->focusPolicy() == Qt::WheelFocus) widget->setFocusPolicy(Qt::StrongFocus);
    return false;
  }
  if (!liesOnAPage(widget) || (!list && widget->hasFocus())) return false;
  event->ignore(); // so that it goes on to the page
  return true;
}

} // namespace tromb
