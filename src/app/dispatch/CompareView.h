// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/dispatch/CompareStage.h"
#include "app/dispatch/FileTimeline.h"
#include "model/QueueService.h"

#include <QElapsedTimer>
#include <QTimer>

class QButtonGroup;
class QCheckBox;
class QComboBox;
class QLabel;
class QSpinBox;
class QToolButton;

namespace tromb {

/// Two files in step, or a file and what it was made from: their pictures, how much they are like each other from
/// frame to frame, and what each takes. Any finished file of the queue is offered for either side, what it was made
/// from, and any other file.
class CompareView : public QWidget {
  Q_OBJECT

public:
  explicit CompareView(QueueService& queue, QWidget* parent = nullptr);
  /// Shows two sides, at a time in seconds; without one where they are least alike, once that is known.
  void compare(const ComparedSide& first, const ComparedSide& second, std::optional<double> at);
  void leave(); ///< Lets go of the files.
  [[nodiscard]] CompareStage& stage() { return *m_stage; }
  [[nodiscard]] FileTimeline& timeline() { return *m_timeline; }
  [[nodiscard]] CompareService& service() { return m_service; }

signals:
  void left(); ///< by Escape, or the button for it

protected:
  void keyPressEvent(QKeyEvent* event) override;

private:
  QWidget* buildTop();
  QWidget* buildWays();
  void fillChoices();
  void choose(int side);
  void setGain(int gain);
  void play(bool on);
  void tick();
  void showPicture();
  void showMeasure();
  void toLeastLike();
  [[nodiscard]] QString nameOf(const ComparedSide& side) const;

  QueueService& m_queue;
  CompareService m_service;
  ComparedSide m_sides[2];
  QComboBox* m_choices[2];
  CompareStage* m_stage;
  FileTimeline* m_timeline;
  QButtonGroup* m_ways;
  QCheckBox* m_exact;
  QSpinBox* m_gain;
  QToolButton *m_playing, *m_leastLike;
  QLabel *m_place, *m_facts[2], *m_sum;
  bool m_seeksLeast = false; ///< the pictures that are least alike are gone to as soon as they are known
  QTimer m_tick;
  QElapsedTimer m_clock;
  int64_t m_playedFrom = 0; ///< a frame
};

} // namespace tromb
