// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "io/FileLock.h"
#include "project/Project.h"
#include "queue/Job.h"
#include "render/Plan.h"

#include <memory>

namespace tromb {

/// A job as it lies in the queue.
struct QueuedJob {
  std::string id;
  Job job;
  JobRecord record;
  std::optional<JobProgress> progress; ///< of one that is under way
  std::string version;                 ///< another one as soon as its job or its record has been written anew
  bool attended = false;               ///< a process is at it; where it is not, Running means that one was killed
  std::optional<Error> fault;          ///< its files cannot be read: `job` and `record` are empty
};

/// The plan by which a job makes one of its deliverables; `project` is as it was when the job was added. Errors: those
/// of Plan, InvalidArgument (there is no such region).
[[nodiscard]] Result<Plan> planOf(const Job& job, const Project& project, const Footage& footage,
                                  const std::string& deliverable);

/// Jobs in a folder: each has a folder of its own, which appears and vanishes as a whole. Several processes may use the
/// same one at a time; whoever runs a job holds its lock. What was read is remembered for as long as its file is the
/// same, by all copies together. Thread-safe.
class Queue {
public:
  explicit Queue(std::string folder);
  /// That of the user: see ownDataFolder. Empty where there is no home.
  [[nodiscard]] static std::string usualFolder();
  [[nodiscard]] const std::string& folder() const { return m_folder; }

  /// Puts a job at the end and returns its id; `id` and `added` are chosen here. Sources whose fingerprints were never
  /// taken get them. Errors: CannotWrite, InvalidArgument (a deliverable or region that the project does not have), and
  /// those of reading the sources.
  [[nodiscard]] Result<std::string> add(Job job, Project project) const;
  /// In the order in which they are to be done, those that are over too.
  [[nodiscard]] std::vector<QueuedJob> list() const;
  [[nodiscard]] Result<QueuedJob> find(const std::string& id) const; ///< Missing, where there is none
  [[nodiscard]] Result<Project> project(const std::string& id) const;

  // What is asked for while somebody is at a job is written beside it, and heeded within a moment. What makes no sense
  // any more, such as to pause a job that is over, changes nothing. Errors: Missing, CannotWrite.
  [[nodiscard]] Status pause(const std::string& id) const;
  [[nodiscard]] Status resume(const std::string& id) const;
  [[nodiscard]] Status cancel(const std::string& id) const;
  /// What failed, fell short or was cancelled is made again; where all went well, everything.
  [[nodiscard]] Status retry(const std::string& id) const;
  /// Takes files that fell short as they are, of one deliverable or of all: they get their right names, with a number
  /// where something has it, and count as done. Errors: also CannotWrite (a file cannot be renamed).
  [[nodiscard]] Status take(const std::string& id, const std::string& deliverable) const;
  [[nodiscard]] Status take(const std::string& id) const { return take(id, {}); }
  /// Removes a job that nobody is at; what it has exported stays. Errors: also InvalidArgument (it is running).
  [[nodiscard]] Status remove(const std::string& id) const;
  /// Puts a job at a place among all, 0 being the first.
  [[nodiscard]] Status move(const std::string& id, size_t place) const;

  // For whoever runs jobs.
  /// Removes what was left of jobs that were just being added or removed when a process was killed.
  void sweep() const;
  enum class Wish { None, Pause, Resume, Cancel };
  [[nodiscard]] std::optional<FileLock> attend(const std::string& id) const; ///< nothing where another is at it
  [[nodiscard]] Wish takeWish(const std::string& id) const;                  ///< which is gone then
  [[nodiscard]] Status write(const std::string& id, const JobRecord& record) const;
  void write(const std::string& id, const JobProgress& progress) const; ///< best effort
  /// Keeps how a file goes along its time. Best effort.
  void keep(const std::string& id, const std::string& deliverable, const ProofCurves& curves) const;
  /// What was kept of it; nothing where that cannot be read.
  [[nodiscard]] std::optional<ProofCurves> curves(const std::string& id, const std::string& deliverable) const;
  /// Where the picture of a deliverable that goes by is kept, as a portable pixmap (PPM).
  [[nodiscard]] std::string picturePath(const std::string& id, const std::string& deliverable) const;
  /// Where the proof of a finished file is kept as a page of HTML: see proofPage. There may be none.
  [[nodiscard]] std::string pagePath(const std::string& id, const std::string& deliverable) const;
  /// Where a job that is done on a cluster keeps the segments of a deliverable.
  [[nodiscard]] std::string segmentsPath(const std::string& id, const std::string& deliverable) const;
  /// Puts a copy of a job into another queue, under the same id, to be done there on this machine or another. Errors:
  /// CannotWrite, and those of reading.
  [[nodiscard]] Status copyTo(const Queue& other, const std::string& id) const;
  /// Takes over what came of a job from a queue that it was copied to, and what is kept of its files.
  [[nodiscard]] Status takeOver(const Queue& other, const std::string& id) const;
  [[nodiscard]] std::string runnerLock() const { return m_folder + "/runner.lock"; }

private:
  [[nodiscard]] std::string pathOf(const std::string& id, const char* file) const;
  [[nodiscard]] bool has(const std::string& id) const;
  [[nodiscard]] std::vector<std::string> order() const;
  /// Changes the record of a job that nobody is at; else leaves the wish. False from `change`: there is nothing to do.
  template <typename Change> [[nodiscard]] Status change(const std::string& id, Wish wish, Change change) const;
  /// Reads what a job is and what came of it, or remembers it. Errors: those of reading.
  [[nodiscard]] Status readInto(QueuedJob& queued) const;
  void endOnCluster(const std::string& id, const JobRecord& record) const;
  struct Memory;
  std::string m_folder;
  std::shared_ptr<Memory> m_memory;
};

} // namespace tromb
