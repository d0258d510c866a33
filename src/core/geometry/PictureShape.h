// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "geometry/Rect.h"
#include "time/Rational.h"

#include <utility>

namespace tromb {

/// Bars burned into a source, in stored pixels of the upright picture (after rotation, before pixel aspect).
struct Bars {
  int left = 0;
  int top = 0;
  int right = 0;
  int bottom = 0;
  friend bool operator==(const Bars&, const Bars&) = default;
  [[nodiscard]] bool none() const { return *this == Bars{}; }
};

inline constexpr double kMostStraighten = 15;

/// How a picture that stands upright is shown.
struct Orientation {
  int turn = 0;          ///< clockwise: 0, 90, 180 or 270
  bool mirrored = false; ///< left for right, once it is turned
  double straighten = 0; ///< degrees clockwise as it is seen then, within ±kMostStraighten
  friend bool operator==(const Orientation&, const Orientation&) = default;
};

/// How much a picture is enlarged when it is turned by a small angle, so that no corner stays empty: cos |a| + sin |a|
/// · max(w/h, h/w), from the corners of a rectangle turned in one of the same shape.
[[nodiscard]] double straightenZoom(SizeF picture, double degrees);

/// How a stored raster becomes the upright picture without bars in which windows are given. Its pixels have the shape
/// of the canvas's, which are square unless it was made `forPixels`. The pixel aspect widens or narrows the stored
/// width; lines keep their number. Value, thread-safe.
class PictureShape {
public:
  PictureShape() = default;
  /// `stored` in pixels, `pixelAspect` > 0. The file says that its picture is turned by `rotation` clockwise (0, 90,
  /// 180 or 270) and then, where it is `mirrored`, left for right. `bars` are those of the picture before it is shown
  /// in another orientation.
  PictureShape(Size stored, const Rational& pixelAspect, int rotation, Bars bars = {},
               const Orientation& orientation = {}, bool mirrored = false, bool transparent = false);

  friend bool operator==(const PictureShape&, const PictureShape&) = default;

  [[nodiscard]] Size stored() const { return m_stored; }
  [[nodiscard]] double pixelAspect() const { return m_aspect; }
  [[nodiscard]] int rotation() const { return m_rotation; }        ///< in all, clockwise; comes before mirroring
  [[nodiscard]] bool mirrored() const { return m_mirrored; }       ///< in all
  [[nodiscard]] bool transparent() const { return m_transparent; } ///< something may show through it
  /// The same picture in pixels of another shape, width by height: those of a canvas that it is laid on.
  [[nodiscard]] PictureShape forPixels(const Rational& canvasAspect) const;
  [[nodiscard]] PictureShape opaque() const;                ///< the same, and nothing shows through it
  [[nodiscard]] const Bars& bars() const { return m_bars; } ///< The bars in the upright picture.
  [[nodiscard]] const Orientation& orientation() const { return m_orientation; }

  /// The upright picture with its bars, in the canvas's pixels; may be fractional.
  [[nodiscard]] SizeF uprightWithBars() const;
  /// The upright picture without its bars: the space windows live in.
  [[nodiscard]] SizeF picture() const;
  /// Stored pixels per picture pixel along upright x (width) and y (height): 1 where both are square.
  [[nodiscard]] SizeF density() const;
  /// How much straightening enlarges it: straightenZoom, and a little more between bars, which no kernel may touch.
  [[nodiscard]] double enlargement() const;
  /// The density of what was recorded: less where straightening has enlarged it.
  [[nodiscard]] SizeF recordedDensity() const;
  /// The stored, unrotated area, in stored pixels, that `window` (in picture pixels) shows.
  [[nodiscard]] RectF toStored(const RectF& window) const;

private:
  Size m_stored{1, 1};
  double m_aspect = 1;
  double m_canvasAspect = 1;
  int m_rotation = 0;
  bool m_mirrored = false;
  bool m_transparent = false;
  Bars m_bars;
  Orientation m_orientation;
};

/// Where what lies at (x, y) of one picture lies in another one of the same raster, both from 0 to 1; held inside where
/// it is cut away. Straightening plays no part.
[[nodiscard]] std::pair<double, double> samePlace(const PictureShape& from, const PictureShape& to, double x, double y);

/// Bars as they lie in an orientation, from those of the picture before it, and the other way round.
[[nodiscard]] Bars shownAs(const Bars& bars, const Orientation& orientation);
[[nodiscard]] Bars takenFrom(const Bars& shown, const Orientation& orientation);

} // namespace tromb
