// SPDX-License-Identifier: GPL-3.0-or-later
#include "export/LoopProof.h"

#include "analysis/BarMeter.h"
#include "media/read/LoopReader.h"
#include "picture/LoopCanvas.h"

#include <algorithm>
#include <optional>

namespace tromb {
Result<SeenLoop> seeLoop(const std::string& path, const Plan& plan, const TraceFile* traces,
                         const std::stop_token& stop, const std::function<void(int64_t)>& onFrame) {
  auto reader = LoopReader::open(path, *plan.encoding().container, stop);
  if (!reader) return tl::unexpected(reader.error());
  SeenLoop seen;
  seen.size = reader->size();
  seen.times = reader->times();
  SeenPictures& all = seen.pictures;
  all.compared = traces != nullptr && seen.size == plan.canvas();
  std::optional<PictureJudge> judge;
  if (all.compared) judge.emplace(*traces, plan.canvas(), plan.rate().toDouble(), 0);
  LoopCanvas canvas(plan.canvas(), plan.format());
  std::vector<BarMeter> bars(plan.pieces().size());
  const Rational tick(1, infoOf(*plan.encoding().container).ticks);
  size_t piece = 0;
  for (;;) {
    auto got = reader->read();
    if (!got) return tl::unexpected(got.error());
    if (!got->frame) break;
    const int64_t first = (got->begin * plan.rate().value()).nearest();
    const int64_t end = std::min((got->end * plan.rate().value()).nearest(), plan.frameCount());
    const Rational off = got->begin - plan.rate().timeOf(std::max<int64_t>(0, first));
    if (first != all.frames || off >= tick || Rational(0) - off >= tick) ++all.outOfStep;
    seen.duration = got->end;
    if (seen.size != plan.canvas()) continue;
    const auto picture = canvas.of(got->frame);
    if (!picture) return tl::unexpected(picture.error());
    for (; all.frames < end; ++all.frames) {
      while (piece + 1 < plan.pieces().size() && all.frames >= plan.pieces()[piece + 1].firstFrame) ++piece;
      bars[piece].add(*picture);
      if (judge)
        if (const Status judged = judge->add(*picture, -1); !judged) return tl::unexpected(judged.error());
      if (onFrame) onFrame(all.frames + 1);
    }
  }
  if (judge) {
    all.judged = judge->judged();
    all.faults = judge->faults();
  }
  for (const BarMeter& meter : bars) all.bars = widest(all.bars, meter.bars());
  return seen;
}

} // namespace tromb
