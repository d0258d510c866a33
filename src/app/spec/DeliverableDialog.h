// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/Document.h"

#include <QDialog>

class QButtonGroup;
class QCheckBox;
class QComboBox;
class QLabel;
class QLineEdit;
class QPushButton;
class QSpinBox;
class QToolButton;
class QVBoxLayout;

namespace tromb {

class EncodingForm;
struct Destination;

/// Makes or changes one deliverable: choices on the left, and always beside them what follows for the footage at
/// hand. Sizes that 4:2:0 cannot have are answered as they are typed, with the two nearest that it can.
class DeliverableDialog : public QDialog {
  Q_OBJECT

public:
  /// `column` −1 makes a new one.
  DeliverableDialog(const Document& document, int column, QWidget* parent = nullptr);
  [[nodiscard]] const Deliverable& deliverable() const { return m_deliverable; }

private:
  QWidget* buildChoices();
  QWidget* buildConsequences();
  void take(const Destination& destination);
  void sideTyped(bool width);
  void nameByItself();
  void turn();
  void refresh();
  void refreshSize();
  void refreshShots();

  const Document& m_document;
  Deliverable m_deliverable;
  std::string m_ownName;    ///< the name it had on opening: not taken by another
  bool m_nameTyped = false; ///< True once the name was typed: it is then kept whatever else changes.
  double m_ratio = 16.0 / 9;
  bool m_filling = false;

  QButtonGroup* m_shapes;
  QLineEdit* m_name;
  QSpinBox* m_width;
  QSpinBox* m_height;
  QToolButton* m_lock;
  QComboBox* m_rate;
  EncodingForm* m_encoding;
  QCheckBox* m_sharpOnly;
  QLabel* m_sizeAnswer;
  QPushButton* m_lower;
  QPushButton* m_upper;
  QLabel* m_nameAnswer;
  QLabel* m_facts;
  QVBoxLayout* m_shots;
  QPushButton* m_accept;
};

} // namespace tromb
