// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "media/Frame.h"
#include "picture/Overlay.h"
#include "render/Plan.h"

#include <map>
#include <memory>
#include <stop_token>

namespace tromb {

/// An element drawn for a canvas whose raster has the size `drawn`; `picture` is how that of a picture is read. Errors:
/// those of drawText and of the file; Cancelled. Thread-safe.
[[nodiscard]] Result<DrawnElement> drawElement(const Element& element, const std::optional<Reading>& picture,
                                               const std::string& deliverable, const ElementCanvas& canvas, Size drawn,
                                               std::stop_token stop = {});

/// Lays a plan's elements on its canvases. Each is drawn once, however many frames it is seen in. One thread at a time;
/// the plan must outlive it.
class ElementPainter {
public:
  /// `canvas` is the size of the canvases that come: the plan's, or a smaller one of the same shape to look at.
  ElementPainter(const Plan& plan, Size canvas, std::stop_token stop = {})
      : m_plan(plan), m_canvas(canvas), m_stop(std::move(stop)) {}
  explicit ElementPainter(const Plan& plan, std::stop_token stop = {})
      : ElementPainter(plan, plan.canvas(), std::move(stop)) {}

  /// The canvas of frame n of the plan with what lies over it: itself where that is nothing. Draws into it where nobody
  /// else holds it. Errors: those of drawText, and of a picture's file.
  [[nodiscard]] Result<Frame> paint(int64_t n, Frame canvas);

private:
  const Plan& m_plan;
  Size m_canvas;
  std::stop_token m_stop;
  std::map<const PlanElement*, std::shared_ptr<const Overlay>> m_drawn; ///< those of the last frame
};

} // namespace tromb
