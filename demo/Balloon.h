// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "Paint.h"

#include <string>

namespace tromb::demo {

enum class Cloth { Stripes, Chequers, Chevrons, Rings, Sunrise };

struct BalloonLook {
  Cloth cloth;
  Colour first;
  Colour second;
  Colour third;
  std::string number;
  bool banner = false; ///< a banner with small lettering hangs below the basket
};

[[nodiscard]] const BalloonLook& balloonLook(int index); ///< any index; the looks repeat

/// A balloon drawn once and moved as a picture. `radius` of the envelope in pixels.
class BalloonSprite {
public:
  BalloonSprite(const BalloonLook& look, double radius);
  /// Draws it with the envelope's centre at (x, y), fractional pixels; `haze` 0 to 1 fades it into the air.
  void draw(cairo_t* cr, double x, double y, double haze = 0) const;

private:
  Surface m_surface;
  Surface m_mist;
  double m_originX;
  double m_originY;
};

/// Text in the shipped font, centred on (x, y); `size` is the height of an em in pixels.
void drawLettering(cairo_t* cr, const std::string& text, double x, double y, double size, bool bold);
/// A basket seen from near, with ropes, weave and crew; (x, y) is the middle of its rim, `width` in pixels.
void drawBasket(cairo_t* cr, double x, double y, double width, double ropeHeight, double ropeSpread);

} // namespace tromb::demo
