// SPDX-License-Identifier: GPL-3.0-or-later
#include "queue/JobRun.h"

#include "copy/ShotCopy.h"
#include "export/ProofPage.h"
#include "export/Segments.h"
#include "io/AtomicFile.h"
#include "io/Battery.h"
#include "io/FreeSpace.h"
#include "io/Notice.h"
#include "io/PartFile.h"
#include "media/read/Fingerprint.h"
#include "render/Pictures.h"

#include <algorithm>
#include <ctime>
#include <filesystem>
#include <thread>

namespace tromb {
namespace {

namespace fs = std::filesystem;
using Clock = std::chrono::steady_clock;
using namespace std::chrono_literals;

constexpr auto kHeedEvery = 100ms;
constexpr auto kTellEvery = 250ms;
constexpr auto kGoingByEvery = 1s;
constexpr auto kPowerEvery = 30s;
constexpr auto kLookForRoom = 500ms;
constexpr Size kGoingBy{640, 640};
constexpr int64_t kLeastFree = 1'000'000;   ///< beside what is expected, before a job is begun
constexpr int64_t kSpareBytes = 32'000'000; ///< … and before a disk that was full is written to again
constexpr double kSoundPixels = 20'000;     ///< that sound alone takes the time of
constexpr int kMostTries = 10;              ///< that end in the middle, without having made anything
constexpr int kMostNumbers = 10'000;

int64_t now() {
  return int64_t(std::time(nullptr));
}

int64_t fileBytes(const std::string& path) {
  std::error_code none;
  const auto size = path.empty() ? 0 : fs::file_size(path, none);
  return none ? 0 : int64_t(size);
}

int64_t folderBytes(const std::string& folder) {
  int64_t bytes = 0;
  std::error_code none;
  for (const auto& entry : fs::directory_iterator(folder, none)) bytes += fileBytes(entry.path().string());
  return bytes;
}

/// A portable pixmap, the plainest format of pictures that every program reads.
std::string pixmapOf(const ScreenPicture& picture) {
  std::string text =
      "P6\n" + std::to_string(picture.size.width) + " " + std::to_string(picture.size.height) + "\n255\n";
  text.reserve(text.size() + picture.bytes.size());
  for (size_t i = 0; i + 3 < picture.bytes.size(); i += 4)
    for (const size_t part : {size_t(2), size_t(1), size_t(0)}) text.push_back(char(picture.bytes[i + part]));
  return text;
}

/// Waits in small steps, as long as nobody asks to stop. False: somebody did.
bool waited(std::chrono::milliseconds time, const std::stop_token& stop) {
  for (; time > 0ms && !stop.stop_requested(); time -= 20ms) std::this_thread::sleep_for(20ms);
  return !stop.stop_requested();
}

} // namespace

void tellEnd(const Job& job, const JobRecord& record) {
  if (job.afterwards != Afterwards::Notify || !record.over() || record.state == JobRecord::State::Cancelled) return;
  const auto good = int64_t(std::count_if(record.results.begin(), record.results.end(),
                                          [](const JobResult& each) { return each.state == JobResult::State::Done; }));
  const int64_t wrong = int64_t(record.results.size()) - good;
  const Message words =
      joined({good > 0 ? sayCounted("%n files are as asked", "one file is as asked", good) : Message(),
              wrong > 0 ? sayCounted("%n files are not", "one file is not", wrong) : Message()},
             ", ");
  showNotice(job.project, words.text());
}

Status sourceIsAsAdded(const Project& project, const std::string& path) {
  const auto found = fingerprintOf(path);
  if (!found) return tl::unexpected(found.error());
  const auto source = std::find_if(project.sources.begin(), project.sources.end(),
                                   [&](const Source& each) { return each.path == path; });
  if (source == project.sources.end() || *found == source->fingerprint) return {};
  return fail(ErrorCode::Unreadable, say("the file is another than it was when the job was added"), path,
              say("Look at the project again, and add the job anew"));
}

JobRun::JobRun(const Queue& queue, std::string id, FileLock lock, RunnerSettings settings)
    : m_queue(queue), m_id(std::move(id)), m_lock(std::move(lock)), m_settings(std::move(settings)) {}

Status JobRun::save() {
  return m_queue.write(m_id, m_record);
}

/// What a process that was killed has left: a file may have had its name already. Sound beside a picture gets its own
/// before the picture does, so that a picture with its name is whole, and sound alone is not.
void JobRun::takeUp(JobResult& result) const {
  if (result.state != JobResult::State::Naming) return;
  for (const bool good : {true, false}) {
    const std::string path =
        good ? result.path : (fs::path(result.path).parent_path() / shortName(result.path)).string();
    if (identityOf(path) != result.identity) continue;
    result.state = good && result.losses.empty() ? JobResult::State::Done : JobResult::State::Short;
    result.path = path;
    result.bytes = fileBytes(path) + fileBytes(result.soundPath);
    result.identity.clear();
    result.soundIdentity.clear();
    return;
  }
  if (!result.soundPath.empty() && identityOf(result.soundPath) == result.soundIdentity) {
    std::error_code ignored;
    fs::remove(result.soundPath, ignored);
  }
  JobResult fresh;
  fresh.deliverable = result.deliverable;
  fresh.name = result.name;
  fresh.path = result.path;
  result = std::move(fresh);
}

std::string JobRun::segmentsOf(const JobResult& result) const {
  return m_settings.onCluster ? m_queue.segmentsPath(m_id, result.deliverable) : segmentFolder(m_id, result.path);
}

/// Segments that earlier runs have made of what is not whole yet.
int JobRun::segmentsThere() const {
  int count = 0;
  std::error_code none;
  for (const JobResult& result : m_record.results)
    if (!result.path.empty() && !result.made())
      for (const auto& entry : fs::directory_iterator(segmentsOf(result), none))
        if (entry.path().extension() == ".segment") ++count;
  return count;
}

void JobRun::run(const std::stop_token& stop) {
  const std::stop_callback passOn(stop, [this] { m_stop.request_stop(); });
  auto begun = m_queue.find(m_id);
  const auto mayBegin = [&] {
    if (!begun || begun->fault) return false;
    m_job = begun->job;
    m_record = begun->record;
    // Somebody may have paused or cancelled it before its lock was taken.
    return m_record.state == JobRecord::State::Waiting || m_record.state == JobRecord::State::Running;
  };
  if (!mayBegin()) {
    m_over = true;
    return;
  }
  for (JobResult& result : m_record.results) takeUp(result);
  m_record.state = JobRecord::State::Running;
  m_record.begun = now();
  const int segments = segmentsThere();
  if (segments > m_record.segments) m_record.tries = 0;
  m_record.segments = segments;
  // What ends its process each time would do so for ever.
  Status done;
  if (m_record.tries >= kMostTries)
    done = fail(ErrorCode::Encoder, say("the process that does it has ended in the middle %1 times", kMostTries), {},
                say("Close other programs, look at its sources, and do it again"));
  ++m_record.tries;
  if (const Status saved = save(); !saved) done = saved;
  {
    std::jthread attending([this](const std::stop_token& end) { attend(end); });
    if (done) try {
        done = exportAll(m_stop.get_token());
      } catch (const std::bad_alloc&) {
        done = fail(ErrorCode::Encoder, say("memory has run out"), {}, say("Close other programs, and try again"));
      } catch (const std::exception& broken) {
        done = fail(ErrorCode::Encoder, say("a fault inside: %1", broken.what()));
      }
  }
  const std::scoped_lock lock(m_mutex);
  const bool cancelled = m_cancelled;
  const bool left = !cancelled && stop.stop_requested();
  bool failed = false;
  for (JobResult& result : m_record.results) {
    if (result.made()) continue;
    if (cancelled || left) {
      if (result.state != JobResult::State::Failed)
        result.state = left ? JobResult::State::Waiting : JobResult::State::Cancelled;
    } else {
      result.state = JobResult::State::Failed;
      if (!result.error && !done) result.error = done.error();
    }
    failed = failed || result.state == JobResult::State::Failed;
  }
  m_record.state = cancelled ? JobRecord::State::Cancelled
                   : left    ? (m_paused ? JobRecord::State::Paused : JobRecord::State::Waiting)
                   : failed  ? JobRecord::State::Failed
                             : JobRecord::State::Done;
  if (!done && !cancelled && !left) m_record.error = done.error();
  if (left)
    --m_record.tries; // it was asked to
  else
    m_record.ended = now();
  (void)m_queue.takeWish(m_id); // it comes too late
  if (!left) dropSegments(m_id, m_record);
  (void)save();
  tellEnd(m_job, m_record);
  m_over = true;
}

/// Whether the files of a plan are what they were when the job was added.
Status JobRun::sourcesAreAsAdded(const Plan& plan) {
  for (const PlanPiece& piece : plan.pieces()) {
    const std::string& path = piece.reading.file.path;
    if (!m_sources.contains(path)) {
      m_identities[path] = identityOf(path);
      m_sources[path] = sourceIsAsAdded(m_project, path);
    }
    if (!m_sources[path]) return m_sources[path];
  }
  return {};
}

/// Whether nobody has written to the files of a plan since then.
Status JobRun::sourcesAreUntouched(const Plan& plan) const {
  for (const PlanPiece& piece : plan.pieces()) {
    const std::string& path = piece.reading.file.path;
    if (identityOf(path) != m_identities.at(path))
      return fail(ErrorCode::Unreadable, say("the file was changed while it was read"), path,
                  say("Start it again when nobody writes to it any more"));
  }
  return {};
}

/// Chooses the name of a file. False: it cannot have one, and the result says why.
bool JobRun::name(JobResult& result, const Plan& plan, std::vector<std::string>& taken) const {
  const std::string wanted =
      exportPath(m_job.folder, plan.output().naming, {m_job.project, plan.regionName(), &plan.deliverable()});
  const bool beside = plan.hasSound() && plan.encoding().sound.place == SoundPlace::Beside;
  const auto namesOf = [&](const std::string& path) {
    std::vector<std::string> names{path};
    if (beside) names.push_back(soundPath(path, plan.encoding()));
    if (!plan.captions().empty()) names.push_back(captionPath(path, plan.encoding()));
    return names;
  };
  std::error_code ignored;
  const auto isFree = [&](const std::string& path) {
    const auto names = namesOf(path);
    return std::none_of(names.begin(), names.end(), [&](const std::string& each) {
      return std::find(taken.begin(), taken.end(), each) != taken.end() ||
             (m_job.clash == Clash::Number && isLocked(PartFile::pathFor(each))) || // another writes it just now
             (fs::exists(each, ignored) && (m_job.clash != Clash::Replace || fs::is_directory(each, ignored)));
    });
  };
  // After a crash, it keeps the name that was chosen.
  std::string path = !result.path.empty() && isFree(result.path) ? result.path : wanted;
  for (int number = 2; !isFree(path) && m_job.clash == Clash::Number && number < kMostNumbers; ++number)
    path = numberedPath(wanted, number);
  if (!isFree(path)) {
    result.state = JobResult::State::Failed;
    result.error =
        Error{ErrorCode::Exists, say("the file is there already"), path, {}, say("Remove it, or let it be replaced")};
    return false;
  }
  result.path = path;
  for (const std::string& each : namesOf(path)) taken.push_back(each);
  return true;
}

/// Bytes that are missing on the disk for what the plans need yet; 0 where nothing is, or nothing can be told.
int64_t JobRun::missingNow(const std::vector<Plan>& plans, int64_t spare) const {
  const auto there = freeBytes(m_job.folder);
  int64_t needed = spare;
  for (size_t i = 0; i < plans.size(); ++i) {
    const Plan& plan = plans[i];
    const JobResult& result = m_record.results[m_places[i]];
    if (result.made() || result.state == JobResult::State::Failed) continue;
    const int64_t whole = m_progress.each[i].expectedBytes;
    // What is kept in segments is there a second time until the file is whole.
    const bool kept = SegmentCuts(plan).kept();
    needed += std::max(int64_t(0), whole - fileBytes(PartFile::pathFor(result.path)));
    if (kept) needed += std::max(int64_t(0), whole - folderBytes(segmentsOf(result)));
  }
  return there ? std::max(int64_t(0), needed - *there) : 0;
}

bool JobRun::waitForRoom(const std::stop_token& stop, bool refused, const std::function<int64_t()>& missing) {
  // Where it is said that there is room although nothing can be written (a quota, say), it is tried again seldom.
  int64_t bytes = refused ? std::max(int64_t(1), missing()) : missing();
  while (bytes > 0 && !stop.stop_requested()) {
    m_full = true;
    {
      const std::scoped_lock lock(m_mutex);
      m_progress.missingBytes = bytes;
    }
    if (!waited(kLookForRoom, stop)) break;
    bytes = missing();
  }
  {
    const std::scoped_lock lock(m_mutex);
    m_progress.missingBytes = 0;
  }
  m_full = false;
  return !stop.stop_requested();
}

Status JobRun::exportAll(const std::stop_token& stop) {
  auto project = m_queue.project(m_id);
  if (!project) return tl::unexpected(project.error());
  m_project = std::move(*project);
  const Footage footage = probeFootage(m_project, {stop, m_settings.indexFolder});
  if (stop.stop_requested()) return {};
  ExportRequest request;
  std::vector<std::string> taken;
  for (size_t i = 0; i < m_record.results.size(); ++i) {
    JobResult& result = m_record.results[i];
    if (result.made()) {
      taken.push_back(result.path);
      const Deliverable* made = m_project.deliverable(result.deliverable);
      if (made && made->encoding.hasPicture()) request.madeBefore.push_back(made->canvas);
      continue;
    }
    auto plan = planOf(m_job, m_project, footage, result.deliverable);
    const Status same = plan ? sourcesAreAsAdded(*plan) : tl::unexpected(plan.error());
    const std::scoped_lock lock(m_mutex);
    if (!same) {
      result.state = JobResult::State::Failed;
      result.error = same.error();
    } else if (name(result, *plan, taken)) {
      request.paths.push_back(result.path);
      request.segmentFolders.push_back(segmentsOf(result));
      request.plans.push_back(std::move(*plan));
      m_places.push_back(i);
    }
  }
  {
    const std::scoped_lock lock(m_mutex);
    for (size_t i = 0; i < request.plans.size(); ++i) {
      JobProgress::Each each;
      each.deliverable = m_record.results[m_places[i]].deliverable;
      each.state = "waiting";
      each.frames = request.plans[i].frameCount();
      const Plan& plan = request.plans[i];
      const bool pictured = plan.encoding().hasPicture();
      const double pixels = pictured ? double(plan.canvas().width) * plan.canvas().height : kSoundPixels;
      m_weights.push_back(pixels * double(each.frames) * (pictured && plan.encoding().hasTwoPasses() ? 1.5 : 1));
      m_firsts.push_back(0);
      m_ends.push_back(0);
      each.expectedBytes = expectedBytes(plan).value_or(0);
      m_progress.each.push_back(std::move(each));
    }
    if (const Status saved = save(); !saved) return saved;
  }
  if (request.plans.empty()) return {};
  const auto missing = [&](int64_t spare) {
    const std::scoped_lock lock(m_mutex);
    return missingNow(request.plans, spare);
  };
  if (!waitForRoom(stop, false, [&] { return missing(kLeastFree); })) return {};

  request.projectName = m_job.project;
  request.folder = m_job.folder;
  request.overwrite = m_job.clash == Clash::Replace;
  request.proof = m_job.proof;
  request.trialFolder = m_settings.trialFolder;
  request.gate = &m_gate;
  request.onProgress = [this](const ExportProgress& progress) { tellProgress(progress); };
  std::vector<Clock::time_point> pictured(request.plans.size());
  request.onPicture = [&](size_t index, const Frame& picture) {
    if (Clock::now() - pictured[index] < kGoingByEvery) return;
    pictured[index] = Clock::now();
    const std::string path = m_queue.picturePath(m_id, m_record.results[m_places[index]].deliverable);
    if (const auto screen = toScreen(picture, kGoingBy)) writeFileLightly(path, pixmapOf(*screen));
  };
  request.onNaming = [&](size_t index, const ExportedFile& file, const FileIdentities& identities) -> Status {
    if (const Status same = sourcesAreUntouched(request.plans[index]); !same) return same;
    return named(index, file, JobResult::State::Naming, identities);
  };
  request.onNamed = [&](size_t index, const ExportedFile& file) {
    std::error_code ignored;
    fs::remove_all(request.segmentFolders[index], ignored);
    (void)named(index, file, file.good() ? JobResult::State::Done : JobResult::State::Short, {});
    if (!file.proof) return;
    const auto page = proofPage({file.path, &*file.proof, &request.plans[index]}, {}, stop);
    if (page) writeFileLightly(m_queue.pagePath(m_id, m_record.results[m_places[index]].deliverable), *page);
  };
  request.whenFull = [&](size_t) { return waitForRoom(stop, true, [&] { return missing(kSpareBytes); }); };
  const auto files = exportPlans(request, stop);
  if (!files) return tl::unexpected(files.error());
  for (size_t i = 0; i < files->size(); ++i) end(i, (*files)[i]);
  return {};
}

/// Writes down what is known of a file before and after it gets its name.
Status JobRun::named(size_t index, const ExportedFile& file, JobResult::State state, const FileIdentities& identities) {
  const std::scoped_lock lock(m_mutex);
  JobResult& result = m_record.results[m_places[index]];
  // While it has no name yet, `path` is the one that it was promised: what falls short gets another.
  if (state != JobResult::State::Naming) result.path = file.path;
  result.state = state;
  if (result.made()) m_record.tries = 1;
  result.soundPath = file.soundPath;
  result.identity = identities.file;
  result.soundIdentity = identities.sound;
  result.bytes = state == JobResult::State::Naming ? 0 : fileBytes(file.path) + fileBytes(file.soundPath);
  result.frames = m_progress.each[index].frames;
  result.seconds = m_progress.elapsedSeconds;
  result.encoder = file.encoder;
  result.inSoftware = file.inSoftware;
  result.copied = file.copied;
  result.notCopied = file.notCopied;
  result.proof = file.proof;
  if (file.proof && state == JobResult::State::Naming) m_queue.keep(m_id, result.deliverable, file.proof->curves);
  result.losses.clear();
  for (const SourceLoss& loss : file.losses) result.losses.push_back(lossText(loss));
  return save();
}

void JobRun::end(size_t index, const ExportedFile& file) {
  const std::scoped_lock lock(m_mutex);
  JobResult& result = m_record.results[m_places[index]];
  result.inSoftware = file.inSoftware;
  result.copied = file.copied;
  result.notCopied = file.notCopied;
  if (!file.error || result.made()) return;
  if (file.error->code == ErrorCode::Cancelled) return; // told by whoever cancelled it
  result.state = JobResult::State::Failed;
  result.error = file.error;
}

void JobRun::tellProgress(const ExportProgress& progress) {
  const std::scoped_lock lock(m_mutex);
  JobProgress::Each& each = m_progress.each[progress.index];
  each.state = exportStateWord(progress.state);
  each.frame = progress.frame;
  each.fraction = progress.fraction;
  each.remainingSeconds = progress.state == ExportState::Done ? 0 : progress.remainingSeconds;
  if (progress.state == ExportState::Encoding && progress.elapsedSeconds > 0.5)
    each.framesASecond = double(progress.frame - progress.first) / progress.elapsedSeconds;
  m_progress.elapsedSeconds = std::max(m_progress.elapsedSeconds, progress.elapsedSeconds);
  // Files that are made side by side share the processors: each goes its own way, but all their pixels together go
  // evenly. What an earlier run has made took no time of this one.
  double all = 0;
  double done = 0;
  double before = 0;
  m_firsts[progress.index] = double(progress.first) / double(std::max<int64_t>(1, progress.frames));
  for (size_t i = 0; i < m_progress.each.size(); ++i) {
    all += m_weights[i];
    done += m_weights[i] * m_progress.each[i].fraction;
    before += m_weights[i] * std::min(m_progress.each[i].fraction, m_firsts[i]);
  }
  constexpr double kLeast = 0.005; // of the whole, before anything can be told
  m_progress.fraction = done / all;
  // The last that ends. What has failed tells no more, and its end goes by.
  m_ends[progress.index] = each.remainingSeconds > 0 ? m_progress.elapsedSeconds + each.remainingSeconds : 0;
  m_progress.remainingSeconds =
      std::max(0.0, *std::max_element(m_ends.begin(), m_ends.end()) - m_progress.elapsedSeconds);
  if (m_progress.remainingSeconds <= 0 && done - before > kLeast * all)
    m_progress.remainingSeconds = m_progress.elapsedSeconds * (all - done) / (done - before);
}

void JobRun::heedWishes() {
  const Queue::Wish wish = m_queue.takeWish(m_id);
  if (wish == Queue::Wish::None) return;
  const std::scoped_lock lock(m_mutex);
  if (wish == Queue::Wish::Cancel) {
    m_cancelled = true;
    m_stop.request_stop();
    return;
  }
  m_paused = wish == Queue::Wish::Pause;
  if (m_paused)
    m_gate.close();
  else
    m_gate.open();
  m_record.state = m_paused ? JobRecord::State::Paused : JobRecord::State::Running;
  (void)save();
}

/// Beside the export: heeds wishes, and writes down how far it is.
void JobRun::attend(const std::stop_token& done) {
  Clock::time_point told{};
  Clock::time_point asked{};
  while (!done.stop_requested()) {
    heedWishes();
    if (Clock::now() - asked >= kPowerEvery) {
      asked = Clock::now();
      const bool battery = runsOnBattery();
      static std::atomic<bool> warned = false; // once by each process that does jobs
      if (battery && !warned.exchange(true))
        showNotice(m_job.project,
                   say("The machine lives on its battery: plug it in, or exports may end in the middle").text());
      const std::scoped_lock lock(m_mutex);
      m_progress.onBattery = battery;
    }
    if (Clock::now() - told >= kTellEvery && !m_paused) {
      told = Clock::now();
      const std::scoped_lock lock(m_mutex);
      for (size_t i = 0; i < m_places.size() && i < m_progress.each.size(); ++i) {
        const JobResult& result = m_record.results[m_places[i]];
        m_progress.each[i].bytes = result.made() ? result.bytes : fileBytes(PartFile::pathFor(result.path));
      }
      m_queue.write(m_id, m_progress);
    }
    (void)waited(kHeedEvery, done);
  }
}

} // namespace tromb
