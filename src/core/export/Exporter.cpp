// SPDX-License-Identifier: GPL-3.0-or-later
#include "export/Exporter.h"

#include "export/BoundedQueue.h"
#include "io/PartFile.h"
#include "media/OutputFile.h"
#include "media/read/VideoReader.h"
#include "render/Pictures.h"
#include "render/SoundMix.h"
#include "render/SoundTarget.h"

#include <algorithm>
#include <atomic>
#include <chrono>
#include <filesystem>
#include <mutex>
#include <set>
#include <thread>

namespace tromb {
namespace {

namespace fs = std::filesystem;
using Clock = std::chrono::steady_clock;

constexpr size_t kQueuedFrames = 6;
constexpr double kEncodingShare = 0.9; ///< of the progress, when a proof follows
constexpr auto kPictureEvery = std::chrono::milliseconds(250);

/// A source picture for one deliverable, shown for `repeat` of its frames.
struct Decoded {
  size_t piece;
  Frame picture;
  int64_t first; ///< frame of the piece
  int64_t repeat;
};
struct Composed {
  Frame canvas;
  int64_t repeat;
};

std::string pathOf(const ExportRequest& request, const Plan& plan) {
  return exportPath(request.folder, plan.output().naming,
                    {request.projectName, plan.regionName(), &plan.deliverable()});
}

/// The first error of any thread, which stops all others.
class Failure {
public:
  explicit Failure(std::stop_source& all) : m_all(all) {}
  void set(Error error) {
    {
      const std::scoped_lock lock(m_mutex);
      if (!m_error) m_error = std::move(error);
    }
    m_all.request_stop();
  }
  [[nodiscard]] std::optional<Error> get() {
    const std::scoped_lock lock(m_mutex);
    return m_error;
  }

private:
  std::stop_source& m_all;
  std::mutex m_mutex;
  std::optional<Error> m_error;
};

/// One deliverable on its way: a thread that composes and one that encodes, with a queue before each.
class Lane {
public:
  Lane(const ExportRequest& request, size_t index, SoundMix* sound, Failure& failure, Clock::time_point begun)
      : m_request(request), m_plan(request.plans[index]), m_index(index), m_sound(sound), m_failure(failure),
        m_begun(begun), m_target(pathOf(request, m_plan)), m_soundSkip(sound ? sound->leadIn(index) : 0) {}

  BoundedQueue<Decoded>& input() { return m_decoded; }
  [[nodiscard]] const ExportedFile& result() const { return m_result; }

  void start(const std::stop_token& stop) {
    m_composing = std::jthread([this, stop] {
      guarded([&] { return composeAll(stop); });
      m_composed.close();
    });
    m_encoding = std::jthread([this, stop] { guarded([&] { return encodeAll(stop); }); });
  }
  void wait() {
    m_composing.join();
    m_encoding.join();
  }

private:
  template <typename Work> void guarded(Work work) {
    try {
      if (const Status done = work(); !done) m_failure.set(done.error());
    } catch (const std::exception& broken) {
      m_failure.set(
          {ErrorCode::Encoder, std::string("out of memory or a fault inside: ") + broken.what(), m_target, {}, {}});
    }
  }

  Status composeAll(const std::stop_token& stop) {
    std::optional<Composer> composer;
    size_t piece = SIZE_MAX;
    while (auto item = m_decoded.pop(stop)) {
      if (item->piece != piece) {
        piece = item->piece;
        auto made = composerFor(m_plan.pieces()[piece]);
        if (!made) return tl::unexpected(made.error());
        composer = std::move(*made);
      }
      const PlanPiece& p = m_plan.pieces()[piece];
      // A picture that is shown again is the same canvas again, unless its framing moves.
      const int64_t together = p.moving ? 1 : item->repeat;
      for (int64_t i = 0; i < item->repeat; i += together) {
        auto canvas = composer->compose(item->picture, p.placements(item->first + i, m_plan.rate()));
        if (!canvas) {
          canvas.error().path = p.media.path;
          return tl::unexpected(canvas.error());
        }
        if (!m_composed.push({std::move(*canvas), together}, stop)) return {};
      }
    }
    return {};
  }

  Status addSoundUpTo(OutputFile& out, int64_t samples) {
    while (m_soundDone < samples) {
      if (m_chunkUsed == SoundMix::kChunkSamples) {
        auto chunk = m_sound->next(m_index);
        if (!chunk) return tl::unexpected(chunk.error());
        m_chunk = *chunk;
        m_chunkUsed = std::min(m_soundSkip, SoundMix::kChunkSamples);
        m_soundSkip -= m_chunkUsed;
        continue;
      }
      const int64_t count = std::min(samples - m_soundDone, SoundMix::kChunkSamples - m_chunkUsed);
      const Status added =
          out.addSound({m_chunk->data() + m_chunkUsed * kSoundChannels, size_t(count * kSoundChannels)});
      if (!added) return added;
      m_chunkUsed += count;
      m_soundDone += count;
    }
    return {};
  }

