// SPDX-License-Identifier: GPL-3.0-or-later
#include "export/Exporter.h"

#include "analysis/SoundTarget.h"
#include "export/Lane.h"
#include "export/TimeLeft.h"
#include "io/PartFile.h"
#include "io/TemporaryFolder.h"
#include "media/write/Hardware.h"
#include "render/Pictures.h"
#include "time/Timecode.h"

#include <algorithm>
#include <atomic>
#include <filesystem>
#include <map>
#include <numeric>
#include <set>

namespace tromb {
namespace {

namespace fs = std::filesystem;
using Lanes = std::vector<std::unique_ptr<Lane>>;

/// Tells all lanes how long it takes yet, by how the sources are gone through. One thread; `left` is for all.
class Course {
public:
  Course(const ExportRequest& request, bool first)
      : m_request(request), m_time(partsOf(request)), m_last(Clock::now()), m_closed(closed()) {
    const bool again = first && std::any_of(request.plans.begin(), request.plans.end(),
                                            [](const Plan& plan) { return plan.encoding().hasTwoPasses(); });
    m_passes = again ? 1 / Lane::kFirstPassShare : 1;
    m_proof = request.proof ? 1 / Lane::kEncodingShare : 1;
  }
  /// Where a piece is entered: what lies before was made by an earlier run.
  void enter(size_t piece, double share) {
    m_share = share;
    m_time.skip(piece, share * lengthOf(piece));
  }
  void reach(size_t piece, double share) {
    const auto now = Clock::now();
    const double held = closed();
    const double seconds = std::chrono::duration<double>(now - m_last).count() - (held - m_closed);
    m_time.add(piece, std::max(0.0, share - m_share) * lengthOf(piece), std::max(0.0, seconds));
    m_share = share;
    m_last = now;
    m_closed = held;
    if (now - m_told < kToldEvery) return; // it goes through all shots, and there is a picture each few milliseconds
    m_told = now;
    if (const auto rest = m_time.remaining())
      m_left = (m_time.elapsed() + *rest) * m_passes * m_proof - m_time.elapsed();
  }
  [[nodiscard]] const std::atomic<double>& left() const { return m_left; }

private:
  using Clock = std::chrono::steady_clock;
  [[nodiscard]] double closed() const { return m_request.gate ? m_request.gate->closedSeconds() : 0; }
  [[nodiscard]] double lengthOf(size_t piece) const {
    const Plan& plan = m_request.plans.front();
    return plan.rate().timeOf(plan.pieces()[piece].frameCount).toDouble();
  }
  /// Milliseconds a megapixel of decoding, and of composing and encoding: how they compare is all that counts. Measured
  /// with H.264 at its usual speed; common practice, no published source.
  static constexpr double kReads = 4;
  static constexpr double kMakes = 15;
  static constexpr auto kToldEvery = std::chrono::milliseconds(250);
  static std::vector<TimeLeft::Part> partsOf(const ExportRequest& request) {
    const auto megapixels = [](Size size) { return double(size.width) * size.height / 1e6; };
    double makes = 0;
    for (const Plan& plan : request.plans)
      if (plan.encoding().hasPicture()) makes += kMakes * megapixels(plan.canvas());
    std::vector<TimeLeft::Part> parts;
    std::map<std::string, size_t> kinds;
    const Plan& plan = request.plans.front();
    for (const PlanPiece& piece : plan.pieces()) {
      const MediaInfo& file = piece.reading.file;
      const double reads = file.video ? kReads * megapixels(file.video->stored) : 0;
      parts.push_back({plan.rate().timeOf(piece.frameCount).toDouble(), 1 + reads + makes,
                       kinds.emplace(file.path, kinds.size()).first->second});
    }
    return parts;
  }

