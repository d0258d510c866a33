// SPDX-License-Identifier: GPL-3.0-or-later
#include "geometry/PictureShape.h"

namespace tromb {

PictureShape::PictureShape(Size stored, const Rational& pixelAspect, int rotation, Bars bars)
    : m_stored(stored), m_aspect(pixelAspect.toDouble()), m_rotation(rotation), m_bars(bars) {}

SizeF PictureShape::density() const {
  const bool turned = m_rotation == 90 || m_rotation == 270;
  return turned ? SizeF{1, 1 / m_aspect} : SizeF{1 / m_aspect, 1};
}

SizeF PictureShape::uprightWithBars() const {
  const double width = m_stored.width * m_aspect;
  const double height = m_stored.height;
  return m_rotation == 90 || m_rotation == 270 ? SizeF{height, width} : SizeF{width, height};
}

SizeF PictureShape::picture() const {
  const SizeF whole = uprightWithBars();
  const SizeF d = density();
  return {whole.width - (m_bars.left + m_bars.right) / d.width, whole.height - (m_bars.top + m_bars.bottom) / d.height};
}

RectF PictureShape::toStored(const RectF& window) const {
  const SizeF d = density();
  // Upright stored pixels, bars included.
  const RectF u{window.x * d.width + m_bars.left, window.y * d.height + m_bars.top, window.width * d.width,
                window.height * d.height};
  const double w = m_stored.width;
  const double h = m_stored.height;
  switch (m_rotation) {
  case 90:
    return {u.y, h - u.right(), u.height, u.width};
  case 180:
    return {w - u.right(), h - u.bottom(), u.width, u.height};
  case 270:
    return {w - u.bottom(), u.x, u.height, u.width};
  default:
    return u;
  }
}

} // namespace tromb
