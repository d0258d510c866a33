// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "geometry/Move.h"
#include "geometry/PictureShape.h"
#include "geometry/Rect.h"

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace tromb {

/// How windows fill the canvas.
enum class Layout {
  Single,   ///< one window
  Stack2,   ///< two windows one above the other
  Stack3,   ///< three windows one above the other
  Side2,    ///< two windows side by side
  Side3,    ///< three windows side by side
  Backdrop, ///< the whole picture over a ground
};

/// What matters in a shot's picture, still or moving, and where in every canvas it is wanted.
struct Subject {
  Move move{MoveKey{}}; ///< never empty; relative to the upright picture without its bars
  double atX = 0.5;     ///< wanted place in the canvas, 0 to 1 from left and top
  double atY = 0.5;
  double guess = 0;    ///< 0: somebody put it there; else it was suggested, with this confidence, up to 1
  std::string unknown; ///< see Project.h
  friend bool operator==(const Subject&, const Subject&) = default;
};

inline constexpr double kSureEnough = 0.5; ///< a suggestion below is doubtful

/// What zoom 1 means: the window that covers the canvas, or the one that shows the whole picture.
enum class WindowBase { Fill, Fit };

/// The part of a picture that is shown, independent of any canvas: centre relative to the picture (0 to 1 from
/// left and top), zoom ≥ 1 relative to the base.
struct Window {
  WindowBase base = WindowBase::Fill;
  double x = 0.5;
  double y = 0.5;
  double zoom = 1;
  bool follows = false; ///< goes where the shot's subject is, where it has one; else it lies at x, y
  Move move;            ///< If not empty it replaces x, y and zoom, or only zoom if the window follows.
  std::string unknown;  ///< see Project.h
  friend bool operator==(const Window&, const Window&) = default;
};

inline constexpr double kMostZoom = 64;

/// 8 bits each, as in BT.709 pictures shown on a screen.
struct Colour {
  uint8_t red = 0;
  uint8_t green = 0;
  uint8_t blue = 0;
  friend bool operator==(const Colour&, const Colour&) = default;
};

/// What lies under windows that leave part of the canvas open.
enum class Ground {
  Copy,     ///< an enlarged, blurred and dimmed copy of the picture
  Colour,   ///< one colour
  Gradient, ///< from the colour at one edge of the picture to that at the other
  Still,    ///< a picture of its own, which fills the canvas
};

inline constexpr double kMostGap = 0.2;
inline constexpr double kLeastShare = 0.1;

/// How one shot sits in one deliverable's canvas. Stacks carry one window a share, from top to bottom or from left to
/// right.
struct Framing {
  Layout layout = Layout::Single;
  std::vector<Window> windows{follower()};
  std::vector<double> shares; ///< Each window's share of the canvas, together 1. Empty for equal shares.
  double gap = 0;             ///< between windows, of the canvas's length along them
  Ground ground = Ground::Copy;
  std::string still;   ///< Source::id of the ground's picture, where it is one
  Colour colour;       ///< The colour of gaps, of a plain ground, and of what shows through a transparent picture.
  double guess = 0;    ///< 0: somebody framed it; else it was suggested, with this confidence, up to 1
  std::string unknown; ///< see Project.h
  friend bool operator==(const Framing&, const Framing&) = default;

  [[nodiscard]] static Window follower(double x = 0.5, WindowBase base = WindowBase::Fill);
  [[nodiscard]] bool byHand() const; ///< some window does not follow
  /// Returns true if another picture lies under this one, and it is that source's.
  [[nodiscard]] bool liesOn(const std::string& sourceId) const {
    return layout == Layout::Backdrop && ground == Ground::Still && still == sourceId;
  }
};

[[nodiscard]] size_t windowCount(Layout layout);
[[nodiscard]] bool sideBySide(Layout layout);

/// The framings that have a name on the command line and in the window: fill, fit, stack2, stack3, side2, side3,
/// backdrop. False when `name` is none of them. All follow the subject; windows of which there are several start at
/// equal distances across the picture, so that they differ.
[[nodiscard]] bool framingByName(std::string_view name, Framing& framing);

/// One layer on the canvas.
struct Placement {
  enum class Kind { Picture, Copy, Colour, Gradient, Still };
  RectF window;     ///< picture pixels, never outside the picture
  PixelRect canvas; ///< canvas pixels, edges on even numbers as 4:2:0 asks, never outside the canvas
  Kind kind = Kind::Picture;
  Colour colour;
  bool upright = true; ///< a gradient runs from top to bottom, else from left to right
  friend bool operator==(const Placement&, const Placement&) = default;
  [[nodiscard]] bool isGround() const { return kind != Kind::Picture; }
};

/// The window's rectangle in picture pixels for a share of the canvas, stopped at the picture's edge; for Fit
/// it may be larger than the picture on one axis, where it is then centred. Moves and subjects play no part.
[[nodiscard]] RectF resolveWindow(SizeF picture, SizeF share, const Window& window);

/// The same window with its centre pulled to where the picture's edge lets it be, and zoom in [1, kMostZoom].
[[nodiscard]] Window stopped(SizeF picture, SizeF share, Window window);

/// What a window is at a moment (seconds of the source): without move and follower, stopped at the picture's edge.
/// `subject` may be null.
[[nodiscard]] Window windowAtTime(SizeF picture, SizeF share, const Window& window, const Subject* subject,
                                  double seconds);

/// The framing with no window, at any of its keys, zoomed in beyond where the picture would be enlarged. Windows that
/// are enlarged at zoom 1 already stay there.
[[nodiscard]] Framing heldSharp(const PictureShape& shape, Size canvas, Framing framing);

/// The shares of the canvas that a framing's windows fill, in order.
[[nodiscard]] std::vector<PixelRect> canvasShares(const Framing& framing, Size canvas);

/// What a framing may take its places from.
using Subjects = std::vector<Subject>; ///< by window; windows beyond the last stay where they are
inline constexpr size_t kMostSubjects = 3;

/// Lays a framing on a canvas as it is at a moment (seconds of the source): ground first, then windows in order. What a
/// Fit window leaves open is rounded to even pixels, so that the plan names exactly the pixels that are drawn.
[[nodiscard]] std::vector<Placement> place(const PictureShape& shape, Size canvas, const Framing& framing,
                                           const Subjects& subjects = {}, double seconds = 0);

/// The framing over a copy of its own picture, where it lay on a still.
[[nodiscard]] Framing withoutStill(Framing framing);

/// The framing with all its keys later by `by` seconds, as for another shot; see shifted(Move).
[[nodiscard]] Framing shifted(Framing framing, const Rational& by);

/// Returns true if a framing does not stay as it is.
[[nodiscard]] bool moves(const Framing& framing, const Subjects& subjects);

/// Detail below this is a soft enlargement; a hair under 1 leaves room for rounding to even pixels.
inline constexpr double kSharpDetail = 0.995;
/// Stored source pixels per canvas pixel, the smaller of both axes and of all windows (grounds do not count).
[[nodiscard]] double detail(const PictureShape& shape, const std::vector<Placement>& placements);

/// Canvas area that neither a picture nor a ground covers, in percent of the canvas.
[[nodiscard]] double uncoveredPercent(Size canvas, const std::vector<Placement>& placements);

/// The worst of all moments of a shot.
struct Shortfall {
  double detail = 0;
  double uncoveredPercent = 0;
};
/// From `from` to `to`, in seconds of the source. Exact: zoom, of which both depend, is outermost at keys.
[[nodiscard]] Shortfall worst(const PictureShape& shape, Size canvas, const Framing& framing, const Subjects& subjects,
                              double from, double to);

/// What the trade asks a window to take at least to travel its own width, in seconds (common practice, no published
/// source).
inline constexpr double kSecondsAWidth = 7;

/// The fastest that a framing's windows travel between two moments, in widths (up and down: heights) of the window a
/// second, looked at `stepsASecond` times. Where a key is held the picture jumps, and does not travel.
[[nodiscard]] double fastestTravel(const PictureShape& shape, Size canvas, const Framing& framing,
                                   const Subjects& subjects, double from, double to, double stepsASecond = 25);

} // namespace tromb
