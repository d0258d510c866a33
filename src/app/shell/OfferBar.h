// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "destination/NewDeliverable.h"
#include "model/Document.h"

#include <QWidget>

class QCheckBox;
class QComboBox;
class QGridLayout;
class QLabel;
class QPushButton;

namespace tromb {

/// Shown once, when the first footage comes into a project that delivers nothing yet: shapes that suit it, each at its
/// usual size or at the largest sharp one, to be taken or left.
class OfferBar : public QWidget {
  Q_OBJECT

public:
  explicit OfferBar(Document& document, QWidget* parent = nullptr);
  void refresh();

private:
  struct Offered {
    QWidget* line = nullptr;
    QCheckBox* box = nullptr;
    QComboBox* size = nullptr;
    Offer offer;
  };
  void take();
  Document& m_document;
  QLabel* m_words;
  QPushButton* m_take;
  QGridLayout* m_choices;
  std::vector<Offered> m_offered;
  std::string m_source; ///< The id of the source that the offer was made from.
  bool m_answered = false;
};

} // namespace tromb
