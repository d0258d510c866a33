// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "geometry/PictureShape.h"
#include "geometry/Rect.h"

#include <utility>

namespace tromb {

/// Sizes that a progressive 4:2:0 picture can have: both sides even (ITU-T H.264 6.2; libx264 asks the same).

inline constexpr int kSmallestSide = 16;
inline constexpr int kLargestSide = 16384;

[[nodiscard]] bool isLegalSide(int pixels); ///< even and in [16, 16384]
[[nodiscard]] inline bool isLegalSize(Size size) {
  return isLegalSide(size.width) && isLegalSide(size.height);
}

/// The nearest legal sides at or below and at or above `pixels`; both equal it when it is legal.
[[nodiscard]] std::pair<int, int> legalNeighbours(int pixels);

/// The other side that keeps `ratio` = width/height, rounded to the nearest legal side.
[[nodiscard]] int legalHeightFor(int width, double ratio);
[[nodiscard]] int legalWidthFor(int height, double ratio);

/// The largest legal canvas of `ratio` (width/height) that a filling window of this picture covers with
/// detail ≥ 1; {0, 0} when not even the smallest does.
[[nodiscard]] Size largestSharpCanvas(const PictureShape& shape, double ratio);

} // namespace tromb
