// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "analysis/ShotFraming.h"
#include "media/MediaInfo.h"
#include "support/DrawnScenes.h"

#include <optional>

namespace tromb::test {

/// A source in one shot and the usual shapes, as a maker sets them up.
[[nodiscard]] Project shapesOf(const MediaInfo& media);

/// The windows of a canvas at a frame, in shares of the picture.
using Windows = std::function<std::vector<RectF>(int frame)>;
[[nodiscard]] Windows windowsOf(const Project& project, const MediaInfo& media, const Deliverable& deliverable);
/// One window that fills a canvas, with its middle where a path has it.
[[nodiscard]] Windows windowAlong(const std::vector<double>& path, double across);
/// Width of the window that fills a canvas, in shares of the picture.
[[nodiscard]] double acrossOf(const Project& project, const MediaInfo& media, const Deliverable& deliverable);

/// How a canvas shows what is known to matter. Counts are of frames.
struct FramingMeasure {
  int possible = 0;     ///< in which what matters could be seen whole
  int whole = 0;        ///< … and is
  int placed = 0;       ///< in which something matters
  int near = 0;         ///< … and the window's middle is within 8 % of the picture's width of where it is wanted
  int sparing = 0;      ///< in which a cut through a face or a word could be avoided
  int spared = 0;       ///< … and is
  double travel = 0;    ///< of windows, in widths of the picture
  double jerk = 0;      ///< sum of third differences of the way, in widths of the picture
  bool wanders = false; ///< it moves though what matters rests
  bool crosses = false; ///< it moves across a cut
  FramingMeasure& operator+=(const FramingMeasure& other);
};
/// `tall`: one subject above another counts as possible.
[[nodiscard]] FramingMeasure measured(const DrawnScene& scene, const Windows& windows, double across, bool tall);

/// Plain ways to frame, to compare with: always the middle; where most stands out; where most moves. The last two
/// follow a second behind, as a mean.
enum class Baseline { Middle, StandsOut, Moves };
[[nodiscard]] std::vector<double> pathOf(Baseline baseline, const ShotLook& look, int frames);

} // namespace tromb::test
