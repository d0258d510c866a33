// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "geometry/PictureShape.h"
#include "picture/Frame.h"

namespace tromb {

/// Finds black bars that every picture of a series has: lines and columns at the edge whose mean luma never
/// rises above black (24 of 255 in limited range, as FFmpeg's own bar detection takes it). One thread at a time.
class BarMeter {
public:
  void add(const Frame& frame);

  /// Bars in stored pixels, unrotated. None when nothing was added, or when the pictures are black throughout, so
  /// that bars cannot be told from a dark scene.
  [[nodiscard]] Bars bars() const;

private:
  int m_width = 0;
  int m_height = 0;
  Bars m_bars;
};

/// The same with two pixels more beside each bar, where encoding has smeared it into the picture.
[[nodiscard]] Bars withMargin(Bars bars);

} // namespace tromb
