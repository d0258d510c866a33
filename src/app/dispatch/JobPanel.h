// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/dispatch/QueueList.h"

class QLabel;
class QTreeWidget;

namespace tromb {

class ProofTimeline;

/// One file of a job, or a job as a whole: the picture that goes by while it is made, and afterwards what its proof
/// found.
class JobPanel : public QWidget {
  Q_OBJECT

public:
  explicit JobPanel(QueueService& queue, QWidget* parent = nullptr);
  /// Shows what is in a place now; an empty page where it is not there any more.
  void showPlace(const QueueList::Place& place);

signals:
  /// The finished file that is shown is to be seen at a time, in seconds.
  void watchWanted(double seconds);

protected:
  void resizeEvent(QResizeEvent* event) override;

private:
  void showFile(const QueuedJob& job, const JobResult& result);
  void showJob(const QueuedJob& job);
  void showChecks(const JobResult* result);
  void showPicture();

  QueueService& m_queue;
  QueueList::Place m_place;
  QLabel* m_head;
  QLabel* m_verdict;
  QLabel* m_facts;
  QLabel* m_picture;
  ProofTimeline* m_timeline;
  QTreeWidget* m_checks;
  bool m_timed = false; ///< it is known how the file goes along its time
  QString m_checked;    ///< what the checks were shown of
};

} // namespace tromb
