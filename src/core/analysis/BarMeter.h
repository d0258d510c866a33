// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "geometry/PictureShape.h"
#include "media/Frame.h"

#include <array>

namespace tromb {

/// Finds bars that every picture of a series has: lines and columns at the edge that are flat and dark, all at the
/// level of the outermost, up to a step to the picture. A dark picture is none: its edge is not flat, or rises without
/// a step. One thread at a time.
class BarMeter {
public:
  void add(const Frame& frame);
  /// Adds everything that was added to `others`, which are frames of the same source.
  void add(const BarMeter& others);

  /// Bars in stored pixels, unrotated. None when nothing was added, or when the pictures are dark throughout, so that
  /// bars cannot be told from the scene.
  [[nodiscard]] Bars bars() const;

private:
  struct Side {
    int lines = 0;     ///< How many lines of bars every picture so far has.
    bool step = false; ///< some picture begins with a step behind them
  };
  int m_width = 0;
  int m_height = 0;
  std::array<Side, 4> m_sides; ///< left, top, right, bottom
};

/// The same with two pixels more beside each bar, where encoding has smeared it into the picture.
[[nodiscard]] Bars withMargin(Bars bars);

} // namespace tromb
