// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "export/Proof.h"

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

namespace tromb {

/// What happens where a file of the wanted name is there already.
enum class Clash {
  Number,  ///< the new one gets a number behind its name
  Replace, ///< the new one takes its place, once it is whole
  Refuse,  ///< nothing is made
};
[[nodiscard]] const char* clashWord(Clash clash); ///< "number", "replace", "refuse"

/// What happens when all of a job is over.
enum class Afterwards {
  Nothing,
  Notify,     ///< the desktop shows a notice, whether a window is open or not
  OpenFile,   ///< the first file is opened, while a window is open
  OpenFolder, ///< its folder is shown with the file chosen, while a window is open
};
[[nodiscard]] const char* afterwardsWord(Afterwards afterwards); ///< "nothing", "notify", "open-file", "open-folder"

/// A cluster of machines that share a folder, run by a batch system (Slurm).
struct ClusterPlace {
  std::string partition;     ///< empty: the usual one
  std::string configuration; ///< of the batch system's programs, a file; empty: the usual one
  friend bool operator==(const ClusterPlace&, const ClusterPlace&) = default;
};

/// What is to be exported. It never changes once it has been added. The project as it was then lies beside it.
struct Job {
  std::string id;                        ///< also the name of its folder; empty until it is added
  int64_t added = 0;                     ///< seconds since 1970, UTC
  std::string project;                   ///< name for people
  std::string projectPath;               ///< empty: it was never saved
  std::vector<std::string> deliverables; ///< Deliverable::id, in order; never empty
  std::string region;                    ///< name; empty for the whole running order
  std::string folder;                    ///< absolute
  Clash clash = Clash::Number;
  bool proof = true;
  Afterwards afterwards = Afterwards::Nothing;
  std::optional<ClusterPlace> cluster; ///< present: it is done there
  friend bool operator==(const Job&, const Job&) = default;
};

/// What became of one deliverable of a job.
struct JobResult {
  enum class State {
    Waiting, ///< not made yet
    Naming,  ///< whole, and about to get its final name
    Done,    ///< as it was asked for
    Short,   ///< made, and it falls short in its proof or something of its sources was lost
    Failed,  ///< there is no file; `error` says why
    Cancelled,
  };
  std::string deliverable; ///< Deliverable::id
  std::string name;
  State state = State::Waiting;
  std::string path; ///< the file; while it is not made, the one it is to be
  std::string soundPath;
  std::string soundIdentity; ///< the same of the file of its sound
  std::string identity;      ///< of the file, while it is Naming: see io/Descriptor.h
  int64_t bytes = 0;         ///< of all its files
  int64_t frames = 0;
  double seconds = 0;  ///< that it took
  std::string encoder; ///< FFmpeg's name
  int64_t copied = 0;  ///< see ExportedFile
  Message notCopied;
  Message inSoftware; ///< see ExportedFile
  std::optional<Error> error;
  std::optional<ProofReport> proof;
  std::vector<Message> losses;
  bool taken = false; ///< it fell short, and somebody took it as it is: it has its right name
  [[nodiscard]] bool made() const { return state == State::Done || state == State::Short; }
};
[[nodiscard]] const char* resultWord(JobResult::State state); ///< "waiting", "naming", "done", "short", "failed", …

/// How far a job is, and what came of it.
struct JobRecord {
  enum class State {
    Waiting,
    Running,
    Paused,
    Done,   ///< all of it was made; what falls short is told by its results
    Failed, ///< something of it could not be made
    Cancelled,
  };
  State state = State::Waiting;
  int64_t begun = 0; ///< seconds since 1970, UTC; 0: not yet
  int64_t ended = 0;
  int tries = 0;                  ///< how often it was begun since something of it was made
  int segments = 0;               ///< that it had made of files when it was begun last
  std::optional<Error> error;     ///< why nothing could be begun
  std::vector<JobResult> results; ///< one a deliverable, in the same order
  /// Of one that is done on a cluster: how often each task was handed over, the last being what joins and proofs. Empty
  /// until it was.
  std::vector<int> handedOver;
  /// It is not to be touched any more unless somebody asks for it again.
  [[nodiscard]] bool over() const {
    return state == State::Done || state == State::Failed || state == State::Cancelled;
  }
};
[[nodiscard]] const char* jobWord(JobRecord::State state); ///< "waiting", "running", "paused", "done", …

/// Where a job keeps the segments of a file that it makes (see export/Segments.h): beside the file.
[[nodiscard]] std::string segmentFolder(const std::string& id, const std::string& path);
/// Removes those of all its files that are not to be gone on with.
void dropSegments(const std::string& id, const JobRecord& record);

/// How far a running job is just now. Kept in a file that is not synced: after a crash it means nothing.
struct JobProgress {
  struct Each {
    std::string deliverable; ///< Deliverable::id
    std::string state;       ///< exportStateWord
    int64_t frame = 0;
    int64_t frames = 0;
    double fraction = 0; ///< 0 to 1
    double framesASecond = 0;
    double remainingSeconds = 0; ///< 0 while it cannot be told
    int64_t bytes = 0;           ///< written so far
    int64_t expectedBytes = 0;   ///< 0 where it cannot be told
  };
  double fraction = 0;
  double elapsedSeconds = 0; ///< without pauses
  double remainingSeconds = 0;
  int64_t missingBytes = 0; ///< over 0: it waits for so much room on the disk
  std::string nodes;        ///< machines of a cluster that are at it, as its batch system calls them
  bool onBattery = false;   ///< the machine lives on its battery, and may end in the middle
  std::vector<Each> each;
};

// The files of a job; their form is described in docs/queue.md and data/job.schema.json. Errors of reading:
// ProjectInvalid with the JSON pointer of the first fault, ProjectTooNew. Thread-safe.
inline constexpr int kJobVersion = 1;
[[nodiscard]] std::string toText(const Job& job);
[[nodiscard]] Result<Job> jobFromText(const std::string& text);
[[nodiscard]] std::string toText(const JobRecord& record);
[[nodiscard]] Result<JobRecord> recordFromText(const std::string& text);
/// Of one file, which is read on its own since it may be long.
[[nodiscard]] std::string toText(const ProofCurves& curves);
[[nodiscard]] Result<ProofCurves> curvesFromText(const std::string& text);
[[nodiscard]] std::string toText(const JobProgress& progress);
[[nodiscard]] Result<JobProgress> progressFromText(const std::string& text);

} // namespace tromb
