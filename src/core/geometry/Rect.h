// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

namespace tromb {

/// Whole pixels: a canvas or a stored picture.
struct Size {
  int width = 0;
  int height = 0;
  friend bool operator==(const Size&, const Size&) = default;
  [[nodiscard]] double ratio() const { return double(width) / double(height); }
};

struct SizeF {
  double width = 0;
  double height = 0;
  friend bool operator==(const SizeF&, const SizeF&) = default;
};

/// Whole pixels of a canvas or raster; half-open, origin top left.
struct PixelRect {
  int x = 0;
  int y = 0;
  int width = 0;
  int height = 0;
  friend bool operator==(const PixelRect&, const PixelRect&) = default;
  [[nodiscard]] double area() const { return double(width) * height; }
};

/// Half-open area [x, x+width) × [y, y+height); origin top left, y downwards; may be fractional.
struct RectF {
  double x = 0;
  double y = 0;
  double width = 0;
  double height = 0;
  friend bool operator==(const RectF&, const RectF&) = default;
  [[nodiscard]] double right() const { return x + width; }
  [[nodiscard]] double bottom() const { return y + height; }
  [[nodiscard]] double area() const { return width * height; }
};

} // namespace tromb
