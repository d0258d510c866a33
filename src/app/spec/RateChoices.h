// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/spec/ChoicePanel.h"

#include <vector>

class QLabel;
class QPushButton;

namespace tromb {

class CadenceDrawing;

/// The frame rate, what is shown between the frames of the footage, and what that does to motion: the rates of the
/// footage that do not go evenly into it are drawn.
class RateChoices : public ChoiceGroup {
  Q_OBJECT

public:
  RateChoices(Spec& spec, QWidget* parent);
  void refresh() override;

protected:
  [[nodiscard]] QString foldedWords() const override;

private:
  /// Sources of one rate, and how much of the running order they are.
  struct Shot {
    const Source* source = nullptr;
    const MediaInfo* media = nullptr;
    Rational seconds;
  };
  [[nodiscard]] std::vector<Shot> rates() const;
  void typeRate(Deliverable& d, const QString& typed);
  void draw(const std::vector<Shot>& rates);

  QPushButton* m_asShot;
  QLabel* m_wrong; ///< why what was typed is no rate
  struct Row {
    QWidget* all;
    QLabel* words;
    CadenceDrawing* drawing;
  };
  std::vector<Row> m_rows;
};

} // namespace tromb