  const ExportRequest& m_request;
  TimeLeft m_time;
  Clock::time_point m_last;
  Clock::time_point m_told;
  double m_closed;
  double m_share = 0; ///< of the piece that is gone through
  double m_passes = 1;
  double m_proof = 1;
  std::atomic<double> m_left = 0;
};

/// Decodes one shot and gives each lane the pictures that its frames show.
Status decodePiece(const ExportRequest& request, size_t index, Lanes& lanes, Course& course,
                   const std::stop_token& stop) {
  const auto piece = [&](size_t lane) -> const PlanPiece& { return request.plans[lane].pieces()[index]; };
  std::vector<int64_t> next; // next frame of the piece, by lane
  for (size_t lane = 0; lane < lanes.size(); ++lane)
    next.push_back(std::clamp<int64_t>(lanes[lane]->firstFrame() - piece(lane).firstFrame, 0, piece(lane).frameCount));
  // How far those are that still take pictures, 0 to 1: an export that is gone on with begins where the last of them
  // is.
  const auto share = [&] {
    double least = 1;
    for (size_t lane = 0; lane < lanes.size(); ++lane)
      if (!lanes[lane]->ended() && piece(lane).frameCount > 0)
        least = std::min(least, double(next[lane]) / double(piece(lane).frameCount));
    return least;
  };
  course.enter(index, share());
  // What is read by fields for one lane is so for all.
  size_t reads = 0;
  for (size_t lane = 0; lane < lanes.size(); ++lane)
    if (piece(lane).reading.byFields) reads = lane;
  const auto wanted = [&](size_t lane) {
    ShownFrames shown = piece(lane).shown(next[lane]);
    if (piece(reads).reading.byFields && !piece(lane).reading.byFields) {
      shown.frame *= 2;
      shown.next *= 2;
    }
    return shown;
  };
  // How far the lane has come in the source, in the direction of the shot, in frames.
  const bool back = piece(0).frames.time().reversed();
  const auto place = [back](const ShownFrames& shown) {
    return double(back ? -shown.frame : shown.frame) + shown.nextShare;
  };
  const auto done = [&](size_t lane) { return next[lane] >= piece(lane).frameCount || lanes[lane]->ended(); };

  std::optional<PictureSource> source;
  while (!stop.stop_requested()) {
    if (request.gate) request.gate->pass(stop);
    for (size_t lane = 0; lane < lanes.size(); ++lane) {
      const int64_t first = piece(lane).firstFrame;
      const int64_t unseen = done(lane) ? 0 : lanes[lane]->unseenUntil(first + next[lane]) - first - next[lane];
      const int64_t here = std::min(unseen, piece(lane).frameCount - next[lane]);
      if (here <= 0) continue;
      (void)lanes[lane]->push({index, {}, next[lane], here, false});
      next[lane] += here;
    }
    std::optional<ShownFrames> target;
    for (size_t lane = 0; lane < lanes.size(); ++lane)
      if (!done(lane) && (!target || place(wanted(lane)) < place(*target))) target = wanted(lane);
    if (!target) return {};
    if (!source) {
      auto opened = sourceFor(piece(reads), stop);
      if (!opened) return tl::unexpected(opened.error());
      source = std::move(*opened);
    }
    const auto got = source->shown(*target);
    if (!got) return tl::unexpected(got.error());
    for (size_t lane = 0; lane < lanes.size(); ++lane) {
      int64_t repeat = 0;
      while (!done(lane) && wanted(lane) == *target) {
        ++next[lane];
        ++repeat;
      }
      if (repeat > 0) (void)lanes[lane]->push({index, got->frame, next[lane] - repeat, repeat, got->damaged});
    }
    course.reach(index, share());
  }
  return {};
}

/// Does the same, and turns exceptions into errors.
Status decodeAll(const ExportRequest& request, Lanes& lanes, Course& course, const std::stop_token& stop) {
  try {
    for (size_t piece = 0; piece < request.plans.front().pieces().size(); ++piece) {
      const bool anybody = std::any_of(lanes.begin(), lanes.end(), [](const auto& lane) { return !lane->ended(); });
      if (!anybody || stop.stop_requested()) return {};
      if (const Status done = decodePiece(request, piece, lanes, course, stop); !done) return done;
    }
    return {};
  } catch (const std::bad_alloc&) {
    return fail(ErrorCode::Decoder, say("memory has run out"), {},
                say("Close other programs, or export fewer at once"));
  } catch (const std::exception& broken) {
    return fail(ErrorCode::Decoder, say("a fault inside: %1", broken.what()));
  }
}

Status checkTargets(const ExportRequest& request) {
  std::set<std::string> names;
  std::vector<std::string> paths;
  for (size_t i = 0; i < request.plans.size(); ++i) {
    const Plan& plan = request.plans[i];
    paths.push_back(targetOf(request, i));
    if (plan.hasSound() && plan.encoding().sound.place == SoundPlace::Beside)
      paths.push_back(soundPath(targetOf(request, i), plan.encoding()));
    if (!plan.captions().empty()) paths.push_back(captionPath(targetOf(request, i), plan.encoding()));
  }
  for (const std::string& path : paths) {
    if (!names.insert(path).second)
      return fail(ErrorCode::InvalidArgument, say("two deliverables would be written to the same file"), path,
                  say("Give them different names"));
    std::error_code ignored;
    if (fs::is_directory(path, ignored))
      return fail(ErrorCode::CannotWrite, say("a folder has that name"), path,
                  say("Rename it, or choose another folder"));
    if (!request.overwrite && fs::exists(path, ignored))
      return fail(ErrorCode::Exists, say("the file is there already"), path,
                  say("Remove it, choose another folder, or overwrite it"));
  }
  return {};
}

/// The sound of an export: a mix for each number of channels, each loudness and each timing that is delivered.
class Mixes {
public:
  /// The reader of each plan. Errors: those of soundGainDb.
  Result<std::vector<MixReader>> prepare(const std::vector<Plan>& plans, const std::stop_token& stop) {
    std::vector<MixReader> readers(plans.size());
    std::vector<std::vector<size_t>> alike; // places
    const auto sameMix = [&](size_t a, size_t b) {
      return plans[a].encoding().sound.channels == plans[b].encoding().sound.channels &&
             plans[a].output().loudnessLufs == plans[b].output().loudnessLufs &&
             plans[a].timing().same(plans[b].timing());
    };
    for (size_t i = 0; i < plans.size(); ++i) {
      if (!plans[i].hasSound()) continue;
      const auto with =
          std::find_if(alike.begin(), alike.end(), [&](const auto& places) { return sameMix(places[0], i); });
      if (with == alike.end())
        alike.push_back({i});
      else
        with->push_back(i);
    }
    for (const std::vector<size_t>& places : alike) {
      std::vector<Plan> heard;
      for (const size_t place : places) heard.push_back(plans[place]);
      const auto gain = soundGainDb(heard.front(), stop);
      if (!gain) return tl::unexpected(gain.error());
      m_mixes.push_back(std::make_unique<SoundMix>(heard, *gain, stop));
      for (size_t reader = 0; reader < places.size(); ++reader)
        readers[places[reader]] = {m_mixes.back().get(), reader};
    }
    return readers;
  }

private:
  std::vector<std::unique_ptr<SoundMix>> m_mixes;
};

/// The folders that were made for an export. They are removed again if nothing was put into them.
class MadeFolders {
public:
  explicit MadeFolders(const std::set<std::string>& folders) {
    std::error_code ignored;
    for (const std::string& folder : folders)
      for (fs::path path = fs::absolute(folder, ignored); !path.empty() && !fs::exists(path, ignored);
           path = path.parent_path()) {
        if (path.has_filename()) m_missing.insert(path);
        if (path == path.parent_path()) break;
      }
  }
  MadeFolders(const MadeFolders&) = delete;
  MadeFolders& operator=(const MadeFolders&) = delete;
  ~MadeFolders() {
    std::error_code ignored;
    // Those inside others come behind them; only empty ones can be removed.
    for (auto path = m_missing.rbegin(); path != m_missing.rend(); ++path) fs::remove(*path, ignored);
  }

private:
  std::set<fs::path> m_missing;
};

constexpr const char* kNotRight = " (not right)";

} // namespace

const char* exportStateWord(ExportState state) {
  static const char* const kWords[] = {"encoding", "finishing", "proofing", "done"};
  return kWords[int(state)];
}

std::string targetOf(const ExportRequest& request, size_t index) {
  if (!request.paths.empty()) return request.paths[index];
  const Plan& plan = request.plans[index];
  return exportPath(request.folder, plan.output().naming,
                    {request.projectName, plan.regionName(), &plan.deliverable()});
}

std::string shortName(const std::string& path) {
  const fs::path file(path);
  return file.stem().string() + kNotRight + file.extension().string();
}

std::string rightPath(const std::string& path) {
  const fs::path file(path);
  std::string stem = file.stem().string();
  if (!stem.ends_with(kNotRight)) return path;
  stem.resize(stem.size() - std::string_view(kNotRight).size());
  return (file.parent_path() / (stem + file.extension().string())).string();
}

Result<std::vector<ExportedFile>> exportPlans(const ExportRequest& request, std::stop_token stop) {
  if (request.plans.empty())
    return fail(ErrorCode::InvalidArgument, say("there is no deliverable to export"), {},
                say("Add a deliverable first"));
  std::set<std::string> folders{request.folder}; // a name may lie in folders of its own
  for (size_t i = 0; i < request.plans.size(); ++i)
    folders.insert(fs::path(targetOf(request, i)).parent_path().string());
  folders.erase(std::string());
  const MadeFolders made(folders);
  for (const std::string& folder : folders) {
    std::error_code refused;
    fs::create_directories(folder, refused);
    if (refused)
      return fail(ErrorCode::CannotWrite, say("the folder cannot be made (%1)", refused.message()), folder,
                  say("Choose another folder"));
    PartFile::sweep(folder);
  }
  if (const Status free = checkTargets(request); !free) return tl::unexpected(free.error());

  std::stop_source all; // requested by the caller, or if reading the sources fails
  const std::stop_callback passOn(stop, [&all] { all.request_stop(); });
  const auto begun = std::chrono::steady_clock::now();
  const size_t count = request.plans.size();
  std::vector<std::unique_ptr<Mixes>> mixes; // lanes read from them
  Lanes lanes(count);
  std::vector<Message> inSoftware(count);
  std::vector<Message> notCopied(count);
  std::optional<TemporaryFolder> spare; // where hardware's segments are kept if the caller keeps none
  const auto segmentsOf = [&](size_t place, bool hardware) {
    if (!request.segmentFolders.empty()) return request.segmentFolders[place];
    if (!spare && hardware)
      if (auto folder = TemporaryFolder::create()) spare.emplace(std::move(*folder));
    return spare ? spare->path() + "/" + std::to_string(place) : std::string();
  };
  // Makes the lanes of some deliverables.
  const auto begin = [&](const std::vector<size_t>& places, bool hardware) -> Status {
    std::vector<Plan> plans;
    for (const size_t place : places) plans.push_back(request.plans[place]);
    mixes.push_back(std::make_unique<Mixes>());
    const auto readers = mixes.back()->prepare(plans, all.get_token());
    if (!readers) return tl::unexpected(readers.error());
    for (size_t i = 0; i < places.size(); ++i) {
      const Plan& plan = plans[i];
      const HardwareEncoder* encoder =
          hardware ? hardwareFor(plan.encoding(), plan.format(), request.trialFolder, &inSoftware[places[i]]) : nullptr;
      if (encoder) inSoftware[places[i]] = {};
      lanes[places[i]] = std::make_unique<Lane>(request, places[i], (*readers)[i], encoder,
                                                segmentsOf(places[i], encoder != nullptr), begun, all.get_token());
      if (!notCopied[places[i]].empty()) lanes[places[i]]->encodeEverything();
    }
    return {};
  };
  const auto run = [&](const std::vector<size_t>& places, bool first) -> Status {
    Course course(request, first);
    for (const size_t place : places) {
      const Plan& plan = request.plans[place];
      if (first && !Lane::needsFirstPass(plan)) continue;
      lanes[place]->follow(&course.left());
      const bool second = plan.encoding().hasTwoPasses();
      lanes[place]->start(first ? PassLog::Pass::First : second ? PassLog::Pass::Second : PassLog::Pass::Only);
    }
    const Status done = decodeAll(request, lanes, course, all.get_token());
    if (!done) all.request_stop();
    for (auto& lane : lanes) lane->closeInput();
    for (auto& lane : lanes) lane->wait();
    for (auto& lane : lanes) lane->follow(nullptr);
    return done;
  };
  std::vector<size_t> places(count);
  std::iota(places.begin(), places.end(), size_t(0));
  if (const Status ready = begin(places, true); !ready) return tl::unexpected(ready.error());
  Status decoded;
  if (std::any_of(request.plans.begin(), request.plans.end(), Lane::needsFirstPass)) decoded = run(places, true);
  if (decoded && !all.stop_requested()) decoded = run(places, false);
  // What could not be copied, since a file does not hold what it says, is encoded. What hardware has left undone is
  // made in software, from its last whole group on.
  std::vector<size_t> again;
  for (const size_t place : places)
    if (Message fault = lanes[place]->hardwareFault(); !fault.empty()) {
      inSoftware[place] = std::move(fault);
      again.push_back(place);
    } else if (Message why = lanes[place]->copyFault(); !why.empty()) {
      notCopied[place] = std::move(why);
      again.push_back(place);
    }
  if (!again.empty() && decoded && !all.stop_requested()) {
    decoded = begin(again, false);
    const auto looks = [&](size_t place) { return Lane::needsFirstPass(request.plans[place]); };
    if (decoded && std::any_of(again.begin(), again.end(), looks)) decoded = run(again, true);
    if (decoded && !all.stop_requested()) decoded = run(again, false);
    for (const size_t place : again)
      if (const int64_t first = lanes[place]->firstFrame(); first > 0 && notCopied[place].empty())
        inSoftware[place] = say("%1; what lies before %2 is by graphics hardware", inSoftware[place],
                                clockText(request.plans[place].rate().timeOf(first)));
  }

  std::vector<ExportedFile> files;
  for (size_t i = 0; i < count; ++i) {
    files.push_back(lanes[i]->takeResult());
    files.back().inSoftware = inSoftware[i];
    files.back().notCopied = notCopied[i];
  }
  const bool any = std::any_of(files.begin(), files.end(), [](const ExportedFile& f) { return !f.path.empty(); });
  const Error cancelled{ErrorCode::Cancelled, say("the export was cancelled; no half-made file was kept"), {}, {}, {}};
  if (!any && stop.stop_requested()) return tl::unexpected(cancelled);
  if (!any && !decoded) return tl::unexpected(decoded.error());
  for (ExportedFile& file : files)
    if (file.path.empty() && (!file.error || file.error->code == ErrorCode::Cancelled))
      file.error = !decoded && decoded.error().code != ErrorCode::Cancelled ? decoded.error() : cancelled;
  return files;
}

Status makeSegments(const ExportRequest& request, const SegmentRange& range, std::stop_token stop) {
  std::stop_source all;
  const std::stop_callback passOn(stop, [&all] { all.request_stop(); });
  Lanes lanes;
  lanes.push_back(std::make_unique<Lane>(request, 0, MixReader(), nullptr, request.segmentFolders.front(),
                                         std::chrono::steady_clock::now(), all.get_token()));
  Lane& lane = *lanes.front();
  lane.onlySegments(range);
  Course course(request, false);
  lane.start(PassLog::Pass::Only);
  const Status decoded = decodeAll(request, lanes, course, all.get_token());
  if (!decoded) all.request_stop();
  lane.closeInput();
  lane.wait();
  const ExportedFile made = lane.takeResult();
  if (made.error) return tl::unexpected(*made.error);
  if (!decoded) return decoded;
  if (stop.stop_requested())
    return fail(ErrorCode::Cancelled, say("the export was cancelled; no half-made file was kept"));
  return {};
}

} // namespace tromb
