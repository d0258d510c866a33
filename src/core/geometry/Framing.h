// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "geometry/PictureShape.h"
#include "geometry/Rect.h"

#include <string>
#include <string_view>
#include <vector>

namespace tromb {

/// How windows fill the canvas.
enum class Layout {
  Single,   ///< one window
  Stack2,   ///< two windows one above the other, equal shares
  Stack3,   ///< three windows one above the other, equal shares
  Backdrop, ///< the whole picture over an enlarged, blurred and dimmed copy of itself
};

/// What zoom 1 means: the window that covers the canvas, or the one that shows the whole picture.
enum class WindowBase { Fill, Fit };

/// The part of a picture that is shown, independent of any canvas: centre relative to the picture (0 to 1 from
/// left and top), zoom ≥ 1 relative to the base.
struct Window {
  WindowBase base = WindowBase::Fill;
  double x = 0.5;
  double y = 0.5;
  double zoom = 1;
  std::string unknown; ///< see Project.h
  friend bool operator==(const Window&, const Window&) = default;
};

inline constexpr double kMostZoom = 64;

/// How one shot sits in one deliverable's canvas. Stacks carry one window a share, from top to bottom.
struct Framing {
  Layout layout = Layout::Single;
  std::vector<Window> windows{Window{}};
  std::string unknown; ///< see Project.h
  friend bool operator==(const Framing&, const Framing&) = default;
};

[[nodiscard]] size_t windowCount(Layout layout);

/// The framings that have a name on the command line and in the window: fill, fit, stack2, stack3, backdrop.
/// False when `name` is none of them. Stacked windows start at the picture's thirds, so that they differ.
[[nodiscard]] bool framingByName(std::string_view name, Framing& framing);

/// One window laid on the canvas.
struct Placement {
  RectF window;          ///< picture pixels, never outside the picture
  PixelRect canvas;      ///< canvas pixels, edges on even numbers as 4:2:0 asks, never outside the canvas
  bool backdrop = false; ///< drawn first, blurred and dimmed
  friend bool operator==(const Placement&, const Placement&) = default;
};

/// The window's rectangle in picture pixels for a share of the canvas, stopped at the picture's edge; for Fit
/// it may be larger than the picture on one axis, where it is then centred.
[[nodiscard]] RectF resolveWindow(SizeF picture, SizeF share, const Window& window);

/// The same window with its centre pulled to where the picture's edge lets it be, and zoom in [1, kMostZoom].
[[nodiscard]] Window stopped(SizeF picture, SizeF share, Window window);

/// The shares of the canvas that a layout's windows fill, in order.
[[nodiscard]] std::vector<PixelRect> layoutShares(Layout layout, Size canvas);

/// Lays a framing on a canvas: backdrop first, then windows in order. What a Fit window leaves open is rounded to
/// even pixels, so that the plan names exactly the pixels that are drawn.
[[nodiscard]] std::vector<Placement> place(const PictureShape& shape, Size canvas, const Framing& framing);

/// Stored source pixels per canvas pixel, the smaller of both axes and of all windows (backdrops do not count).
[[nodiscard]] double detail(const PictureShape& shape, const std::vector<Placement>& placements);

/// Canvas area that no picture covers, in percent of the canvas.
[[nodiscard]] double uncoveredPercent(Size canvas, const std::vector<Placement>& placements);

} // namespace tromb
