// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/dispatch/SendForm.h"
#include "model/QueueService.h"

#include <QTreeWidget>

namespace tromb {

/// What is to be sent of the open project, and below it the jobs of the queue with their files: what is under way
/// first, then what waits in its order, then what is over, the latest first. Jobs that wait are put in another order by
/// dragging them.
class QueueList : public QTreeWidget {
  Q_OBJECT

public:
  explicit QueueList(QueueService& queue, QWidget* parent = nullptr);

  struct Place {
    enum class Kind { None, Sending, Candidate, Job, File };
    Kind kind = Kind::None;
    std::string job;         ///< Job::id
    std::string deliverable; ///< Deliverable::id
    friend bool operator==(const Place&, const Place&) = default;
  };
  [[nodiscard]] Place current() const;
  void setCurrent(const Place& place); ///< does nothing where it is not there
  void showCandidates(const std::vector<SendForm::Candidate>& candidates);
  void showJobs();
  /// The place of a job among all of the queue, put so many steps earlier among those that wait.
  [[nodiscard]] std::optional<size_t> placeBeside(const std::string& job, int steps) const;

  enum Role {
    KindRole = Qt::UserRole, ///< Place::Kind
    IdsRole,                 ///< of the job and the deliverable
    StageRole,               ///< of a job: its id, and whether it waits or is over
    SecondRole,              ///< the second line
    AsideRole,               ///< what stands at the right
    FractionRole,            ///< of the bar; none where it is invalid
    StateRole,               ///< Cell::State; none where it is invalid
  };

signals:
  void currentPlaceChanged();
  void chosen(const std::string& deliverable, bool chosen);
  void moved(const std::string& job, size_t place);

protected:
  void dropEvent(QDropEvent* event) override;
  void dragMoveEvent(QDragMoveEvent* event) override;

private:
  [[nodiscard]] static Place placeOf(const QTreeWidgetItem* item);
  [[nodiscard]] QTreeWidgetItem* itemOf(const Place& place) const;
  void showJob(QTreeWidgetItem& item, const QueuedJob& job);
  static void showFile(QTreeWidgetItem& item, const QueuedJob& job, const JobResult& result);
  QueueService& m_queue;
  QTreeWidgetItem* m_sending;
  bool m_filling = false;
};

/// What became of a file, in a line; and how it stands.
[[nodiscard]] QString resultWords(const QueuedJob& job, const JobResult& result);
[[nodiscard]] Cell::State resultState(const JobResult& result);
/// "done 23:12", "42 %, 3 min left": how a job stands.
[[nodiscard]] QString jobWords(const QueuedJob& job);
/// How far a file of a job that is under way is; null where it is not.
[[nodiscard]] const JobProgress::Each* underWay(const QueuedJob& job, const JobResult& result);

} // namespace tromb