  /// Encoders side by side keep the processors busy already, and threads inside each would only cost. But the largest
  /// canvas is done last, and then has the processors for itself.
  [[nodiscard]] int encoderThreads() const {
    const auto& plans = m_request.plans;
    if (plans.size() < 2 || plans.size() < std::thread::hardware_concurrency()) return 0;
    const auto pixels = [](const Plan& plan) { return int64_t(plan.canvas().width) * plan.canvas().height; };
    const auto largest = std::max_element(plans.begin(), plans.end(),
                                          [&](const Plan& a, const Plan& b) { return pixels(a) < pixels(b); });
    return size_t(largest - plans.begin()) == m_index ? 0 : 1;
  }

  Status encodeAll(const std::stop_token& stop) {
    auto part = PartFile::create(m_target);
    if (!part) return tl::unexpected(part.error());
    PictureStream stream{m_plan.canvas(), m_plan.rate(), m_plan.encoding()};
    stream.threads = encoderThreads();
    auto out = OutputFile::create(part->path(), stream, m_sound != nullptr);
    if (!out) return tl::unexpected(named(out.error()));
    int64_t frame = 0;
    Clock::time_point lastPicture{};
    while (auto item = m_composed.pop(stop)) {
      for (int64_t i = 0; i < item->repeat && !stop.stop_requested(); ++i) {
        Status done = out->addPicture(item->canvas);
        ++frame;
        if (done && m_sound) done = addSoundUpTo(*out, (m_plan.rate().timeOf(frame) * Rational(kSoundRate)).nearest());
        if (!done) return tl::unexpected(named(done.error()));
        report(frame, ExportState::Encoding);
        if (m_request.onPicture && Clock::now() - lastPicture >= kPictureEvery) {
          lastPicture = Clock::now();
          m_request.onPicture(m_index, item->canvas);
        }
      }
    }
    if (stop.stop_requested()) return {};
    if (frame != m_plan.frameCount())
      return fail(ErrorCode::Encoder,
                  "only " + std::to_string(frame) + " of " + std::to_string(m_plan.frameCount()) + " frames were made",
                  m_target);
    report(frame, ExportState::Finishing);
    if (const Status done = out->finish(); !done) return tl::unexpected(named(done.error()));
    if (m_request.proof) {
      auto report_ = proofFile(part->path(), &m_plan, stop, [this](int64_t n) { report(n, ExportState::Proofing); });
      if (!report_) return tl::unexpected(named(report_.error()));
      m_result.proof = *report_;
    }
    if (stop.stop_requested()) return {};
    if (const Status done = part->takeFinalName(m_request.overwrite); !done) return done;
    m_result.path = m_target;
    report(frame, ExportState::Done);
    return {};
  }

  /// Errors speak of the file under its final name.
  Error named(Error error) const {
    error.path = m_target;
    return error;
  }

  void report(int64_t frame, ExportState state) {
    if (!m_request.onProgress) return;
    const double total = double(m_plan.frameCount());
    const double share = m_request.proof ? kEncodingShare : 1;
    ExportProgress p;
    p.index = m_index;
    p.frame = state == ExportState::Proofing ? m_plan.frameCount() : frame;
    p.frames = m_plan.frameCount();
    p.state = state;
    p.fraction = state == ExportState::Done       ? 1
                 : state == ExportState::Proofing ? share + (1 - share) * double(frame) / total
                                                  : share * double(frame) / total;
    p.elapsedSeconds = std::chrono::duration<double>(Clock::now() - m_begun).count();
    p.remainingSeconds = p.fraction > 0.01 ? p.elapsedSeconds * (1 - p.fraction) / p.fraction : 0;
    m_request.onProgress(p);
  }

