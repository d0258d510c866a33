// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "project/Project.h"

#include <QPainter>

namespace tromb {

/// What can be drawn over a deliverable's picture, to judge it by.
struct CanvasGuides {
  bool safeAreas = false; ///< action and graphics safe areas of EBU R 95 and SMPTE ST 2046-1, and the destination's own
  bool covered = false;   ///< what the destination's own buttons and captions lie over
  bool thirds = false;    ///< lines at the thirds, and the centre
};

/// Draws them over a picture that fills `canvas`.
void paintGuides(QPainter& painter, const QRectF& canvas, const Deliverable& deliverable, const CanvasGuides& guides);

} // namespace tromb
