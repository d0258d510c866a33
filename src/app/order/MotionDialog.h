// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/Session.h"

#include <QDialog>

class QComboBox;
class QLabel;
class QVBoxLayout;

namespace tromb {

/// Which frames of a shot each deliverable shows, drawn and said, and what is done between them: for the shot, and as
/// each deliverable does it by itself. Follows the shot under the playhead while it is open; what is chosen for it goes
/// to all that are selected with it.
class MotionDialog : public QDialog {
  Q_OBJECT

public:
  MotionDialog(Session& session, QWidget* parent);

private:
  void refresh();
  void fillRows();
  void setShotTreatment(int choice);
  [[nodiscard]] std::vector<int> shots() const;
  void setTreatment(const std::string& deliverable, int choice);
  Session& m_session;
  Document& m_document;
  QLabel* m_name;
  QLabel* m_between;
  QComboBox* m_shot;
  QVBoxLayout* m_rows;
};

} // namespace tromb
