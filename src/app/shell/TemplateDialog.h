// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/Document.h"
#include "project/TemplateStore.h"

#include <QDialog>

class QLabel;
class QListWidget;
class QPushButton;

namespace tromb {

/// The templates that were saved: save the open project as one, update, rename, remove, bring in and write out, and
/// choose which of them new projects start from.
class TemplateDialog : public QDialog {
  Q_OBJECT

public:
  TemplateDialog(const Document& document, TemplateStore& store, QWidget* parent = nullptr);

private:
  void refresh(const QString& chosen = {});
  void refreshChosen();
  bool say(const Status& done);
  [[nodiscard]] QString chosen() const;
  void saveNew();

  const Document& m_document;
  TemplateStore& m_store;
  QListWidget* m_list;
  QLabel* m_contents;
  QLabel* m_message;
  QPushButton *m_update, *m_rename, *m_remove, *m_write, *m_default;
};

} // namespace tromb
