// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/Document.h"

#include <QWidget>

class QCheckBox;
class QHBoxLayout;
class QLabel;
class QPushButton;

namespace tromb {

/// Shown once, when the first footage comes into a project that delivers nothing yet: deliverables that suit it, to be
/// taken or left.
class OfferBar : public QWidget {
  Q_OBJECT

public:
  explicit OfferBar(Document& document, QWidget* parent = nullptr);
  void refresh();

private:
  void take();
  Document& m_document;
  QLabel* m_words;
  QPushButton* m_take;
  QHBoxLayout* m_choices;
  std::vector<std::pair<QCheckBox*, Deliverable>> m_offered;
  std::string m_source; ///< The id of the source that the offer was made from.
  bool m_answered = false;
};

} // namespace tromb
