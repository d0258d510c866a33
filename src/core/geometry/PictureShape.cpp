// SPDX-License-Identifier: GPL-3.0-or-later
#include "geometry/PictureShape.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace tromb {

Bars shownAs(const Bars& bars, const Orientation& orientation) {
  Bars b = bars;
  for (int turned = 0; turned < orientation.turn; turned += 90) b = {b.bottom, b.left, b.top, b.right};
  if (orientation.mirrored) std::swap(b.left, b.right);
  return b;
}

Bars takenFrom(const Bars& shown, const Orientation& orientation) {
  Bars b = shown;
  if (orientation.mirrored) std::swap(b.left, b.right);
  return shownAs(b, {(360 - orientation.turn) % 360, false, 0});
}

double straightenZoom(SizeF picture, double degrees) {
  const double angle = std::abs(degrees) * std::numbers::pi / 180;
  return std::cos(angle) + std::sin(angle) * std::max(picture.width / picture.height, picture.height / picture.width);
}

PictureShape::PictureShape(Size stored, const Rational& pixelAspect, int rotation, Bars bars,
                           const Orientation& orientation, bool mirrored, bool transparent)
    // A turn after mirroring is the opposite turn before it.
    : m_stored(stored), m_aspect(pixelAspect.toDouble()),
      m_rotation((rotation + (mirrored ? 360 - orientation.turn : orientation.turn)) % 360),
      m_mirrored(mirrored != orientation.mirrored), m_transparent(transparent), m_bars(shownAs(bars, orientation)),
      m_orientation(orientation) {}

PictureShape PictureShape::forPixels(const Rational& canvasAspect) const {
  PictureShape shape = *this;
  shape.m_canvasAspect = canvasAspect.toDouble();
  return shape;
}

PictureShape PictureShape::opaque() const {
  PictureShape shape = *this;
  shape.m_transparent = false;
  return shape;
}

SizeF PictureShape::density() const {
  const bool turned = m_rotation == 90 || m_rotation == 270;
  return turned ? SizeF{m_canvasAspect, 1 / m_aspect} : SizeF{m_canvasAspect / m_aspect, 1};
}

double PictureShape::enlargement() const {
  if (m_orientation.straighten == 0) return 1;
  constexpr double kKernel = 4;                         // pixels, on each side
  const SizeF whole = forPixels(Rational(1)).picture(); // it is turned where pixels are square
  const double beside = m_bars.none() ? 1 : 1 + 2 * kKernel / std::min(whole.width, whole.height);
  return straightenZoom(whole, m_orientation.straighten) * beside;
}

SizeF PictureShape::recordedDensity() const {
  return {density().width / enlargement(), density().height / enlargement()};
}

SizeF PictureShape::uprightWithBars() const {
  const double width = m_stored.width * m_aspect;
  const double height = m_stored.height;
  const SizeF upright = m_rotation == 90 || m_rotation == 270 ? SizeF{height, width} : SizeF{width, height};
  return {upright.width / m_canvasAspect, upright.height};
}

SizeF PictureShape::picture() const {
  const SizeF whole = uprightWithBars();
  const SizeF d = density();
  return {whole.width - (m_bars.left + m_bars.right) / d.width, whole.height - (m_bars.top + m_bars.bottom) / d.height};
}

RectF PictureShape::toStored(const RectF& window) const {
  const SizeF d = density();
  // Upright stored pixels, bars included.
  RectF u{window.x * d.width + m_bars.left, window.y * d.height + m_bars.top, window.width * d.width,
          window.height * d.height};
  const double w = m_stored.width;
  const double h = m_stored.height;
  if (m_mirrored) u.x = (m_rotation == 90 || m_rotation == 270 ? h : w) - u.right();
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

std::pair<double, double> samePlace(const PictureShape& from, const PictureShape& to, double x, double y) {
  // Of the upright pictures with their bars, each from 0 to 1.
  const auto share = [](double first, double last, double whole) {
    return std::pair(first / whole, 1 - (first + last) / whole);
  };
  const auto across = [&](const PictureShape& s) {
    return share(s.bars().left, s.bars().right, s.uprightWithBars().width * s.density().width);
  };
  const auto down = [&](const PictureShape& s) {
    return share(s.bars().top, s.bars().bottom, s.uprightWithBars().height * s.density().height);
  };
  double u = across(from).first + x * across(from).second;
  double v = down(from).first + y * down(from).second;
  if (from.mirrored()) u = 1 - u;
  for (int turn = from.rotation(); turn % 360 != to.rotation(); turn += 90) u = 1 - std::exchange(v, u);
  if (to.mirrored()) u = 1 - u;
  return {std::clamp((u - across(to).first) / across(to).second, 0.0, 1.0),
          std::clamp((v - down(to).first) / down(to).second, 0.0, 1.0)};
}

} // namespace tromb
