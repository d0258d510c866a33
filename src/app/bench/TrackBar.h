// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/actions/Actions.h"
#include "app/bench/BenchCanvas.h"
#include "model/SubjectSearch.h"

#include <QWidget>

class QLabel;
class QProgressBar;
class QSlider;
class QToolButton;

namespace tromb {

/// Finding subjects: tracking one from a box that is drawn round it, how calm its way is to be, and looking for
/// subjects in every shot that has none.
class TrackBar : public QWidget {
  Q_OBJECT

public:
  TrackBar(Bench& bench, BenchCanvas& canvas, Actions& actions, QWidget* parent = nullptr);
  [[nodiscard]] bool settled() const { return !m_search.running(); }
  void say(const QString& words); ///< until something else is done
  void refresh();

signals:
  void said(const QString& words); ///< Says how a search ended or what is to be done; empty for nothing.

private:
  [[nodiscard]] std::optional<SubjectSearch::Stretch> stretchOf(const Shot& shot) const;
  void followBox(const QRectF& box);
  void takeTrack(const std::string& shot, const Track& track);

  Bench& m_bench;
  Document& m_document;
  BenchCanvas& m_canvas;
  SubjectSearch m_search;
  QString m_said; ///< What the last search said.
  bool m_showing = false;
  QAction* m_track;
  QToolButton* m_stop;
  QProgressBar* m_searched;
  QLabel* m_calmWords;
  QSlider* m_calm;
};

} // namespace tromb
