// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/actions/ActionTable.h"

#include <QAction>
#include <QAnyStringView>
#include <QCoreApplication>
#include <QHash>
#include <QObject>
#include <functional>

class QMenu;
class QMenuBar;
class QToolButton;

namespace tromb {

/// Everything that can be done in one window: an action for each row of the table, which those who do it bind to.
/// Menus, buttons, context menus and the list of keys are made from it. For the window's thread.
class Actions : public QObject {
  Q_OBJECT

public:
  /// Actions of no view hold in the whole window that `parent` is.
  explicit Actions(QWidget* parent = nullptr);

  /// Ends the program where there is no such action: it is a slip of the pen.
  [[nodiscard]] QAction* at(QAnyStringView id) const;
  [[nodiscard]] const QList<QAction*>& all() const { return m_all; }
  [[nodiscard]] static const ActionRow& rowOf(const QAction* action);
  /// Names of a text without its mnemonic, and of the view that an action belongs to (empty for the window).
  [[nodiscard]] static QString plainText(const QAction* action);
  [[nodiscard]] static QString whereWords(Where where);

  /// What an action does, and whether it can be done now (always, without `holds`). A checkable action is toggled
  /// before.
  void bind(QAnyStringView id, std::function<void()> run, std::function<bool()> holds = {});
  /// Where the keys of a view's actions are taken, and whether that view is seen.
  void belongTo(Where where, QWidget* widget, std::function<bool()> seen);
  /// What an action will do now, in a menu and on its button: "Remove 2 shots".
  void setText(QAnyStringView id, const QString& text);

  void fill(QMenuBar& bar);
  /// A menu of the menu bar. Menus that are filled as they open are empty.
  [[nodiscard]] QMenu* menu(MenuId menu) const;
  [[nodiscard]] QMenu* contextMenu(Where where, QWidget* parent) const; ///< for the caller to show; goes when it closes
  /// A button with the action's icon and short text, or with one of them.
  [[nodiscard]] QToolButton* button(QAnyStringView id, Qt::ToolButtonStyle style, QWidget* parent) const;

  /// Enables what can be done now. Soon: once for all calls until then.
  void refreshSoon();
  void refresh();

private:
  struct Bound {
    std::function<void()> run;
    std::function<bool()> holds;
  };
  void fill(QMenu& menu, MenuId id);
  [[nodiscard]] bool seen(Where where) const;
  [[nodiscard]] static QString words(const char* text) { return QCoreApplication::translate("Actions", text); }
  static void tell(QAction& action, const ActionRow& row);

  QWidget* m_window;
  QList<QAction*> m_all;
  QHash<QString, QAction*> m_byId;
  QHash<QString, Bound> m_bound;
  QHash<int, std::function<bool()>> m_seen; ///< by Where
  QHash<int, QMenu*> m_menus;               ///< by MenuId
  bool m_refreshing = false;
};

} // namespace tromb
