// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "export/Segments.h"
#include "queue/Cluster.h"
#include "queue/JobRun.h"

#include <map>
#include <set>

namespace tromb {

/// What is made of a job by one machine of a cluster: some segments of one deliverable.
struct SegmentTask {
  std::string deliverable; ///< Deliverable::id
  SegmentRange range;
  int64_t frames = 0;
};

/// What can be made apart from each other: every segment of a deliverable of constant quality, and all segments of one
/// whose bits are counted over its whole length. What is not cut into segments, needs two passes or graphics hardware,
/// is in none: whoever joins makes it. The same on every machine. Errors: those of planOf.
[[nodiscard]] Result<std::vector<SegmentTask>> clusterTasks(const Job& job, const Project& project,
                                                            const Footage& footage);

/// Does one of these, in the queue that a job was copied to. Errors: those of makeSegments; InvalidArgument (there is
/// no such task).
[[nodiscard]] Status doClusterTask(const Queue& queue, const std::string& id, int number,
                                   const RunnerSettings& settings, const std::stop_token& stop);
/// What comes behind them: joins, makes what is missing, proofs and names. Errors: Missing, and Exists (somebody is at
/// it).
[[nodiscard]] Status joinClusterTasks(const Queue& queue, const std::string& id, RunnerSettings settings,
                                      const std::stop_token& stop);

/// Ends what a cluster still does of a job, and removes the folder with what it needs; waits for its machines half a
/// minute at the most. For jobs that nobody is at. Best effort. Thread-safe.
void endOnCluster(const Job& job);

/// A job that a cluster does: hands its tasks over, follows them, hands those that fail over again, to another machine
/// where there is one, and takes over what comes of it. What it needs lies in a folder beside its files, which goes
/// when it is over. Whoever takes it up after this has ended goes on following.
class ClusterRun final : public JobWork {
public:
  /// `program`: this one, as every machine of the cluster finds it.
  ClusterRun(const Queue& queue, std::string id, FileLock lock, RunnerSettings settings, std::string program);
  void run(const std::stop_token& stop) override;
  [[nodiscard]] const std::string& id() const override { return m_id; }
  [[nodiscard]] bool rests() const override { return true; }
  [[nodiscard]] bool over() const override { return m_over; }

private:
  [[nodiscard]] Status follow(const std::stop_token& stop);
  [[nodiscard]] Status begin(const std::stop_token& stop);
  /// Hands tasks over, by their numbers, and what joins behind these and others.
  [[nodiscard]] Status handOver(const std::vector<int>& numbers, std::vector<std::string> behind);
  /// True once the job is over.
  [[nodiscard]] Result<bool> look();
  [[nodiscard]] bool isThere(int number) const;
  void heedWish();
  void holdOrRelease(const std::vector<ClusterTask>& tasks) const;
  void tellProgress(const std::vector<ClusterTask>& tasks);
  [[nodiscard]] Error endedWithout(const std::string& node) const;
  void finish(const Status& done);
  [[nodiscard]] bool takeOver();
  [[nodiscard]] Queue there() const;
  [[nodiscard]] std::string name() const;
  [[nodiscard]] Status save() { return m_queue.write(m_id, m_record); }

  const Queue& m_queue;
  std::string m_id;
  FileLock m_lock;
  RunnerSettings m_settings;
  std::string m_program;
  Job m_job;
  JobRecord m_record;
  Cluster m_cluster{{}};
  int m_nodes = 1;
  std::vector<SegmentTask> m_tasks;
  std::map<int, std::set<std::string>> m_failedOn; ///< nodes
  std::map<int, int> m_notSeen;                    ///< looks at which what has ended well was not there, by task
  std::set<int64_t> m_joinsFailed;                 ///< numbers of what was to join
  bool m_cancelled = false;
  std::atomic<bool> m_over = false;
};

} // namespace tromb
