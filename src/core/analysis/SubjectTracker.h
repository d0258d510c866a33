// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "media/Reading.h"

#include <functional>
#include <stop_token>
#include <vector>

namespace tromb {

/// Where a subject was found in one frame: a box in shares of the upright picture without its bars.
struct TrackPoint {
  int64_t frame = 0;
  RectF box;
  [[nodiscard]] double x() const { return box.x + box.width / 2; }
  [[nodiscard]] double y() const { return box.y + box.height / 2; }
  friend bool operator==(const TrackPoint&, const TrackPoint&) = default;
};

/// A subject's way through a stretch of a source: one point a frame, in order. It may begin late and end early, where
/// the subject was lost or left the picture.
struct Track {
  std::vector<TrackPoint> points;
  friend bool operator==(const Track&, const Track&) = default;
};

/// The least side of a box that can be followed, as a share of the picture's longer side.
inline constexpr double kLeastBox = 0.008;

/// Follows what is in `box` (shares of the picture) of frame `at` through [first, end), on from there and back from
/// there; `onFraction` is told how far it is, 0 to 1. A discriminative correlation filter does it: M. Danelljan et al.,
/// "Accurate Scale Estimation for Robust Visual Tracking", BMVC 2014. Errors: InvalidArgument for a
/// box that is too small or outside, those of VideoReader, Cancelled. Thread-safe.
[[nodiscard]] Result<Track> followSubject(const Reading& reading, int64_t first, int64_t end, int64_t at,
                                          const RectF& box, std::stop_token stop = {},
                                          const std::function<void(double)>& onFraction = {});

} // namespace tromb
