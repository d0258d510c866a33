// SPDX-License-Identifier: GPL-3.0-or-later
#include "export/PictureProof.h"

#include "analysis/BarMeter.h"
#include "export/Beside.h"
#include "media/CanvasFrame.h"
#include "media/read/VideoReader.h"

#include <algorithm>
#include <limits>
#include <mutex>
#include <optional>
#include <thread>
#include <utility>
#include <vector>

namespace tromb {
namespace {

constexpr int64_t kLeastFrames = 48;  ///< of a stretch: fewer are not worth a decoder of their own
constexpr int64_t kMostStretches = 8; ///< each keeps the pictures of a decoder in memory
constexpr int64_t kToTheEnd = std::numeric_limits<int64_t>::max();

/// The frames [begin, end) of a file, which one decoder reads, and what was seen of them.
struct DecodedStretch {
  VideoReader reader;
  NumberedFrame first; ///< has been read already; its `frame` is empty where nothing has
  int64_t begin = 0;
  int64_t end = kToTheEnd;
  SeenPictures seen;
  std::vector<BarMeter> bars; ///< one for each piece of the plan
};

/// Divides a file into stretches of about equal length, each of which begins with a key frame. A file that has too few
/// key frames, or that cannot be entered at them, is one stretch.
Result<std::vector<DecodedStretch>> divided(const MediaInfo& media, const ReadOptions& options) {
  auto whole = VideoReader::open(media, options);
  if (!whole) return tl::unexpected(whole.error());
  std::vector<DecodedStretch> stretches;
  stretches.push_back({std::move(*whole), {}, 0, kToTheEnd, {}, {}});
  const int64_t frames = media.video->clock.frameCount();
  // There are more stretches than processors, since key frames divide the file unevenly.
  const int64_t most = std::clamp<int64_t>(2 * std::thread::hardware_concurrency(), 2, kMostStretches);
  const int64_t count = std::clamp<int64_t>(frames / kLeastFrames, 1, most);
  for (int64_t i = 1; i < count; ++i) {
    // If this reader cannot be opened, the stretch before takes over its frames and reports the error.
    auto reader = VideoReader::open(media, options);
    if (!reader || !reader->goNear(frames * i / count)) continue;
    auto first = reader->read();
    if (!first || !first->frame || first->number <= stretches.back().begin) continue;
    const int64_t begin = first->number;
    stretches.back().end = begin;
    stretches.push_back({std::move(*reader), std::move(*first), begin, kToTheEnd, {}, {}});
  }
  return stretches;
}

/// Counts the pictures that all threads have read, and reports the progress.
class Count {
public:
  explicit Count(const std::function<void(int64_t)>& told) : m_told(told) {}
  void one() {
    if (!m_told) return;
    const std::scoped_lock lock(m_mutex);
    m_told(++m_done);
  }

private:
  const std::function<void(int64_t)>& m_told;
  std::mutex m_mutex;
  int64_t m_done = 0;
};

/// Reads all frames of a stretch and notes what they show.
Status see(DecodedStretch& s, const MediaInfo& media, const Plan* plan, const TraceFile* traces, Count& count) {
  SeenPictures& seen = s.seen;
  std::optional<PictureJudge> judge;
  if (traces) judge.emplace(*traces, plan->canvas(), plan->rate().toDouble(), s.begin);
  s.bars.resize(plan ? std::max<size_t>(1, plan->pieces().size()) : 1);
  size_t piece = 0;
  int64_t place = s.begin;
  for (;;) {
    auto got = s.first.frame ? Result<NumberedFrame>(std::exchange(s.first, {})) : s.reader.read();
    if (!got) return tl::unexpected(got.error());
    const bool over = !got->frame;
    if (over || got->number >= s.end) {
      if (s.end != kToTheEnd && (place != s.end || over || got->number != s.end)) ++seen.outOfStep;
      break;
    }
    while (plan && piece + 1 < plan->pieces().size() && place >= plan->pieces()[piece + 1].firstFrame) ++piece;
    s.bars[piece].add(got->frame);
    if (judge)
      if (const Status judged = judge->add(got->frame, meanQuantiser(got->frame)); !judged) return judged;
    if (got->damaged && seen.damaged++ == 0)
      seen.firstDamaged =
          media.video->clock.timeOf(std::min(got->number, media.video->clock.frameCount() - 1)).toDouble();
    if (got->number != place) ++seen.outOfStep;
    ++seen.frames;
    ++place;
    count.one();
  }
  if (s.reader.brokenOff()) ++seen.damaged;
  if (judge) {
    seen.judged = judge->judged();
    seen.faults = judge->faults();
    seen.likeness = judge->likeness();
  }
  return {};
}

/// Adds the results of the next stretch to `all`.
void add(SeenPictures& all, const SeenPictures& later) {
  all.frames += later.frames;
  all.outOfStep += later.outOfStep;
  if (all.damaged == 0) all.firstDamaged = later.firstDamaged;
  all.damaged += later.damaged;
  all.judged += later.judged;
  all.likeness.insert(all.likeness.end(), later.likeness.begin(), later.likeness.end());
  for (const auto& [code, fault] : later.faults) {
    const auto [known, isNew] = all.faults.emplace(code, fault);
    if (isNew) continue;
    std::vector<double>& times = known->second.times;
    known->second.count += fault.count;
    for (const double time : fault.times)
      if (times.size() < Fault::kMostTimes) times.push_back(time);
  }
}

} // namespace

Bars widest(const Bars& a, const Bars& b) {
  return {std::max(a.left, b.left), std::max(a.top, b.top), std::max(a.right, b.right), std::max(a.bottom, b.bottom)};
}

Result<SeenPictures> seePictures(const MediaInfo& media, const Plan* plan, const TraceFile* traces,
                                 const std::stop_token& stop, const std::function<void(int64_t)>& onFrame) {
  if (!plan || media.video->pixelFormat != pixelFormatName(plan->format()) || media.video->stored != plan->canvas())
    traces = nullptr;
  std::vector<DecodedStretch> stretches;
  Count count(onFrame);
  Beside<Status> others(stop);
  auto found = divided(media, {.threads = 1, .quantisers = traces != nullptr, .stop = others.token()});
  if (!found) return tl::unexpected(found.error());
  stretches = std::move(*found);
  for (auto s = stretches.begin() + 1; s != stretches.end(); ++s)
    others.begin([&, s] { return see(*s, media, plan, traces, count); });
  if (const Status done = see(stretches.front(), media, plan, traces, count); !done)
    return tl::unexpected(done.error());
  while (!others.empty())
    if (const Status done = others.take(); !done) return tl::unexpected(done.error());

  SeenPictures all;
  std::vector<BarMeter> bars(stretches.front().bars.size());
  for (const DecodedStretch& s : stretches) {
    add(all, s.seen);
    for (size_t piece = 0; piece < bars.size(); ++piece) bars[piece].add(s.bars[piece]);
  }
  for (const BarMeter& meter : bars) all.bars = widest(all.bars, meter.bars());
  all.compared = traces != nullptr && all.frames > 0;
  return all;
}

} // namespace tromb
