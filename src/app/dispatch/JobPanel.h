// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/dispatch/CompareStage.h"
#include "app/dispatch/FileTimeline.h"
#include "app/dispatch/QueueList.h"

class QLabel;
class QTreeWidget;

namespace tromb {

/// One file of a job, or a job as a whole: the picture that goes by while it is made, and afterwards the finished
/// pictures beside those that were composed, the file along its time, and what its proof found.
class JobPanel : public QWidget {
  Q_OBJECT

public:
  explicit JobPanel(QueueService& queue, QWidget* parent = nullptr);
  /// Shows what is in a place now; an empty page where it is not there any more.
  void showPlace(const QueueList::Place& place);
  /// Looks again at what is kept of the file that is shown.
  void lookAnew();
  /// Where the pictures are that are shown of a finished file, in seconds; 0 where none are.
  [[nodiscard]] double at() const { return m_service.secondsOf(m_service.wanted()); }
  [[nodiscard]] bool settled() const { return !m_service.busy(); }
  [[nodiscard]] CompareStage& stage() { return *m_stage; }

protected:
  void resizeEvent(QResizeEvent* event) override;
  void showEvent(QShowEvent* event) override;
  void hideEvent(QHideEvent* event) override;

private:
  void showFile(const QueuedJob& job, const JobResult& result);
  void showJob(const QueuedJob& job);
  void showChecks(const JobResult* result);
  void showPicture();
  void showPair(const JobResult* result);

  QueueService& m_queue;
  QueueList::Place m_place;
  QLabel* m_head;
  QLabel* m_verdict;
  QLabel* m_facts;
  QLabel* m_picture;
  CompareService m_service;
  CompareStage* m_stage;
  FileTimeline* m_timeline;
  QTreeWidget* m_checks;
  bool m_timed = false; ///< it is known how the file goes along its time
  QString m_checked;    ///< what the checks were shown of
  QStringList m_handed; ///< to whom the file was handed over, and when
  QString m_leastLike;  ///< where the file is least like what was composed
  double m_first = 0;   ///< seconds, where its pictures are shown at first
};

} // namespace tromb
