// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/shell/ActionsDialog.h"

#include "app/style/Theme.h"

#include <QHeaderView>
#include <QKeyEvent>
#include <QLineEdit>
#include <QTreeWidget>
#include <QVBoxLayout>
#include <algorithm>

namespace tromb {
namespace {

constexpr int kActionRole = Qt::UserRole;

QString keysOf(const QAction* action) {
  QStringList keys;
  for (const QKeySequence& each : action->shortcuts()) keys << each.toString(QKeySequence::NativeText);
  return keys.isEmpty() ? QStringLiteral("–") : keys.join(QStringLiteral(", "));
}

/// True if every typed word is the beginning of some word of the text.
bool found(const QString& wanted, const QString& in) {
  const QString text = QLatin1Char(' ') + in;
  const QStringList parts = wanted.split(QLatin1Char(' '), Qt::SkipEmptyParts);
  return std::all_of(parts.begin(), parts.end(),
                     [&](const QString& part) { return text.contains(QLatin1Char(' ') + part, Qt::CaseInsensitive); });
}

} // namespace

ActionsDialog::ActionsDialog(const Actions& actions, QWidget* parent)
    : QDialog(parent), m_actions(actions), m_typed(new QLineEdit(this)), m_list(new QTreeWidget(this)) {
  setWindowTitle(tr("All actions and their keys"));
  resize(fontMetrics().averageCharWidth() * 100, fontMetrics().height() * 34);
  m_typed->setPlaceholderText(tr("Type a few letters of what is to be done"));
  m_typed->setAccessibleName(tr("Find an action"));
  m_typed->setClearButtonEnabled(true);
  m_typed->installEventFilter(this);
  m_list->setAccessibleName(tr("Actions"));
  m_list->setColumnCount(3);
  m_list->setHeaderLabels({tr("Action"), tr("Keys"), tr("Holds")});
  m_list->setRootIsDecorated(false);
  m_list->setUniformRowHeights(true);
  m_list->setAllColumnsShowFocus(true);
  m_list->header()->setSectionResizeMode(0, QHeaderView::Stretch);
  // Only the first key sequence is listed.
  m_list->header()->setSectionResizeMode(1, QHeaderView::Fixed);
  m_list->header()->resizeSection(1, 19 * m_list->fontMetrics().averageCharWidth());
  m_list->header()->setSectionResizeMode(2, QHeaderView::ResizeToContents);
  auto* rows = new QVBoxLayout(this);
  rows->addWidget(m_typed);
  rows->addWidget(m_list, 1);
  connect(m_typed, &QLineEdit::textChanged, this, &ActionsDialog::list);
  connect(m_list, &QTreeWidget::itemActivated, this, &ActionsDialog::choose);
  list({});
}

void ActionsDialog::list(const QString& wanted) {
  m_list->clear();
  for (QAction* action : m_actions.all()) {
    const QString name = Actions::plainText(action);
    QString where = Actions::whereWords(Actions::rowOf(action).where);
    if (where.isEmpty()) where = tr("everywhere");
    if (!found(wanted, name + QLatin1Char(' ') + action->statusTip())) continue;
    auto* item = new QTreeWidgetItem(m_list, {name, keysOf(action), where});
    item->setToolTip(1, item->text(1));
    item->setData(0, kActionRole, QVariant::fromValue(action));
    item->setToolTip(0, action->statusTip());
    // Disabled actions are listed too, because people look up their keys here.
    if (!action->isEnabled())
      for (int column = 0; column < 3; ++column) item->setForeground(column, Theme::current().faint);
  }
  for (const KeyRow& row : keyTable()) {
    const QString view = QCoreApplication::translate("Actions", row.view);
    const QString words = QCoreApplication::translate("Actions", row.words);
    if (!found(wanted, words + QLatin1Char(' ') + view)) continue;
    auto* item = new QTreeWidgetItem(m_list, {words, QCoreApplication::translate("Actions", row.keys), view});
    for (int column = 0; column < 3; ++column) item->setForeground(column, Theme::current().faint);
  }
  // Selects the first enabled action, which Return then runs.
  for (int row = 0; row < m_list->topLevelItemCount(); ++row)
    if (QAction* action = m_list->topLevelItem(row)->data(0, kActionRole).value<QAction*>();
        action && action->isEnabled()) {
      m_list->setCurrentItem(m_list->topLevelItem(row));
      break;
    }
}

void ActionsDialog::choose() {
  const QTreeWidgetItem* item = m_list->currentItem();
  QAction* action = item ? item->data(0, kActionRole).value<QAction*>() : nullptr;
  if (!action || !action->isEnabled()) return;
  m_chosen = action;
  accept();
}

bool ActionsDialog::eventFilter(QObject* watched, QEvent* event) {
  if (watched == m_typed && event->type() == QEvent::KeyPress) {
    const auto* key = static_cast<QKeyEvent*>(event);
    switch (key->key()) {
    case Qt::Key_Up:
    case Qt::Key_Down:
    case Qt::Key_PageUp:
    case Qt::Key_PageDown: // go through the list while the field keeps the keyboard
      QCoreApplication::sendEvent(m_list, event);
      return true;
    case Qt::Key_Return:
    case Qt::Key_Enter:
      choose();
      return true;
    default:
      break;
    }
  }
  return QDialog::eventFilter(watched, event);
}

} // namespace tromb