  const ExportRequest& m_request;
  const Plan& m_plan;
  size_t m_index;
  SoundMix* m_sound;
  Failure& m_failure;
  Clock::time_point m_begun;
  std::string m_target;
  int64_t m_soundSkip;
  BoundedQueue<Decoded> m_decoded{kQueuedFrames};
  BoundedQueue<Composed> m_composed{kQueuedFrames};
  SoundMix::Chunk m_chunk;
  int64_t m_chunkUsed = SoundMix::kChunkSamples;
  int64_t m_soundDone = 0;
  ExportedFile m_result;
  std::jthread m_composing;
  std::jthread m_encoding;
};

/// Decodes one shot and gives each lane the pictures that its frames show.
Status decodePiece(const ExportRequest& request, size_t index, std::vector<std::unique_ptr<Lane>>& lanes,
                   const std::stop_token& stop) {
  std::vector<int64_t> next(lanes.size(), 0); // next frame of the piece, by lane
  const auto piece = [&](size_t lane) -> const PlanPiece& { return request.plans[lane].pieces()[index]; };
  const auto wanted = [&](size_t lane) { return piece(lane).sourceFrame(next[lane], request.plans[lane].rate()); };
  const auto done = [&](size_t lane) { return next[lane] >= piece(lane).frameCount; };

  std::optional<VideoReader> reader;
  for (;;) {
    int64_t target = INT64_MAX;
    for (size_t lane = 0; lane < lanes.size(); ++lane)
      if (!done(lane)) target = std::min(target, wanted(lane));
    if (target == INT64_MAX || stop.stop_requested()) return {};
    if (!reader) {
      auto opened = VideoReader::open(piece(0).media, 0, stop);
      if (!opened) return tl::unexpected(opened.error());
      reader = std::move(*opened);
    }
    const auto got = reader->shown(target);
    if (!got) return tl::unexpected(got.error());
    for (size_t lane = 0; lane < lanes.size(); ++lane) {
      int64_t repeat = 0;
      while (!done(lane) && wanted(lane) <= target) {
        ++next[lane];
        ++repeat;
      }
      if (repeat > 0 && !lanes[lane]->input().push({index, got->frame, next[lane] - repeat, repeat}, stop)) return {};
    }
  }
}

Status checkTargets(const ExportRequest& request) {
  std::set<std::string> names;
  for (const Plan& plan : request.plans) {
    const std::string path = pathOf(request, plan);
    if (!names.insert(path).second)
      return fail(ErrorCode::InvalidArgument, "two deliverables would be written to the same file", path,
                  "Give them different names");
    std::error_code ignored;
    if (!request.overwrite && fs::exists(path, ignored))
      return fail(ErrorCode::Exists, "the file is there already", path,
                  "Remove it, choose another folder, or overwrite it");
  }
  return {};
}

} // namespace

const char* exportStateWord(ExportState state) {
  static const char* const kWords[] = {"encoding", "finishing", "proofing", "done"};
  return kWords[int(state)];
}

std::string exportPath(const std::string& folder, const std::string& naming, const FileSubject& of) {
  return (fs::path(folder) / (fileName(naming, of) + ".mp4")).string();
}

Result<std::vector<ExportedFile>> exportPlans(const ExportRequest& request, std::stop_token stop) {
  if (request.plans.empty())
    return fail(ErrorCode::InvalidArgument, "there is no deliverable to export", {}, "Add a deliverable first");
  std::error_code made;
  fs::create_directories(request.folder, made);
  if (made)
    return fail(ErrorCode::CannotWrite, "the folder cannot be made (" + made.message() + ")", request.folder,
                "Choose another folder");
  PartFile::sweep(request.folder);
  if (const Status free = checkTargets(request); !free) return tl::unexpected(free.error());

  std::stop_source all; // stopped by the caller or by the first failure
  const std::stop_callback passOn(stop, [&all] { all.request_stop(); });
  Failure failure(all);
  std::optional<SoundMix> sound;
  const auto begun = Clock::now();
  if (request.plans.front().hasSound()) {
    const auto gain = soundGainDb(request.plans.front(), stop);
    if (!gain) return tl::unexpected(gain.error());
    sound.emplace(request.plans, *gain);
  }
  std::vector<std::unique_ptr<Lane>> lanes;
  for (size_t i = 0; i < request.plans.size(); ++i)
    lanes.push_back(std::make_unique<Lane>(request, i, sound ? &*sound : nullptr, failure, begun));
  for (auto& lane : lanes) lane->start(all.get_token());
  for (size_t piece = 0; piece < request.plans.front().pieces().size() && !all.stop_requested(); ++piece)
    if (const Status done = decodePiece(request, piece, lanes, all.get_token()); !done) failure.set(done.error());
  for (auto& lane : lanes) lane->input().close();
  for (auto& lane : lanes) lane->wait();

  if (auto error = failure.get()) return tl::unexpected(*error);
  if (stop.stop_requested()) return fail(ErrorCode::Cancelled, "the export was cancelled; no half-made file was kept");
  std::vector<ExportedFile> files;
  for (auto& lane : lanes) files.push_back(lane->result());
  return files;
}

} // namespace tromb
