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

  /// At the playhead, ready to be typed over; of kind Text or Caption.
  void addText(ElementKind kind = ElementKind::Text);
  void choose(const std::string& id);

private:
  void refresh();
  void showChosen();
  void remove();
  void split(); ///< a caption at the playhead, its words where the cursor stands
  void join();  ///< a caption with the next one
  void takeCaptions();
  void writeCaptions();
  void complain(const Error& error);
  [[nodiscard]] int captionAfter(int place) const; ///< the next caption in time, −1 for none
  void lift(int by);                               ///< over or under its neighbours
  [[nodiscard]] int chosen() const;                ///< its place in the project, −1 for none

  Session& m_session;
  Document& m_document;
  QListWidget* m_list;
  QPushButton *m_remove, *m_up, *m_down, *m_split, *m_join, *m_write;
  ElementForm* m_form;
  std::string m_chosen; ///< Element::id
  bool m_filling = false;
};

} // namespace tromb
