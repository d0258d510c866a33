// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "geometry/Rect.h"
#include "time/Rational.h"

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

/// How a stored raster becomes the upright, square-pixel picture without bars in which windows are given.
/// The pixel aspect widens or narrows the stored width; lines keep their number. Value, thread-safe.
class PictureShape {
public:
  PictureShape() = default;
  /// `stored` in pixels, `pixelAspect` > 0, `rotation` clockwise: 0, 90, 180 or 270.
  PictureShape(Size stored, const Rational& pixelAspect, int rotation, Bars bars = {});

  [[nodiscard]] Size stored() const { return m_stored; }
  [[nodiscard]] int rotation() const { return m_rotation; }
  [[nodiscard]] const Bars& bars() const { return m_bars; }

  /// The upright picture with its bars, square pixels; fractional for non-square sources.
  [[nodiscard]] SizeF uprightWithBars() const;
  /// The upright picture without its bars: the space windows live in.
  [[nodiscard]] SizeF picture() const;
  /// Stored pixels per picture pixel along upright x (width) and y (height): 1 for square pixels.
  [[nodiscard]] SizeF density() const;
  /// The stored, unrotated area, in stored pixels, that `window` (in picture pixels) shows.
  [[nodiscard]] RectF toStored(const RectF& window) const;

private:
  Size m_stored{1, 1};
  double m_aspect = 1;
  int m_rotation = 0;
  Bars m_bars;
};

} // namespace tromb
