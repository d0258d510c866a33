// SPDX-License-Identifier: GPL-3.0-or-later
#include "queue/ClusterRun.h"

#include "export/Lane.h"
#include "export/Segments.h"
#include "io/AtomicFile.h"

#include <algorithm>
#include <ctime>
#include <filesystem>
#include <set>
#include <thread>

namespace tromb {
namespace {

namespace fs = std::filesystem;
using Clock = std::chrono::steady_clock;

constexpr auto kLookAtTasks = std::chrono::milliseconds(1000);
constexpr auto kHeed = std::chrono::milliseconds(100);
constexpr auto kUnreached = std::chrono::minutes(10); ///< before a cluster that does not answer is given up
constexpr auto kEndsWithin = std::chrono::seconds(30);
constexpr int kShowsWithin = 5;    ///< looks
constexpr int kMostHandedOver = 3; ///< times, before whoever joins makes it

bool isUnderWay(const ClusterTask& task) {
  return task.state == ClusterTask::State::Waiting || task.state == ClusterTask::State::Running;
}

std::string idOf(const ClusterTask& task) {
  return std::to_string(task.job) + (task.element < 0 ? "" : "_" + std::to_string(task.element));
}

/// A folder as sbatch takes it in the name of a log, where '%' begins what it puts in.
std::string logIn(std::string folder) {
  for (size_t at = 0; (at = folder.find('%', at)) != std::string::npos; at += 2) folder.insert(at, "%");
  return folder;
}

std::string folderOf(const Job& job) {
  return job.folder + "/." + job.id + ".tromb-cluster";
}

std::string nameOf(const Job& job) {
  return "tromb-" + job.id;
}

} // namespace

void endOnCluster(const Job& job) {
  std::error_code ignored;
  if (!fs::exists(folderOf(job), ignored)) return;
  const Cluster cluster(job.cluster.value_or(ClusterPlace()));
  (void)cluster.cancel(nameOf(job));
  const auto until = Clock::now() + kEndsWithin;
  for (auto tasks = cluster.tasks(nameOf(job)); tasks && Clock::now() < until; tasks = cluster.tasks(nameOf(job))) {
    if (std::none_of(tasks->begin(), tasks->end(), isUnderWay)) break;
    std::this_thread::sleep_for(kHeed);
  }
  fs::remove_all(folderOf(job), ignored);
}

Result<std::vector<SegmentTask>> clusterTasks(const Job& job, const Project& project, const Footage& footage) {
  std::vector<SegmentTask> tasks;
  for (const std::string& deliverable : job.deliverables) {
    const auto plan = planOf(job, project, footage, deliverable);
    if (!plan) return tl::unexpected(plan.error());
    const SegmentCuts cuts(*plan);
    if (cuts.count() < 2 || Lane::needsFirstPass(*plan) || plan->encoding().hardware) continue;
    const size_t together = cuts.independent() ? 1 : cuts.count();
    for (size_t first = 0; first < cuts.count(); first += together)
      tasks.push_back({deliverable, {first, first + together}, cuts.end(first + together - 1) - cuts.first(first)});
  }
  return tasks;
}

Status doClusterTask(const Queue& queue, const std::string& id, int number, const RunnerSettings& settings,
                     const std::stop_token& stop) {
  const auto queued = queue.find(id);
  if (!queued) return tl::unexpected(queued.error());
  if (queued->fault) return tl::unexpected(*queued->fault);
  const auto project = queue.project(id);
  if (!project) return tl::unexpected(project.error());
  const Footage footage = probeFootage(*project, {stop, settings.indexFolder});
  const auto tasks = clusterTasks(queued->job, *project, footage);
  if (!tasks) return tl::unexpected(tasks.error());
  if (number < 0 || size_t(number) >= tasks->size())
    return fail(ErrorCode::InvalidArgument, say("the job has no task %1", number));
  const SegmentTask& task = (*tasks)[size_t(number)];
  auto plan = planOf(queued->job, *project, footage, task.deliverable);
  if (!plan) return tl::unexpected(plan.error());
  std::set<std::string> sources;
  for (const PlanPiece& piece : plan->pieces()) sources.insert(piece.reading.file.path);
  for (const std::string& path : sources)
    if (const Status same = sourceIsAsAdded(*project, path); !same) return same;
  ExportRequest request;
  // Encoded as though the others were made beside it, as they are where all is made by one machine.
  for (const std::string& other : queued->job.deliverables)
    if (const Deliverable* d = project->deliverable(other); d && other != task.deliverable && d->encoding.hasPicture())
      request.madeBefore.push_back(d->canvas);
  request.plans.push_back(std::move(*plan));
  request.projectName = queued->job.project;
  request.folder = queue.segmentsPath(id, task.deliverable);
  request.segmentFolders = {request.folder};
  request.proof = queued->job.proof;
  request.trialFolder = settings.trialFolder;
  std::error_code refused;
  fs::create_directories(request.folder, refused);
  return makeSegments(request, task.range, stop);
}

Status joinClusterTasks(const Queue& queue, const std::string& id, RunnerSettings settings,
                        const std::stop_token& stop) {
  if (const auto queued = queue.find(id); !queued) return tl::unexpected(queued.error());
  auto lock = queue.attend(id);
  if (!lock) return fail(ErrorCode::Exists, say("another process is at the job '%1'", id), queue.folder());
  settings.onCluster = true;
  JobRun run(queue, id, std::move(*lock), std::move(settings));
  run.run(stop);
  return {};
}

ClusterRun::ClusterRun(const Queue& queue, std::string id, FileLock lock, RunnerSettings settings, std::string program)
    : m_queue(queue), m_id(std::move(id)), m_lock(std::move(lock)), m_settings(std::move(settings)),
      m_program(std::move(program)) {}

Queue ClusterRun::there() const {
  return Queue(folderOf(m_job));
}

std::string ClusterRun::name() const {
  return nameOf(m_job);
}

void ClusterRun::run(const std::stop_token& stop) {
  auto begun = m_queue.find(m_id);
  const auto state = begun && !begun->fault ? begun->record.state : JobRecord::State::Done;
  if (state != JobRecord::State::Waiting && state != JobRecord::State::Running) {
    m_over = true;
    return;
  }
  m_job = begun->job;
  m_record = begun->record;
  m_cluster = Cluster(*m_job.cluster);
  m_record.state = JobRecord::State::Running;
  if (m_record.begun == 0) m_record.begun = int64_t(std::time(nullptr));
  Status done = save();
  if (done) done = follow(stop);
  finish(done);
  m_over = true;
}

/// Writes down what came of it, unless it goes on without this process.
void ClusterRun::finish(const Status& done) {
  const bool left = done && !m_cancelled && !m_record.over();
  if (left) {
    (void)save();
    return;
  }
  if (m_cancelled || !done) {
    // What was named before stays.
    (void)m_cluster.cancel(name());
    (void)takeOver();
    for (JobResult& result : m_record.results) {
      if (result.made()) continue;
      result.state = m_cancelled ? JobResult::State::Cancelled : JobResult::State::Failed;
      if (!m_cancelled && !result.error) result.error = done.error();
    }
    m_record.state = m_cancelled ? JobRecord::State::Cancelled : JobRecord::State::Failed;
    if (!m_cancelled) m_record.error = done.error();
  }
  m_record.ended = int64_t(std::time(nullptr));
  m_record.handedOver.clear();
  (void)m_queue.takeWish(m_id); // it comes too late
  (void)save();
  endOnCluster(m_job);
  tellEnd(m_job, m_record);
}

/// True once what came of it is here.
bool ClusterRun::takeOver() {
  const int64_t begun = m_record.begun;
  if (!m_queue.takeOver(there(), m_id)) return false;
  const auto is = m_queue.find(m_id);
  if (!is || is->fault) return false;
  m_record = is->record;
  m_record.begun = begun;
  return true;
}

Status ClusterRun::begin(const std::stop_token& stop) {
  const auto nodes = m_cluster.nodeCount();
  if (!nodes) return tl::unexpected(nodes.error());
  m_nodes = *nodes;
  const auto project = m_queue.project(m_id);
  if (!project) return tl::unexpected(project.error());
  const Footage footage = probeFootage(*project, {stop, m_settings.indexFolder});
  if (stop.stop_requested()) return {};
  auto tasks = clusterTasks(m_job, *project, footage);
  if (!tasks) return tl::unexpected(tasks.error());
  m_tasks = std::move(*tasks);
  // Where as many were handed over before, it is gone on with.
  if (m_record.handedOver.size() == m_tasks.size() + 1 && there().find(m_id)) return {};
  if (m_program.empty())
    return fail(ErrorCode::Missing, say("the program tromb-cli, which does its tasks, is not there"), {},
                say("Install it again"));
  if (const Status none = m_cluster.cancel(name()); !none) return none; // what was killed as it handed over
  std::error_code ignored;
  fs::remove_all(there().folder(), ignored);
  if (const Status copied = m_queue.copyTo(there(), m_id); !copied) return copied;
  m_record.handedOver.assign(m_tasks.size() + 1, 0);
  std::vector<int> all;
  for (size_t i = 0; i < m_tasks.size(); ++i) all.push_back(int(i));
  return handOver(all, {});
}

Status ClusterRun::handOver(const std::vector<int>& numbers, std::vector<std::string> behind) {
  Cluster::Submission each;
  each.name = name();
  const std::string folder = there().folder();
  if (!numbers.empty()) {
    each.words = {m_program, "queue", "task", folder, m_id, "--number"};
    each.elements = numbers;
    each.log = logIn(folder) + "/task-%a.log";
    std::set<std::string> failed;
    for (const int number : numbers) failed.insert(m_failedOn[number].begin(), m_failedOn[number].end());
    if (int(failed.size()) < m_nodes) each.notOn.assign(failed.begin(), failed.end());
    const auto array = m_cluster.submit(each);
    if (!array) return tl::unexpected(array.error());
    for (const int number : numbers) ++m_record.handedOver[size_t(number)];
    behind.push_back(std::to_string(*array));
  }
  Cluster::Submission join;
  join.name = name();
  join.words = {m_program, "queue", "task", folder, m_id, "--join"};
  join.log = logIn(folder) + "/join.log";
  join.behind = std::move(behind);
  const auto joining = m_cluster.submit(join);
  if (!joining) return tl::unexpected(joining.error());
  ++m_record.handedOver.back();
  return save();
}

bool ClusterRun::isThere(int number) const {
  const SegmentTask& task = m_tasks[size_t(number)];
  const std::string folder = there().segmentsPath(m_id, task.deliverable);
  std::error_code none;
  for (size_t segment = task.range.first; segment < task.range.end; ++segment)
    if (!fs::exists(segmentPath(folder, segment), none)) return false;
  return true;
}

Error ClusterRun::endedWithout(const std::string& node) const {
  std::string said;
  if (const auto text = readWholeFile(there().folder() + "/join.log"))
    for (std::string_view left = *text; !left.empty();) {
      const size_t end = std::min(left.find('\n'), left.size());
      if (end > 0) said = std::string(left.substr(0, end));
      left.remove_prefix(std::min(end + 1, left.size()));
    }
  return {ErrorCode::Encoder,
          said.empty()
              ? say("what joins its segments has ended on the cluster %1 times without a word", kMostHandedOver)
              : say("what joins its segments has failed on the cluster: %1", verbatim(said)),
          node,
          {},
          say("See that its footage and its folder are there on every machine, and do it again")};
}

Result<bool> ClusterRun::look() {
  const auto tasks = m_cluster.tasks(name());
  if (!tasks) return tl::unexpected(tasks.error());
  const Queue other = there();
  const auto is = other.find(m_id);
  if (!is) return tl::unexpected(is.error());
  if (!is->fault && is->record.over() && !is->attended) {
    return takeOver();
  }
  // Of each, what was handed over last.
  std::map<int, const ClusterTask*> last;
  for (const ClusterTask& task : *tasks) {
    const ClusterTask*& known = last[task.element];
    if (!known || known->job < task.job) known = &task;
    if (task.state == ClusterTask::State::Failed && task.element >= 0 && !task.node.empty())
      m_failedOn[task.element].insert(task.node);
  }
  holdOrRelease(*tasks);
  tellProgress(*tasks);
  const auto joins = last.find(-1);
  const ClusterTask* join = joins != last.end() ? joins->second : nullptr;
  if ((join && join->state == ClusterTask::State::Running) || m_record.state == JobRecord::State::Paused) return false;
  std::vector<int> again;
  std::vector<std::string> behind;
  for (int number = 0; number < int(m_tasks.size()); ++number) {
    const auto known = last.find(number);
    if (known != last.end() && isUnderWay(*known->second)) {
      behind.push_back(idOf(*known->second));
      continue;
    }
    if (isThere(number)) continue;
    // What was made on another machine may show a little later here.
    const bool well = known != last.end() && known->second->state == ClusterTask::State::Done;
    if (well && ++m_notSeen[number] < kShowsWithin) continue;
    if (m_record.handedOver[size_t(number)] < kMostHandedOver) again.push_back(number);
  }
  const bool waits = join && join->state == ClusterTask::State::Waiting;
  if (again.empty() && waits) return false;
  if (join && join->state == ClusterTask::State::Failed && !join->node.empty() &&
      m_joinsFailed.insert(join->job).second && m_joinsFailed.size() >= size_t(kMostHandedOver))
    return tl::unexpected(endedWithout(join->node));
  // It waits for what does not come: what is missing after several machines have tried is made by whoever joins.
  if (join)
    if (const Status gone = m_cluster.cancel(join->job); !gone) return tl::unexpected(gone.error());
  if (const Status done = handOver(again, std::move(behind)); !done) return tl::unexpected(done.error());
  return false;
}

void ClusterRun::tellProgress(const std::vector<ClusterTask>& tasks) {
  JobProgress progress;
  std::set<std::string> nodes;
  for (const ClusterTask& task : tasks)
    if (task.state == ClusterTask::State::Running && !task.node.empty()) nodes.insert(task.node);
  if (const auto is = there().find(m_id); is && is->attended && is->progress) progress = *is->progress;
  const bool joining = !progress.each.empty();
  if (!joining) {
    int64_t all = 0;
    int64_t made = 0;
    for (const std::string& deliverable : m_job.deliverables) {
      JobProgress::Each each;
      each.deliverable = deliverable;
      each.state = "waiting";
      for (int number = 0; number < int(m_tasks.size()); ++number) {
        const SegmentTask& task = m_tasks[size_t(number)];
        if (task.deliverable != deliverable) continue;
        each.state = exportStateWord(ExportState::Encoding);
        each.frames += task.frames;
        if (isThere(number)) each.frame += task.frames;
      }
      if (each.frames > 0) each.fraction = Lane::kEncodingShare * double(each.frame) / double(each.frames);
      all += each.frames;
      made += each.frame;
      progress.each.push_back(std::move(each));
    }
    if (all > 0) progress.fraction = Lane::kEncodingShare * double(made) / double(all);
  }
  for (const std::string& node : nodes) progress.nodes += (progress.nodes.empty() ? "" : ", ") + node;
  progress.elapsedSeconds = double(std::time(nullptr) - m_record.begun);
  if (progress.fraction > 0.05) // common practice, no published source: before, nothing can be told
    progress.remainingSeconds = progress.elapsedSeconds * (1 - progress.fraction) / progress.fraction;
  m_queue.write(m_id, progress);
}

void ClusterRun::heedWish() {
  const Queue::Wish wish = m_queue.takeWish(m_id);
  if (wish == Queue::Wish::None) return;
  m_cancelled = wish == Queue::Wish::Cancel;
  if (m_cancelled) return;
  m_record.state = wish == Queue::Wish::Pause ? JobRecord::State::Paused : JobRecord::State::Running;
  (void)save();
}

/// While it is paused, nothing of it begins; what a machine is at is finished, which is a segment.
void ClusterRun::holdOrRelease(const std::vector<ClusterTask>& tasks) const {
  const bool paused = m_record.state == JobRecord::State::Paused;
  std::vector<std::string> wrong;
  for (const ClusterTask& task : tasks)
    if (task.state == ClusterTask::State::Waiting && task.held != paused) wrong.push_back(idOf(task));
  if (!wrong.empty()) (void)m_cluster.hold(wrong, paused); // what has begun meanwhile is looked at again
}

Status ClusterRun::follow(const std::stop_token& stop) {
  if (const Status begun = begin(stop); !begun) return begun;
  auto answered = Clock::now();
  Clock::time_point looked{};
  while (!stop.stop_requested()) {
    heedWish();
    if (m_cancelled) return {};
    if (Clock::now() - looked >= kLookAtTasks) {
      looked = Clock::now();
      const auto over = look();
      if (over && *over) return {};
      if (over) answered = Clock::now();
      // The cluster or the shared folder may be away for a while.
      if (!over && (over.error().code == ErrorCode::Encoder || Clock::now() - answered > kUnreached))
        return tl::unexpected(over.error());
    }
    std::this_thread::sleep_for(kHeed);
  }
  return {};
}

} // namespace tromb
