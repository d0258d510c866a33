// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/actions/Actions.h"
#include "app/footage/FootageDelegate.h"
#include "app/footage/SourceViewer.h"
#include "model/FootageModel.h"

#include <QWidget>

class QComboBox;
class QLabel;
class QLineEdit;
class QListView;
class QPushButton;
class QToolButton;
class QTreeWidget;
class QTreeWidgetItem;

namespace tromb {

class SourcePanel;

/// Every source with what it is and what follows from it: groups on the left, the list in the middle, and on the
/// right the chosen source to look through, with the answers to what differs.
class FootageView : public QWidget {
  Q_OBJECT

public:
  FootageView(Session& session, Actions& actions, StripService& strips, LightService& lights,
              QWidget* parent = nullptr);

  [[nodiscard]] FootageFilter& filter() { return m_filter; }
  [[nodiscard]] SourceViewer& viewer() { return *m_viewer; }
  /// Returns the group that new footage goes to, which is the one that is shown. Returns an empty text for none.
  [[nodiscard]] std::string shownGroup() const;
  void setForm(FootageDelegate::Form form);

  void newGroup();
  [[nodiscard]] bool hasGroupFocus() const; ///< True if the keyboard is at a group.
  void renameGroup();
  void removeGroup(); ///< Keeps its footage.
  void removeSelected();
  void renameSelected();
  [[nodiscard]] bool hasListFocus() const;

signals:
  void addRequested(bool atPlayhead);
  void addOverlayRequested(); ///< The selected stills are to lie over the running order.
  void addBedRequested();     ///< The sound of the selected sources is to lie under the running order.
  void lookForMissingRequested();
  void filesDropped(const QStringList& paths);

protected:
  bool eventFilter(QObject* watched, QEvent* event) override;
  void dragEnterEvent(QDragEnterEvent* event) override;
  void dropEvent(QDropEvent* event) override;

private:
  QWidget* buildGroups();
  QWidget* buildList();
  void refreshGroups();
  void refreshFacts();
  void refreshCount();
  void chooseFact();
  void moveTo(const std::string& group);
  void groupMenu(const QPoint& at);
  void itemMenu(const QPoint& at);
  void takeSelection(); ///< Tells the session what is selected in the list.
  void showSelection(); ///< Selects in the list what the session has selected.

  Session& m_session;
  Document& m_document;
  Actions& m_actions;
  FootageModel m_model;
  FootageFilter m_filter;
  FootageDelegate* m_delegate;
  QTreeWidget* m_groups = nullptr;
  QListView* m_list = nullptr;
  QLineEdit* m_search = nullptr;
  QComboBox* m_fact = nullptr;
  QComboBox* m_order = nullptr;
  QToolButton *m_down = nullptr, *m_rows = nullptr, *m_cards = nullptr;
  QLabel* m_count = nullptr;
  QLabel* m_missing = nullptr;
  QPushButton* m_findMissing = nullptr;
  QWidget* m_missingBar = nullptr;
  SourceViewer* m_viewer;
  SourcePanel* m_panel;
};

} // namespace tromb
