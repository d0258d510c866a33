// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "export/Exporter.h"
#include "queue/Queue.h"

#include <atomic>
#include <mutex>

namespace tromb {

/// What every job needs of the machine.
struct RunnerSettings {
  std::string indexFolder; ///< see ProbeOptions; may be empty
  std::string trialFolder; ///< see ExportRequest; may be empty
  bool onCluster = false;  ///< segments lie in the queue, where other machines have made them: see Queue::segmentsPath
};

/// One job while somebody is at it. `run` is called once; the rest is thread-safe.
class JobWork {
public:
  virtual ~JobWork() = default;
  /// Returns when the job is over, or, where `stop` ends it, when it can be taken up again.
  virtual void run(const std::stop_token& stop) = 0;
  [[nodiscard]] virtual const std::string& id() const = 0;
  /// It uses no processor of this machine just now.
  [[nodiscard]] virtual bool rests() const = 0;
  [[nodiscard]] virtual bool over() const = 0;
};

/// Tells people what came of a job that is over, where they wish it.
void tellEnd(const Job& job, const JobRecord& record);

/// Whether a file is what it was when the job was added. Errors: Unreadable (it is another), and those of reading it.
[[nodiscard]] Status sourceIsAsAdded(const Project& project, const std::string& path);

/// One job while it is done: exports what of it is not made yet, writes down what comes of it as it comes, and heeds
/// what is wished meanwhile.
class JobRun final : public JobWork {
public:
  /// `lock` is that of the job, which this holds.
  JobRun(const Queue& queue, std::string id, FileLock lock, RunnerSettings settings);
  void run(const std::stop_token& stop) override;
  [[nodiscard]] const std::string& id() const override { return m_id; }
  /// It is paused, or waits for room on the disk.
  [[nodiscard]] bool rests() const override { return m_paused || m_full; }
  [[nodiscard]] bool over() const override { return m_over; }

private:
  [[nodiscard]] Status exportAll(const std::stop_token& stop);
  void takeUp(JobResult& result) const;
  [[nodiscard]] std::string segmentsOf(const JobResult& result) const;
  [[nodiscard]] int segmentsThere() const;
  [[nodiscard]] Status sourcesAreAsAdded(const Plan& plan);
  [[nodiscard]] Status sourcesAreUntouched(const Plan& plan) const;
  [[nodiscard]] bool name(JobResult& result, const Plan& plan, std::vector<std::string>& taken) const;
  /// `refused`: something could not be written.
  [[nodiscard]] bool waitForRoom(const std::stop_token& stop, bool refused, const std::function<int64_t()>& missing);
  [[nodiscard]] int64_t missingNow(const std::vector<Plan>& plans, int64_t spare) const;
  [[nodiscard]] Status named(size_t index, const ExportedFile& file, JobResult::State state,
                             const FileIdentities& identities);
  void end(size_t index, const ExportedFile& file);
  void heedWishes();
  void attend(const std::stop_token& done);
  void tellProgress(const ExportProgress& progress);
  [[nodiscard]] Status save();

  const Queue& m_queue;
  std::string m_id;
  FileLock m_lock;
  RunnerSettings m_settings;
  Job m_job;
  Project m_project;
  std::mutex m_mutex; ///< guards the record and the progress
  JobRecord m_record;
  JobProgress m_progress;
  std::vector<double> m_weights;                   ///< of the plans: how much there is to do
  std::vector<double> m_ends;                      ///< of the plans: elapsed seconds at which each is to be over
  std::vector<double> m_firsts;                    ///< of the plans: the fraction that an earlier run had made
  std::vector<size_t> m_places;                    ///< of the plans' results in the record
  std::map<std::string, std::string> m_identities; ///< of the sources, by path
  std::map<std::string, Status> m_sources;         ///< whether they are as they were when the job was added, by path
  Gate m_gate;
  std::stop_source m_stop; ///< the job is cancelled, or the process ends
  std::atomic<bool> m_cancelled = false;
  std::atomic<bool> m_paused = false;
  std::atomic<bool> m_full = false;
  std::atomic<bool> m_over = false;
};

} // namespace tromb
