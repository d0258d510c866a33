// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "geometry/Framing.h"

namespace tromb {

/// One way to cover a canvas, and what it costs.
struct WayToFill {
  enum class Kind { Fill, Wider, Stack2, Stack3, Side2, Side3, Backdrop, Canvas };
  Kind kind = Kind::Fill;
  Framing framing;
  Size canvas;       ///< the deliverable's own, but for Canvas: the largest of its shape that stays sharp
  double detail = 0; ///< the least of the shot
};

/// The ways out for a cell whose plain fill is soft, plain fill first, then those that give more detail, best last.
/// Windows follow the subject; `Wider` keeps the framing with less zoom. Layouts that the shape does not ask for
/// (stacks on wide canvases, side by side on tall ones) are left out. Times in seconds of the source.
[[nodiscard]] std::vector<WayToFill> waysToFill(const PictureShape& shape, Size canvas, const Framing& now,
                                                const Subjects& subjects, double from, double to);

} // namespace tromb
