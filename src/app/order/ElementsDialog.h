// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/order/ElementForm.h"

#include <QDialog>

class QListWidget;
class QPushButton;

namespace tromb {

/// Everything that lies over the shots, in order of time, and what each of it is. What is changed is seen in all shapes
/// at once, on the sheet and on the bench. Stays open beside them.
class ElementsDialog : public QDialog {
  Q_OBJECT

public:
  ElementsDialog(Session& session, QWidget* parent);

  void addText(); ///< at the playhead, ready to be typed over
  void choose(const std::string& id);

private:
  void refresh();
  void showChosen();
  void remove();
  void lift(int by);                ///< over or under its neighbours
  [[nodiscard]] int chosen() const; ///< its place in the project, −1 for none

  Session& m_session;
  Document& m_document;
  QListWidget* m_list;
  QPushButton *m_remove, *m_up, *m_down;
  ElementForm* m_form;
  std::string m_chosen; ///< Element::id
  bool m_filling = false;
};

} // namespace tromb
