// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/style/TypedKeys.h"

#include <QAbstractButton>
#include <QAbstractItemView>
#include <QComboBox>
#include <QKeyEvent>
#include <QMenu>
#include <QMenuBar>

namespace tromb {
namespace {

bool isPressedBySpace(const QObject* watched) {
  if (qobject_cast<const QAbstractButton*>(watched)) return true;
  const auto* view = qobject_cast<const QAbstractItemView*>(watched);
  return view && (view->currentIndex().flags() & Qt::ItemIsUserCheckable);
}

} // namespace

bool TypedKeys::eventFilter(QObject* watched, QEvent* event) {
  if (event->type() != QEvent::ShortcutOverride) return false; // Qt asks with this event before it runs a shortcut
  auto& key = static_cast<QKeyEvent&>(*event);
  const bool plain = !(key.modifiers() & (Qt::ControlModifier | Qt::AltModifier | Qt::MetaModifier));
  const bool letter = plain && !key.text().isEmpty() && key.text().at(0).isPrint();
  if (plain && key.key() == Qt::Key_Space && isPressedBySpace(watched)) {
    event->accept();
    return true;
  }
  const auto* bar = qobject_cast<const QMenuBar*>(watched);
  if (!qobject_cast<const QMenu*>(watched) && !(bar && bar->hasFocus() && plain) &&
      !(letter && qobject_cast<const QComboBox*>(watched)))
    return false;
  event->accept();
  return true;
}

} // namespace tromb
