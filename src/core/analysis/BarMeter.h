// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "geometry/PictureShape.h"
#include "media/MediaInfo.h"
#include "picture/Frame.h"

#include <stop_token>

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

/// Measures the bars burned into a source on pictures spread over its length, upright, with a margin of two
/// pixels cut from the picture beside each bar, where encoding has smeared it. Stills and audio have none.
[[nodiscard]] Result<Bars> measureBars(const MediaInfo& media, std::stop_token stop = {});

} // namespace tromb
