// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/Worker.h"
#include "queue/Queue.h"

#include <QElapsedTimer>
#include <QImage>
#include <QObject>
#include <QTimer>
#include <map>
#include <set>

namespace tromb {

/// The user's queue as a window shows and changes it. The disk is looked at beside the window, often while something is
/// under way; whatever waits gets a process that does it. For the window's thread.
class QueueService : public QObject {
  Q_OBJECT

public:
  explicit QueueService(const std::string& folder, QObject* parent = nullptr);

  /// In the order in which they are done, as they were when it was last looked.
  [[nodiscard]] const std::vector<QueuedJob>& jobs() const { return m_jobs; }
  [[nodiscard]] const QueuedJob* job(const std::string& id) const; ///< null where there is none; until `changed`
  /// What was made and is still there, in the order of the jobs; until `changed`.
  struct Finished {
    const QueuedJob* job;
    const JobResult* result;
  };
  [[nodiscard]] std::vector<Finished> finished() const;
  [[nodiscard]] int left() const; ///< how many jobs are not over
  [[nodiscard]] bool busy() const { return m_worker.busy(); }
  [[nodiscard]] const std::string& folder() const { return m_queue.folder(); }
  /// The picture of a deliverable that is going by; null before there is one.
  [[nodiscard]] QImage picture(const std::string& id, const std::string& deliverable) const;
  /// How a finished file goes along its time; a small file is read for it.
  [[nodiscard]] std::string pagePath(const std::string& id, const std::string& deliverable) const {
    return m_queue.pagePath(id, deliverable);
  }
  [[nodiscard]] std::optional<ProofCurves> curves(const std::string& id, const std::string& deliverable) const {
    return m_queue.curves(id, deliverable);
  }
  /// Somebody is looking: it is looked at more often.
  void setWatched(bool watched);

  void add(const Job& job, const Project& project);
  void pause(const std::string& id) { ask(&Queue::pause, id); }
  void resume(const std::string& id) { ask(&Queue::resume, id); }
  void cancel(const std::string& id) { ask(&Queue::cancel, id); }
  void take(const std::string& id, const std::string& deliverable); ///< see Queue::take
  void retry(const std::string& id) { ask(&Queue::retry, id); }
  void remove(const std::string& id) { ask(&Queue::remove, id); }
  void move(const std::string& id, size_t place); ///< among all, 0 being the first

signals:
  void changed();
  void added(const QString& id);
  /// A job has ended while this window was open.
  void ended(const QString& id);
  void failed(const tromb::Error& error);

private:
  struct Seen {
    std::vector<QueuedJob> jobs;
    std::map<std::string, QImage> pictures; ///< by the path that they were read from
    std::map<std::string, std::string> identities;
    std::string key; ///< other where something has changed
    std::optional<Error> trouble;
    QElapsedTimer started; ///< since a process was started last
  };
  void look();
  void take(const std::shared_ptr<Seen>& seen);
  void ask(Status (Queue::*what)(const std::string&) const, const std::string& id);
  void run(std::function<Status(const Queue&)> work);

  Queue m_queue;
  std::vector<QueuedJob> m_jobs;
  std::shared_ptr<Seen> m_seen = std::make_shared<Seen>();
  std::set<std::string> m_running; ///< ids of what was not over when it was last looked
  bool m_watched = false;
  std::string m_trouble; ///< that was told
  QTimer m_next;
  Worker m_worker;
};

} // namespace tromb
