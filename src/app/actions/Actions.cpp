// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/actions/Actions.h"

#include "app/style/Icons.h"

#include <QMenu>
#include <QMenuBar>
#include <QMetaObject>
#include <QToolButton>
#include <utility>

namespace tromb {
namespace {

constexpr const char* kPlace = "tableRow"; ///< property of an action: its row in the table

} // namespace

Actions::Actions(QWidget* parent) : QObject(parent), m_window(parent) {
  const std::vector<ActionRow>& rows = actionTable();
  for (size_t place = 0; place < rows.size(); ++place) {
    const ActionRow& row = rows[place];
    const QString id = QString::fromLatin1(row.id);
    if (id.isEmpty() || id.startsWith(QLatin1String("menu:"))) continue;
    if (m_byId.contains(id)) qFatal("two actions are called '%s'", row.id);
    auto* action = new QAction(words(row.text), this);
    action->setObjectName(id);
    action->setProperty(kPlace, int(place));
    if (*row.icon) action->setIcon(icon(QString::fromLatin1(row.icon)));
    if (*row.brief) action->setIconText(words(row.brief));
    action->setShortcuts(row.keys);
    action->setCheckable(row.checkable);
    // Menus draw a checked icon as its button does, light, and no mark: the mark says more.
    if (row.checkable) action->setIconVisibleInMenu(false);
    // A key without Ctrl or Alt works only in its own view, so that the letter can be typed elsewhere.
    const bool ofView = row.where != Where::Anywhere && row.where != Where::OnFootage;
    if (ofView) action->setShortcutContext(Qt::WidgetWithChildrenShortcut);
    if (m_window && !ofView) m_window->addAction(action);
    tell(*action, row);
    connect(action, &QAction::triggered, this, [this, id] {
      if (const auto bound = m_bound.constFind(id); bound != m_bound.constEnd() && bound->run) bound->run();
      refresh(); // before the next key
    });
    m_all << action;
    m_byId.insert(id, action);
  }
}

void Actions::tell(QAction& action, const ActionRow& row) {
  action.setStatusTip(*row.tip ? words(row.tip) : QString()); // its text alone stands in the menu
  QString told = *row.tip ? words(row.tip) : plainText(&action);
  if (!action.shortcut().isEmpty())
    told += QStringLiteral(" (%1)").arg(action.shortcut().toString(QKeySequence::NativeText));
  action.setToolTip(told);
}

QAction* Actions::at(QAnyStringView id) const {
  QAction* action = m_byId.value(id.toString());
  if (!action) qFatal("there is no action '%s'", qPrintable(id.toString()));
  return action;
}

const ActionRow& Actions::rowOf(const QAction* action) {
  return actionTable()[size_t(action->property(kPlace).toInt())];
}

QString Actions::plainText(const QAction* action) {
  return action->text().remove(QLatin1Char('&'));
}

QString Actions::whereWords(Where where) {
  switch (where) {
  case Where::Anywhere:
    return {};
  case Where::OnFootage:
    return words(QT_TRANSLATE_NOOP("Actions", "on the footage"));
  case Where::OnSheet:
    return words(QT_TRANSLATE_NOOP("Actions", "on the contact sheet"));
  case Where::OnBench:
    return words(QT_TRANSLATE_NOOP("Actions", "on the bench"));
  case Where::OnSheetOrBench:
    return words(QT_TRANSLATE_NOOP("Actions", "on the contact sheet or the bench"));
  case Where::OnOrder:
    return words(QT_TRANSLATE_NOOP("Actions", "on the running order"));
  case Where::OnWatch:
    return words(QT_TRANSLATE_NOOP("Actions", "while watching"));
  case Where::OnDispatch:
    return words(QT_TRANSLATE_NOOP("Actions", "in the dispatch"));
  case Where::WherePlayed:
    return words(QT_TRANSLATE_NOOP("Actions", "where shots are seen"));
  }
  return {};
}

void Actions::bind(QAnyStringView id, std::function<void()> run, std::function<bool()> holds) {
  m_bound.insert(at(id)->objectName(), {std::move(run), std::move(holds)});
  refreshSoon();
}

void Actions::belongTo(Where where, QWidget* widget, std::function<bool()> seenNow) {
  m_seen.insert(int(where), std::move(seenNow));
  for (QAction* action : m_all) {
    const Where its = rowOf(action).where;
    const bool shared = (its == Where::OnSheetOrBench && (where == Where::OnSheet || where == Where::OnBench)) ||
                        its == Where::WherePlayed;
    if (where != Where::OnFootage && (its == where || (shared && where != Where::OnDispatch)))
      widget->addAction(action);
  }
}

void Actions::setText(QAnyStringView id, const QString& text) {
  QAction* action = at(id);
  if (action->text() == text) return;
  action->setText(text);
  tell(*action, rowOf(action));
}

bool Actions::seen(Where where) const {
  if (where == Where::OnSheetOrBench) return seen(Where::OnSheet) || seen(Where::OnBench);
  if (where == Where::WherePlayed) return seen(Where::OnSheetOrBench) || seen(Where::OnOrder) || seen(Where::OnWatch);
  const auto found = m_seen.constFind(int(where));
  return found == m_seen.constEnd() || (*found)();
}

void Actions::refreshSoon() {
  if (std::exchange(m_refreshing, true)) return;
  QMetaObject::invokeMethod(
      this,
      [this] {
        if (m_refreshing) refresh(); // somebody may have refreshed them meanwhile
      },
      Qt::QueuedConnection);
}

void Actions::refresh() {
  m_refreshing = false;
  for (QAction* action : m_all) {
    const auto bound = m_bound.constFind(action->objectName());
    const bool can = bound != m_bound.constEnd() && seen(rowOf(action).where) && (!bound->holds || bound->holds());
    action->setEnabled(can);
  }
}

// ---- what is made from it

void Actions::fill(QMenuBar& bar) {
  for (const MenuRow& row : menuTable())
    if (!*row.id) {
      QMenu* made = bar.addMenu(words(row.title));
      m_menus.insert(int(row.menu), made);
      fill(*made, row.menu);
    }
}

void Actions::fill(QMenu& menu, MenuId id) {
  for (const ActionRow& row : actionTable()) {
    if (row.menu != id) continue;
    if (!*row.id) {
      menu.addSeparator();
    } else if (QString::fromLatin1(row.id).startsWith(QLatin1String("menu:"))) {
      for (const MenuRow& inner : menuTable())
        if (qstrcmp(inner.id, row.id) == 0) {
          QMenu* made = menu.addMenu(words(inner.title));
          m_menus.insert(int(inner.menu), made);
          fill(*made, inner.menu);
        }
    } else {
      menu.addAction(at(QString::fromLatin1(row.id)));
    }
  }
}

QMenu* Actions::menu(MenuId menu) const {
  return m_menus.value(int(menu));
}

QMenu* Actions::contextMenu(Where where, QWidget* parent) const {
  auto* made = new QMenu(parent);
  made->setAttribute(Qt::WA_DeleteOnClose);
  MenuId last{};
  for (QAction* action : m_all) {
    const ActionRow& row = rowOf(action);
    const bool shared = row.where == Where::OnSheetOrBench && (where == Where::OnSheet || where == Where::OnBench);
    if (!row.inContext || (row.where != where && !shared)) continue;
    if (!made->isEmpty() && row.menu != last) made->addSeparator();
    made->addAction(action);
    last = row.menu;
  }
  return made;
}

QToolButton* Actions::button(QAnyStringView id, Qt::ToolButtonStyle style, QWidget* parent) const {
  auto* made = new QToolButton(parent);
  QAction* action = at(id);
  made->setDefaultAction(action);
  made->setToolButtonStyle(style);
  made->setFocusPolicy(Qt::TabFocus);
  made->setAccessibleName(plainText(action));
  made->setIconSize({16, 16});
  return made;
}

} // namespace tromb
