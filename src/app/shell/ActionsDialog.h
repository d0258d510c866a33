// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/actions/Actions.h"

#include <QDialog>

class QLineEdit;
class QTreeWidget;

namespace tromb {

/// Everything that can be done, with its keys: found by typing a few letters of it, done with Return. Below it, the
/// keys that views take by themselves.
class ActionsDialog : public QDialog {
  Q_OBJECT

public:
  explicit ActionsDialog(const Actions& actions, QWidget* parent = nullptr);
  [[nodiscard]] QAction* chosen() const { return m_chosen; } ///< to be done once the dialog is gone; null for none

protected:
  bool eventFilter(QObject* watched, QEvent* event) override;

private:
  void list(const QString& wanted);
  void choose();

  const Actions& m_actions;
  QLineEdit* m_typed;
  QTreeWidget* m_list;
  QAction* m_chosen = nullptr;
};

} // namespace tromb
