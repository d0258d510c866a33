// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/PreflightService.h"

#include <QDialog>
#include <QMap>

class QComboBox;

namespace tromb {

/// How much each kind of finding weighs in the project. Every choice is an undo step.
class WeightsDialog : public QDialog {
  Q_OBJECT

public:
  WeightsDialog(Document& document, PreflightService& preflight, QWidget* parent = nullptr);

private:
  void refresh();

  Document& m_document;
  QMap<QString, QComboBox*> m_choices; ///< by Finding::code
};

} // namespace tromb
