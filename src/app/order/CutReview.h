// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/CutSearch.h"
#include "model/Document.h"

#include <QDialog>
#include <map>
#include <set>

class QLabel;
class QListWidget;
class QProgressBar;
class QPushButton;
class QSlider;

namespace tromb {

/// The cuts that were found in one shot, each with the pictures on both sides, to be accepted all or one by one.
/// Dissolves are listed as doubtful and not chosen.
class CutReview : public QDialog {
  Q_OBJECT

public:
  CutReview(Document& document, int row, QWidget* parent = nullptr);

  [[nodiscard]] bool searching() const { return m_searching; }
  /// The times of the source at which the shot is to be cut, ascending.
  [[nodiscard]] std::vector<Rational> chosenTimes() const;
  void setThreshold(double percent);

signals:
  void found();

private:
  void evaluate();
  void refreshCount();
  Document& m_document;
  Shot m_shot;
  FrameClock m_clock;
  CutSearch m_search;
  bool m_searching = true;
  double m_threshold = kUsualCutThreshold;
  std::vector<FoundCut> m_cuts;
  std::set<int64_t> m_refused;  ///< frames of cuts that were taken out by hand
  std::set<int64_t> m_accepted; ///< dissolves that were chosen by hand
  std::map<int64_t, std::pair<QImage, QImage>> m_pictures;
  QLabel* m_words;
  QProgressBar* m_progress;
  QSlider* m_slider;
  QLabel* m_sliderWords;
  QListWidget* m_list;
  QPushButton* m_accept;
};

} // namespace tromb
