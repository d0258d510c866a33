// SPDX-License-Identifier: GPL-3.0-or-later
#include "queue/Queue.h"

#include "export/Exporter.h"
#include "io/AtomicFile.h"
#include "io/DataFolder.h"
#include "io/Digest.h"
#include "io/JsonReader.h"
#include "io/PartFile.h"
#include "media/read/Fingerprint.h"
#include "project/ProjectFile.h"
#include "queue/ClusterRun.h"

#include <algorithm>
#include <cerrno>
#include <ctime>
#include <fcntl.h>
#include <filesystem>
#include <map>
#include <mutex>
#include <random>
#include <thread>
#include <unistd.h>

namespace tromb {
namespace {

namespace fs = std::filesystem;

constexpr int kMostNumbersTaken = 10'000;
constexpr const char* kJobFile = "job.json";
constexpr const char* kProjectFile = "project.tromb";
constexpr const char* kRecordFile = "record.json";
constexpr const char* kProgressFile = "progress.json";
constexpr const char* kWishFile = "wish";
constexpr const char* kLockFile = "lock";
constexpr const char* kNew = ".new-";
constexpr const char* kGone = ".gone-";
constexpr const char* kWishes[] = {"", "pause", "resume", "cancel"};
constexpr auto kAddedFor = std::chrono::hours(1); ///< at the most
constexpr auto kLookAgain = std::chrono::milliseconds(5);
constexpr int kLooks = 40; ///< for a lock that somebody may only have looked at

/// Sorts by the time at which they were made; no two are the same.
std::string freshId(int64_t now) {
  const auto time = std::time_t(now);
  std::tm utc{};
  gmtime_r(&time, &utc);
  char text[32];
  std::strftime(text, sizeof text, "%Y%m%d-%H%M%S", &utc);
  std::random_device device;
  static constexpr char kDigits[] = "0123456789abcdef";
  std::string id = std::string(text) + "-";
  for (int i = 0; i < 8; ++i) id += kDigits[device() % 16];
  return id;
}

bool isId(const std::string& name) {
  return !name.empty() && std::all_of(name.begin(), name.end(), [](char c) {
    return (c >= '0' && c <= '9') || (c >= 'a' && c <= 'z') || c == '-';
  });
}

Result<std::vector<std::string>> readOrder(const std::string& path) {
  const auto text = readWholeFile(path);
  if (!text) return tl::unexpected(text.error());
  const auto json = parseJson(*text);
  if (!json) return tl::unexpected(json.error());
  JsonFault fault;
  std::vector<std::string> ids;
  JsonNode(*json, fault).elements([&](const JsonNode& each) { ids.push_back(each.text()); });
  if (fault.error) return tl::unexpected(*fault.error);
  return ids;
}

Error about(Error error, const std::string& path) {
  error.path = path;
  return error;
}

} // namespace

struct Queue::Memory {
  struct Read {
    std::string identity; ///< of its files: see io/Descriptor.h
    Job job;
    JobRecord record;
  };
  std::mutex mutex;
  std::map<std::string, Read> jobs; ///< by id
};

Result<Plan> planOf(const Job& job, const Project& project, const Footage& footage, const std::string& deliverable) {
  if (job.region.empty()) return Plan::build(project, footage, deliverable);
  const Region* region = project.regionNamed(job.region);
  if (!region) return fail(ErrorCode::InvalidArgument, say("the project has no region '%1'", job.region));
  return Plan::build(project, footage, deliverable, *region);
}

Queue::Queue(std::string folder) : m_folder(std::move(folder)), m_memory(std::make_shared<Memory>()) {}

std::string Queue::usualFolder() {
  const std::string own = ownDataFolder();
  return own.empty() ? own : own + "/queue";
}

std::string Queue::pathOf(const std::string& id, const char* file) const {
  return m_folder + "/" + id + "/" + file;
}

bool Queue::has(const std::string& id) const {
  std::error_code ignored;
  return isId(id) && fs::is_directory(m_folder + "/" + id, ignored);
}

std::string Queue::pagePath(const std::string& id, const std::string& deliverable) const {
  return pathOf(id, ("proof-" + cacheName(deliverable) + ".html").c_str());
}

std::string Queue::picturePath(const std::string& id, const std::string& deliverable) const {
  return pathOf(id, ("picture-" + cacheName(deliverable) + ".ppm").c_str());
}

std::string Queue::segmentsPath(const std::string& id, const std::string& deliverable) const {
  return pathOf(id, ("segments-" + cacheName(deliverable)).c_str());
}

Status Queue::copyTo(const Queue& other, const std::string& id) const {
  auto queued = find(id);
  if (!queued) return tl::unexpected(queued.error());
  if (queued->fault) return tl::unexpected(*queued->fault);
  const auto project = readWholeFile(pathOf(id, kProjectFile));
  if (!project) return tl::unexpected(project.error());
  std::error_code refused;
  const std::string fresh = other.m_folder + "/" + kNew + id;
  fs::create_directories(fresh, refused);
  if (refused) return cannotWrite(fresh, refused.value());
  queued->job.cluster.reset();
  queued->job.afterwards = Afterwards::Nothing; // which is for the machine that it was added on
  queued->record.state = JobRecord::State::Waiting;
  queued->record.handedOver.clear();
  const std::pair<const char*, std::string> files[] = {
      {kProjectFile, *project}, {kRecordFile, toText(queued->record)}, {kJobFile, toText(queued->job)}};
  for (const auto& [name, text] : files)
    if (const Status done = writeFileAtomically(fresh + "/" + name, text); !done) return done;
  fs::rename(fresh, other.m_folder + "/" + id, refused);
  return refused ? Status(cannotWrite(other.m_folder, refused.value())) : Status();
}

Status Queue::takeOver(const Queue& other, const std::string& id) const {
  const auto from = other.find(id);
  if (!from) return tl::unexpected(from.error());
  if (from->fault) return tl::unexpected(*from->fault);
  std::error_code ignored;
  for (const auto& entry : fs::directory_iterator(other.m_folder + "/" + id, ignored))
    if (const std::string name = entry.path().filename().string();
        name.starts_with("proof-") || name.starts_with("picture-"))
      fs::copy_file(entry.path(), m_folder + "/" + id + "/" + name, fs::copy_options::overwrite_existing, ignored);
  return write(id, from->record);
}

Result<std::string> Queue::add(Job job, Project project) const {
  if (job.deliverables.empty())
    return fail(ErrorCode::InvalidArgument, say("there is no deliverable to export"), {},
                say("Add a deliverable first"));
  JobRecord record;
  for (const std::string& id : job.deliverables) {
    const Deliverable* deliverable = project.deliverable(id);
    if (!deliverable)
      return fail(ErrorCode::InvalidArgument, say("the project has no deliverable '%1'", id), job.projectPath);
    JobResult result;
    result.deliverable = id;
    result.name = deliverable->name;
    record.results.push_back(std::move(result));
  }
  if (!job.region.empty() && !project.regionNamed(job.region))
    return fail(ErrorCode::InvalidArgument, say("the project has no region '%1'", job.region), job.projectPath);
  for (Source& source : project.sources) {
    if (!source.fingerprint.empty()) continue;
    auto taken = fingerprintOf(source.path);
    if (!taken) return tl::unexpected(taken.error());
    source.fingerprint = std::move(*taken);
  }
  std::error_code refused;
  job.folder = fs::absolute(job.folder, refused).lexically_normal().string();
  if (!job.projectPath.empty()) job.projectPath = fs::absolute(job.projectPath, refused).lexically_normal().string();
  fs::create_directories(m_folder, refused);
  if (refused) return cannotWrite(m_folder, refused.value());
  job.added = int64_t(std::time(nullptr));
  job.project = project.name;
  job.id = freshId(job.added);
  const std::string fresh = m_folder + "/" + kNew + job.id;
  fs::create_directory(fresh, refused);
  if (refused) return cannotWrite(fresh, refused.value());
  const auto put = [&](const char* name, const std::string& text) {
    return writeFileAtomically(fresh + "/" + name, text);
  };
  const auto all = [&]() -> Status {
    if (const Status done = put(kProjectFile, toText(project, "/")); !done) return done;
    if (const Status done = put(kRecordFile, toText(record)); !done) return done;
    if (const Status done = put(kJobFile, toText(job)); !done) return done;
    const auto lock = FileLock::take(m_folder + "/order.lock");
    if (!lock) return tl::unexpected(lock.error());
    std::vector<std::string> ids = order();
    ids.push_back(job.id);
    if (const Status done = writeFileAtomically(m_folder + "/order.json", Json(ids).dump()); !done) return done;
    std::error_code code;
    fs::rename(fresh, m_folder + "/" + job.id, code);
    return code ? Status(cannotWrite(m_folder, code.value())) : Status();
  };
  if (const Status done = all(); !done) {
    fs::remove_all(fresh, refused);
    return tl::unexpected(done.error());
  }
  return job.id;
}

/// All that are there. Those that the order does not name come last, the earliest first.
std::vector<std::string> Queue::order() const {
  std::vector<std::string> there;
  std::error_code ignored;
  for (const auto& entry : fs::directory_iterator(m_folder, ignored)) {
    const std::string name = entry.path().filename().string();
    if (isId(name) && entry.is_directory(ignored)) there.push_back(name);
  }
  std::sort(there.begin(), there.end());
  const auto named = readOrder(m_folder + "/order.json");
  if (!named) return there;
  std::vector<std::string> ids;
  for (const std::string& id : *named)
    if (std::binary_search(there.begin(), there.end(), id) && std::find(ids.begin(), ids.end(), id) == ids.end())
      ids.push_back(id);
  const size_t count = ids.size();
  for (const std::string& id : there)
    if (std::find(ids.begin(), ids.begin() + ptrdiff_t(count), id) == ids.begin() + ptrdiff_t(count)) ids.push_back(id);
  return ids;
}

Status Queue::readInto(QueuedJob& queued) const {
  const std::string jobPath = pathOf(queued.id, kJobFile);
  const std::string recordPath = pathOf(queued.id, kRecordFile);
  // Taken before it is read, so that what is replaced meanwhile is read again the next time.
  const std::string identity = identityOf(jobPath) + " " + identityOf(recordPath);
  queued.version = identity;
  {
    const std::scoped_lock lock(m_memory->mutex);
    const auto known = m_memory->jobs.find(queued.id);
    if (known != m_memory->jobs.end() && known->second.identity == identity) {
      queued.job = known->second.job;
      queued.record = known->second.record;
      return {};
    }
  }
  const auto jobText = readWholeFile(jobPath);
  if (!jobText) return tl::unexpected(jobText.error());
  auto job = jobFromText(*jobText);
  if (!job) return tl::unexpected(about(job.error(), jobPath));
  const auto recordText = readWholeFile(recordPath);
  if (!recordText) return tl::unexpected(recordText.error());
  auto record = recordFromText(*recordText);
  if (!record) return tl::unexpected(about(record.error(), recordPath));
  queued.job = std::move(*job);
  queued.record = std::move(*record);
  const std::scoped_lock lock(m_memory->mutex);
  m_memory->jobs[queued.id] = {identity, queued.job, queued.record};
  return {};
}

Result<QueuedJob> Queue::find(const std::string& id) const {
  if (!has(id)) return fail(ErrorCode::Missing, say("there is no job '%1' in the queue", id));
  QueuedJob queued;
  queued.id = id;
  // Asked before the record is read: one that is running by its record and attended by nobody was really left.
  queued.attended = isLocked(pathOf(id, kLockFile));
  if (const Status done = readInto(queued); !done) {
    if (!has(id)) return fail(ErrorCode::Missing, say("there is no job '%1' in the queue", id));
    queued.fault = done.error();
    return queued;
  }
  if (!queued.record.over())
    if (const auto text = readWholeFile(pathOf(id, kProgressFile)))
      if (auto progress = progressFromText(*text)) queued.progress = std::move(*progress);
  return queued;
}

std::vector<QueuedJob> Queue::list() const {
  std::vector<QueuedJob> jobs;
  for (const std::string& id : order())
    if (auto job = find(id)) jobs.push_back(std::move(*job)); // else it has just been removed
  return jobs;
}

Result<Project> Queue::project(const std::string& id) const {
  const std::string path = pathOf(id, kProjectFile);
  auto text = readWholeFile(path);
  if (!text) return tl::unexpected(text.error());
  return fromText(std::move(*text), "/", path);
}

std::optional<FileLock> Queue::attend(const std::string& id) const {
  // Somebody may only have looked whether it is locked.
  for (int look = 0; look < kLooks && has(id); ++look) {
    if (auto lock = FileLock::tryTake(pathOf(id, kLockFile))) return lock;
    std::this_thread::sleep_for(kLookAgain);
  }
  return std::nullopt;
}

template <typename Change> Status Queue::change(const std::string& id, Wish wish, Change change) const {
  if (!has(id)) return fail(ErrorCode::Missing, say("there is no job '%1' in the queue", id));
  auto lock = FileLock::tryTake(pathOf(id, kLockFile));
  if (!lock && wish != Wish::None)
    if (const Status done = writeFileAtomically(pathOf(id, kWishFile), kWishes[int(wish)]); !done) return done;
  if (!lock) lock = attend(id);
  if (!lock) return {}; // whoever is at it heeds the wish
  (void)takeWish(id);
  const auto text = readWholeFile(pathOf(id, kRecordFile));
  if (!text) return tl::unexpected(text.error());
  auto record = recordFromText(*text);
  if (!record) return tl::unexpected(about(record.error(), pathOf(id, kRecordFile)));
  return change(*record) ? write(id, *record) : Status();
}

/// What a cluster does of a job that nobody follows.
void Queue::endOnCluster(const std::string& id, const JobRecord& record) const {
  if (record.handedOver.empty()) return;
  if (const auto text = readWholeFile(pathOf(id, kJobFile)))
    if (const auto job = jobFromText(*text)) tromb::endOnCluster(*job);
}

Status Queue::pause(const std::string& id) const {
  return change(id, Wish::Pause, [](JobRecord& record) {
    if (record.over() || record.state == JobRecord::State::Paused) return false;
    record.state = JobRecord::State::Paused;
    return true;
  });
}

Status Queue::resume(const std::string& id) const {
  return change(id, Wish::Resume, [](JobRecord& record) {
    if (record.state != JobRecord::State::Paused) return false;
    record.state = JobRecord::State::Waiting;
    return true;
  });
}

Status Queue::take(const std::string& id, const std::string& deliverable) const {
  Status trouble;
  const Status changed = change(id, Wish::None, [&](JobRecord& record) {
    bool any = false;
    for (JobResult& each : record.results) {
      if (each.state != JobResult::State::Short || (!deliverable.empty() && each.deliverable != deliverable)) continue;
      const std::string right = rightPath(each.path);
      std::string path = right;
      int code = path == each.path ? 0 : nameFreshly(AT_FDCWD, each.path, path);
      for (int number = 2; code == EEXIST && number < kMostNumbersTaken; ++number) {
        path = numberedPath(right, number);
        code = nameFreshly(AT_FDCWD, each.path, path);
      }
      if (code != 0) {
        trouble = cannotWrite(each.path, code);
        continue;
      }
      each.path = path;
      each.state = JobResult::State::Done;
      each.taken = any = true;
    }
    return any;
  });
  return changed ? trouble : changed;
}

Status Queue::cancel(const std::string& id) const {
  return change(id, Wish::Cancel, [this, &id](JobRecord& record) {
    if (record.over()) return false;
    record.state = JobRecord::State::Cancelled;
    endOnCluster(id, record);
    record.handedOver.clear();
    record.ended = int64_t(std::time(nullptr));
    for (JobResult& each : record.results)
      if (!each.made() && each.state != JobResult::State::Failed) each.state = JobResult::State::Cancelled;
    dropSegments(id, record);
    return true;
  });
}

Status Queue::retry(const std::string& id) const {
  return change(id, Wish::None, [](JobRecord& record) {
    if (!record.over()) return false;
    const auto good = [](const JobResult& each) { return each.state == JobResult::State::Done; };
    const bool all = std::all_of(record.results.begin(), record.results.end(), good);
    record.state = JobRecord::State::Waiting;
    record.error.reset();
    record.begun = record.ended = 0;
    record.tries = 0;
    record.segments = 0;
    for (JobResult& each : record.results) {
      if (!all && good(each)) continue;
      JobResult fresh;
      fresh.deliverable = std::move(each.deliverable);
      fresh.name = std::move(each.name);
      each = std::move(fresh);
    }
    return true;
  });
}

Status Queue::remove(const std::string& id) const {
  if (!has(id)) return fail(ErrorCode::Missing, say("there is no job '%1' in the queue", id));
  const auto lock = attend(id);
  if (!lock && has(id))
    return fail(ErrorCode::InvalidArgument, say("the job '%1' is running", id), {}, say("Cancel it first"));
  if (const auto text = readWholeFile(pathOf(id, kRecordFile)))
    if (const auto record = recordFromText(*text)) {
      endOnCluster(id, *record);
      dropSegments(id, *record);
    }
  std::error_code refused;
  const std::string gone = m_folder + "/" + kGone + id;
  fs::rename(m_folder + "/" + id, gone, refused);
  if (refused) return cannotWrite(m_folder, refused.value());
  fs::remove_all(gone, refused);
  const std::scoped_lock forgetting(m_memory->mutex);
  m_memory->jobs.erase(id);
  return {};
}

Status Queue::move(const std::string& id, size_t place) const {
  if (!has(id)) return fail(ErrorCode::Missing, say("there is no job '%1' in the queue", id));
  const auto lock = FileLock::take(m_folder + "/order.lock");
  if (!lock) return tl::unexpected(lock.error());
  std::vector<std::string> ids = order();
  std::erase(ids, id);
  ids.insert(ids.begin() + ptrdiff_t(std::min(place, ids.size())), id);
  return writeFileAtomically(m_folder + "/order.json", Json(ids).dump());
}

void Queue::sweep() const {
  std::error_code ignored;
  const auto now = fs::file_time_type::clock::now();
  for (const auto& entry : fs::directory_iterator(m_folder, ignored)) {
    const std::string name = entry.path().filename().string();
    const bool fresh = name.starts_with(kNew); // somebody may be at it
    if (name.starts_with(kGone) || (fresh && now - entry.last_write_time(ignored) > kAddedFor))
      fs::remove_all(entry.path(), ignored);
  }
}

Queue::Wish Queue::takeWish(const std::string& id) const {
  const std::string path = pathOf(id, kWishFile);
  const auto text = readWholeFile(path, 100);
  if (!text) return Wish::None;
  ::unlink(path.c_str());
  for (const Wish wish : {Wish::Pause, Wish::Resume, Wish::Cancel})
    if (*text == kWishes[int(wish)]) return wish;
  return Wish::None;
}

Status Queue::write(const std::string& id, const JobRecord& record) const {
  return writeFileAtomically(pathOf(id, kRecordFile), toText(record));
}

void Queue::keep(const std::string& id, const std::string& deliverable, const ProofCurves& curves) const {
  writeFileLightly(pathOf(id, ("proof-" + cacheName(deliverable) + ".json").c_str()), toText(curves));
}

std::optional<ProofCurves> Queue::curves(const std::string& id, const std::string& deliverable) const {
  const auto text = readWholeFile(pathOf(id, ("proof-" + cacheName(deliverable) + ".json").c_str()));
  if (!text) return std::nullopt;
  auto read = curvesFromText(*text);
  return read ? std::optional<ProofCurves>(std::move(*read)) : std::nullopt;
}

void Queue::write(const std::string& id, const JobProgress& progress) const {
  writeFileLightly(pathOf(id, kProgressFile), toText(progress));
}

} // namespace tromb
