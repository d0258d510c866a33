// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "queue/Job.h"

namespace tromb {

/// A task that was handed to a cluster.
struct ClusterTask {
  enum class State {
    Waiting,
    Running,
    Done,
    Failed, ///< also where it will never begin
  };
  int64_t job = 0;  ///< its number, or that of the array that it belongs to
  int element = -1; ///< of the array; -1: it belongs to none
  State state = State::Waiting;
  bool held = false; ///< it waits until it is released
  std::string node;  ///< that is or was at it
};

/// A cluster's batch system, by Slurm's own programs: sbatch, squeue, scontrol, scancel and sinfo. Each call takes as
/// long as they do, half a minute at the most. Errors of all: Unsupported (there are no such programs, or they do not
/// reach their cluster), with what they have said. Thread-safe.
class Cluster {
public:
  explicit Cluster(ClusterPlace place) : m_place(std::move(place)) {}

  /// How many machines there are. Errors: also InvalidArgument (there is no such partition).
  [[nodiscard]] Result<int> nodeCount() const;

  struct Submission {
    std::string name;
    std::vector<std::string> words;  ///< what is run, once for each element, with its number behind them
    std::vector<int> elements;       ///< of an array; empty: one task, without a number behind its words
    std::string log;                 ///< file for what it says; "%a" in it becomes the element
    std::vector<std::string> behind; ///< it begins once all of these have ended well: "JOB" or "JOB_ELEMENT"
    std::vector<std::string> notOn;  ///< nodes
  };
  /// Returns its number.
  [[nodiscard]] Result<int64_t> submit(const Submission& submission) const;
  /// The tasks of a name that are known yet: those that have ended are forgotten within minutes.
  [[nodiscard]] Result<std::vector<ClusterTask>> tasks(const std::string& name) const;
  /// Ends all tasks of a name.
  [[nodiscard]] Status cancel(const std::string& name) const;
  [[nodiscard]] Status cancel(int64_t job) const;
  /// Keeps tasks that have not begun from beginning, or lets them: "JOB" or "JOB_ELEMENT". What has begun meanwhile
  /// goes on, and is an error.
  [[nodiscard]] Status hold(const std::vector<std::string>& tasks, bool held) const;

private:
  [[nodiscard]] Result<std::string> run(std::vector<std::string> words) const;
  ClusterPlace m_place;
};

} // namespace tromb
