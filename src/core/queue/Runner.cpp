// SPDX-License-Identifier: GPL-3.0-or-later
#include "queue/Runner.h"

#include "io/KeepAwake.h"
#include "io/Process.h"
#include "queue/ClusterRun.h"

#include <algorithm>
#include <chrono>
#include <filesystem>
#include <fstream>
#include <list>
#include <map>
#include <memory>
#include <sys/resource.h>
#include <thread>

namespace tromb {
namespace {

namespace fs = std::filesystem;
using Clock = std::chrono::steady_clock;
constexpr const char* kProgram = "tromb-cli";
constexpr auto kLookEvery = std::chrono::milliseconds(100);
constexpr auto kMeasured = std::chrono::seconds(4);
constexpr double kIdleShare = 0.4;   ///< of all processors, that must be idle for one job more
constexpr double kMemoryTimes = 1.5; ///< so much of what a job takes must be free for one more
constexpr size_t kMostJobs = 4;      ///< disks suffer from many streams at a time; common practice

/// A line of a file of the system such as "MemAvailable:  123 kB", in bytes; 0 where there is none.
int64_t systemBytes(const char* file, const std::string& name) {
  std::ifstream in(file);
  for (std::string word; in >> word;)
    if (int64_t kilobytes = 0; word == name && in >> kilobytes) return kilobytes * 1024;
  return 0;
}

double processorSeconds() {
  rusage usage{};
  getrusage(RUSAGE_SELF, &usage);
  return double(usage.ru_utime.tv_sec + usage.ru_stime.tv_sec) +
         double(usage.ru_utime.tv_usec + usage.ru_stime.tv_usec) / 1e6;
}

/// Tells by measure whether one job more would find room beside those that are under way.
class Load {
public:
  /// Jobs have come or gone: what was measured holds no more.
  void begin() {
    m_since = Clock::now();
    m_before = processorSeconds();
  }
  [[nodiscard]] bool leavesRoom(size_t working) {
    const auto time = Clock::now() - m_since;
    if (time < kMeasured) return false;
    const double used = (processorSeconds() - m_before) / std::chrono::duration<double>(time).count();
    begin();
    const double processors = std::max(1U, std::thread::hardware_concurrency());
    const int64_t each = systemBytes("/proc/self/status", "VmRSS:") / int64_t(std::max<size_t>(working, 1));
    return used<(1 - kIdleShare) * processors&& double(systemBytes("/proc/meminfo", "MemAvailable:"))> kMemoryTimes *
           double(each);
  }

private:
  Clock::time_point m_since = Clock::now();
  double m_before = processorSeconds();
};

/// The program that runs the queue; empty where it is not there.
std::string program() {
  std::error_code ignored;
  const fs::path here = fs::read_symlink("/proc/self/exe", ignored).parent_path();
  for (const fs::path& each : {here / kProgram, here / "../cli" / kProgram, here / "../src/cli" / kProgram})
    if (fs::exists(each, ignored)) return fs::weakly_canonical(each, ignored).string();
  return {};
}

std::unique_ptr<JobWork> workOn(const Queue& queue, const QueuedJob& job, FileLock lock,
                                const RunnerSettings& settings) {
  if (job.job.cluster) return std::make_unique<ClusterRun>(queue, job.id, std::move(lock), settings, program());
  return std::make_unique<JobRun>(queue, job.id, std::move(lock), settings);
}

struct Running {
  explicit Running(std::unique_ptr<JobWork> is)
      : work(std::move(is)), thread([this](const std::stop_token& stop) { work->run(stop); }) {}
  std::unique_ptr<JobWork> work;
  std::jthread thread; ///< after what it uses
};

} // namespace

Status startRunner(const Queue& queue) {
  if (isRun(queue)) return {};
  const std::string is = program();
  if (is.empty())
    return fail(ErrorCode::Missing, say("the program %1, which runs the queue, is not there", kProgram), {},
                say("Install it again"));
  return startApart(is, {"queue", "run"});
}

bool isRun(const Queue& queue) {
  return isLocked(queue.runnerLock());
}

Result<int> runQueue(const Queue& queue, const RunnerSettings& settings, const std::stop_token& stop,
                     const std::function<void(const QueuedJob&)>& onEnded) {
  auto lock = FileLock::tryTake(queue.runnerLock());
  for (int look = 0; look < 20 && !lock; ++look) { // somebody may only have looked
    std::this_thread::sleep_for(kLookEvery / 20);
    lock = FileLock::tryTake(queue.runnerLock());
  }
  const auto another = [&] {
    return fail(ErrorCode::Exists, say("another process runs the queue already"), queue.folder());
  };
  if (!lock) return another();
  queue.sweep();
  for (const QueuedJob& each : queue.list()) // what was killed as it ended
    if (each.job.cluster && each.record.over() && !each.attended) endOnCluster(each.job);
  std::list<Running> jobs;
  std::map<std::string, std::string> left; // what cannot be done as long as it has this version, by id
  Load load;
  int ended = 0;
  std::optional<KeepAwake> awake; // while something is under way
  bool askedAwake = false;
  const auto collect = [&] {
    for (auto job = jobs.begin(); job != jobs.end();) {
      if (!job->work->over()) {
        ++job;
        continue;
      }
      const std::string id = job->work->id();
      job = jobs.erase(job);
      ++ended;
      load.begin();
      // What could not even be written down would be done again for ever.
      const auto is = queue.find(id);
      if (is && !is->record.over()) left[id] = is->version;
      if (is && onEnded) onEnded(*is);
    }
  };
  const auto next = [&]() -> std::optional<QueuedJob> {
    for (QueuedJob& each : queue.list()) {
      const auto state = each.record.state;
      const bool wants = state == JobRecord::State::Waiting || state == JobRecord::State::Running;
      if (each.fault || !wants || each.attended) continue;
      const auto known = left.find(each.id);
      if (known == left.end() || known->second != each.version) return std::move(each);
    }
    return std::nullopt;
  };
  while (!stop.stop_requested()) {
    collect();
    const auto working =
        size_t(std::count_if(jobs.begin(), jobs.end(), [](const Running& each) { return !each.work->rests(); }));
    if (working == 0) awake.reset();
    if (working == 0) askedAwake = false;
    if (working > 0 && !std::exchange(askedAwake, true)) awake = KeepAwake::hold("exports are under way");
    if (working == 0 || (working < kMostJobs && load.leavesRoom(working))) {
      if (const auto waits = next()) {
        if (auto job = queue.attend(waits->id)) {
          jobs.emplace_back(workOn(queue, *waits, std::move(*job), settings));
          load.begin();
        } else {
          left[waits->id] = waits->version; // another process is at it
        }
        continue;
      }
      if (jobs.empty()) {
        // Whoever adds a job starts a runner if the lock is free, so it is looked once more after it is.
        lock.reset();
        if (!next()) break;
        lock = FileLock::tryTake(queue.runnerLock());
        if (!lock) break; // somebody else has come
        continue;
      }
    }
    std::this_thread::sleep_for(kLookEvery);
  }
  for (Running& each : jobs) each.thread.request_stop();
  for (Running& each : jobs)
    if (each.thread.joinable()) each.thread.join();
  collect();
  return ended;
}

} // namespace tromb
