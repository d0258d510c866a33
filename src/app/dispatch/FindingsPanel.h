// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/PreflightService.h"
#include "model/Session.h"

#include <QWidget>

class QLabel;
class QLineEdit;
class QPushButton;
class QTreeWidget;
class QTreeWidgetItem;

namespace tromb {

/// Everything that falls short in the project, by kind: to be gone to, and mended or accepted one by one
/// or all of a kind.
class FindingsPanel : public QWidget {
  Q_OBJECT

public:
  FindingsPanel(Session& session, PreflightService& preflight, QWidget* parent = nullptr);
  [[nodiscard]] QTreeWidget& list() { return *m_list; }

signals:
  void shotAsked();        ///< the session has been put on a shot in a deliverable
  void deliverableAsked(); ///< the session has been put on a deliverable

protected:
  void resizeEvent(QResizeEvent* event) override;
  void showEvent(QShowEvent* event) override;
  bool eventFilter(QObject* watched, QEvent* event) override;

private:
  void refresh();
  void refreshButtons();
  /// Places of the findings that an entry stands for: one, or all of a kind.
  [[nodiscard]] std::vector<int> placesOf(const QTreeWidgetItem* item) const;
  void go();
  void mend(bool all);
  void accept();
  void endAccepting();

  Session& m_session;
  PreflightService& m_preflight;
  QTreeWidget* m_list;
  QLabel* m_head;
  QPushButton* m_go;
  QPushButton* m_mend;
  QPushButton* m_mendAll;
  QPushButton* m_accept;
  QPushButton* m_weights;
  QLineEdit* m_word;                   ///< why something may be so
  std::vector<Acceptance> m_accepting; ///< what the word is for
};

} // namespace tromb
