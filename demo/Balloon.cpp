// SPDX-License-Identifier: GPL-3.0-or-later
#include "Balloon.h"

#include <algorithm>
#include <array>
#include <numbers>
#include <pango/pangocairo.h>

namespace tromb::demo {
namespace {

constexpr double kMouth = 1.28; ///< of the envelope below its centre, in radii
constexpr double kRim = 1.74;   ///< of the basket
constexpr int kGores = 18;
constexpr int kRows = 30;

double halfWidth(double y) {
  if (y < 0.2) return std::sqrt(std::max(0.0, 1 - y * y));
  const double t = (y - 0.2) / (kMouth - 0.2);
  return 0.98 * std::pow(std::max(0.0, 1 - t), 0.82) + 0.15 * t;
}

Colour clothColour(const BalloonLook& look, int gore, int row) {
  switch (look.cloth) {
  case Cloth::Stripes:
    return gore % 3 == 0 ? look.first : gore % 3 == 1 ? look.second : look.third;
  case Cloth::Chequers:
    return (gore + row / 2) % 2 == 0 ? look.first : row > 20 ? look.third : look.second;
  case Cloth::Chevrons: {
    const int band = (row + std::abs(gore % 6 - 3) * 2) / 4 % 3;
    return band == 0 ? look.first : band == 1 ? look.second : look.third;
  }
  case Cloth::Rings:
    return row / 5 % 3 == 0 ? look.first : row / 5 % 3 == 1 ? look.second : look.third;
  case Cloth::Sunrise:
    return row < 9 ? look.third
                   : (gore % 2 == 0 ? look.first : look.second).mixed(look.third, row / double(kRows) * 0.35);
  }
  return look.first;
}

void drawEnvelope(cairo_t* cr, const BalloonLook& look, double r) {
  constexpr double kPi = std::numbers::pi;
  const auto x = [&](int gore, double y) { return std::sin((double(gore) / kGores - 0.5) * kPi) * halfWidth(y) * r; };
  const auto yOf = [](int row) { return -1 + (kMouth + 1) * row / kRows; };
  cairo_set_antialias(cr, CAIRO_ANTIALIAS_GOOD);
  for (int row = 0; row < kRows; ++row)
    for (int gore = 0; gore < kGores; ++gore) {
      const double angle = ((gore + 0.5) / kGores - 0.5) * kPi;
      const double light = 0.52 + 0.48 * std::cos(angle + 0.75) + (row < 8 ? 0.05 : -0.004 * row);
      use(cr, clothColour(look, gore, row).lit(std::clamp(light, 0.25, 1.08)));
      const double top = yOf(row);
      const double bottom = yOf(row + 1);
      cairo_move_to(cr, x(gore, top) - 0.4, top * r - 0.4);
      cairo_line_to(cr, x(gore + 1, top) + 0.4, top * r - 0.4);
      cairo_line_to(cr, x(gore + 1, bottom) + 0.4, bottom * r + 0.4);
      cairo_line_to(cr, x(gore, bottom) - 0.4, bottom * r + 0.4);
      cairo_close_path(cr);
      cairo_fill(cr);
    }
  // Seams between gores and the load tapes across: fine texture that shows softness at once.
  cairo_set_line_width(cr, std::max(0.6, r * 0.0035));
  for (int gore = 0; gore <= kGores; ++gore) {
    use(cr, {0.12, 0.08, 0.1}, 0.45);
    cairo_move_to(cr, 0, -r);
    for (int row = 1; row <= kRows * 2; ++row) {
      const double y = -1 + (kMouth + 1) * row / (kRows * 2);
      cairo_line_to(cr, x(gore, y), y * r);
    }
    cairo_stroke(cr);
  }
  cairo_set_line_width(cr, std::max(0.5, r * 0.0022));
  for (int row = 1; row < kRows * 2; ++row) {
    use(cr, {1, 1, 1}, 0.16);
    const double y = -1 + (kMouth + 1) * row / (kRows * 2);
    cairo_move_to(cr, -halfWidth(y) * r, y * r);
    cairo_line_to(cr, halfWidth(y) * r, y * r);
    cairo_stroke(cr);
  }
  // A warm rim of sunlight on the left.
  const Pattern glow(cairo_pattern_create_radial(-r * 0.55, -r * 0.35, r * 0.05, -r * 0.4, -r * 0.2, r * 1.1));
  cairo_pattern_add_color_stop_rgba(glow.get(), 0, 1, 0.95, 0.8, 0.42);
  cairo_pattern_add_color_stop_rgba(glow.get(), 1, 1, 0.9, 0.7, 0);
  cairo_set_source(cr, glow.get());
  cairo_set_operator(cr, CAIRO_OPERATOR_ATOP);
  cairo_paint(cr);
  cairo_set_operator(cr, CAIRO_OPERATOR_OVER);
}

void drawBanner(cairo_t* cr, double y, double r) {
  const double w = r * 1.02;
  const double h = r * 0.2;
  use(cr, {0.2, 0.17, 0.15});
  cairo_set_line_width(cr, std::max(0.7, r * 0.006));
  for (const double side : {-0.45, 0.45}) {
    cairo_move_to(cr, side * r * 0.5, y - r * 0.12);
    cairo_line_to(cr, side * w, y);
    cairo_stroke(cr);
  }
  use(cr, {0.97, 0.95, 0.9});
  cairo_rectangle(cr, -w / 2, y, w, h);
  cairo_fill_preserve(cr);
  use(cr, {0.45, 0.12, 0.14});
  cairo_stroke(cr);
  use(cr, {0.36, 0.1, 0.13});
  drawLettering(cr, "FENNICK VALE", 0, y + h * 0.32, h * 0.42, true);
  use(cr, {0.16, 0.2, 0.26});
  drawLettering(cr, "balloon morning · field seven · gates open at half past five", 0, y + h * 0.74, h * 0.155, false);
}

} // namespace

const BalloonLook& balloonLook(int index) {
  static const std::array<BalloonLook, 7> looks{{
      {Cloth::Chevrons, {0.78, 0.2, 0.17}, {0.96, 0.84, 0.62}, {0.16, 0.33, 0.42}, "07", true},
      {Cloth::Stripes, {0.93, 0.66, 0.2}, {0.97, 0.93, 0.84}, {0.25, 0.42, 0.38}, "12"},
      {Cloth::Chequers, {0.22, 0.35, 0.55}, {0.95, 0.9, 0.8}, {0.85, 0.45, 0.25}, "31"},
      {Cloth::Rings, {0.56, 0.22, 0.42}, {0.95, 0.78, 0.66}, {0.88, 0.5, 0.3}, "04"},
      {Cloth::Sunrise, {0.9, 0.42, 0.22}, {0.97, 0.74, 0.36}, {0.3, 0.26, 0.45}, "19"},
      {Cloth::Stripes, {0.2, 0.46, 0.44}, {0.9, 0.87, 0.76}, {0.75, 0.3, 0.22}, "26"},
      {Cloth::Chequers, {0.86, 0.76, 0.5}, {0.44, 0.2, 0.2}, {0.2, 0.3, 0.34}, "45"},
  }};
  return looks[size_t(index) % looks.size()];
}

void drawLettering(cairo_t* cr, const std::string& text, double x, double y, double size, bool bold) {
  PangoLayout* layout = pango_cairo_create_layout(cr);
  PangoFontDescription* font = pango_font_description_from_string(bold ? "Lato Bold" : "Lato");
  pango_font_description_set_absolute_size(font, size * PANGO_SCALE);
  pango_layout_set_font_description(layout, font);
  pango_layout_set_text(layout, text.c_str(), -1);
  int width = 0;
  int height = 0;
  pango_layout_get_size(layout, &width, &height);
  cairo_move_to(cr, x - double(width) / PANGO_SCALE / 2, y - double(height) / PANGO_SCALE / 2);
  pango_cairo_show_layout(cr, layout);
  pango_font_description_free(font);
  g_object_unref(layout);
}

void drawBasket(cairo_t* cr, double x, double y, double width, double ropeHeight, double ropeSpread) {
  const double h = width * 0.68;
  use(cr, {0.24, 0.19, 0.15});
  cairo_set_line_width(cr, std::max(0.6, width * 0.016));
  for (const double t : {-0.5, -0.3, -0.1, 0.1, 0.3, 0.5}) {
    cairo_move_to(cr, x + t * width, y);
    cairo_line_to(cr, x + t * 2 * ropeSpread, y - ropeHeight);
    cairo_stroke(cr);
  }
  // Crew: three figures behind the rim.
  const std::array<Colour, 3> coats{{{0.3, 0.42, 0.52}, {0.72, 0.34, 0.24}, {0.36, 0.4, 0.28}}};
  for (int i = 0; i < 3; ++i) {
    const double px = x + (i - 1) * width * 0.28;
    use(cr, coats[size_t(i)]);
    cairo_rectangle(cr, px - width * 0.09, y - width * 0.2, width * 0.18, width * 0.25);
    cairo_fill(cr);
    use(cr, Colour{0.62, 0.45, 0.35}.lit(0.85 + 0.1 * i));
    cairo_arc(cr, px, y - width * 0.29, width * 0.085, 0, 7);
    cairo_fill(cr);
    use(cr, {0.2, 0.16, 0.14});
    cairo_arc(cr, px, y - width * 0.315, width * 0.086, 3.2, 6.2);
    cairo_fill(cr);
  }
  use(cr, {0.55, 0.38, 0.22});
  cairo_rectangle(cr, x - width / 2, y, width, h);
  cairo_fill(cr);
  // Weave.
  const int columns = 22;
  const int rows = 15;
  for (int i = 0; i < columns; ++i)
    for (int j = 0; j < rows; ++j) {
      use(cr, (i + j) % 2 ? Colour{0.66, 0.47, 0.28} : Colour{0.42, 0.28, 0.16});
      cairo_rectangle(cr, x - width / 2 + width * i / columns, y + h * j / rows, width / columns * 0.86,
                      h / rows * 0.8);
      cairo_fill(cr);
    }
  use(cr, {0.3, 0.17, 0.1});
  cairo_rectangle(cr, x - width * 0.53, y - h * 0.05, width * 1.06, h * 0.12);
  cairo_fill(cr);
}

BalloonSprite::BalloonSprite(const BalloonLook& look, double radius) {
  m_originX = std::ceil(radius * 1.1) + 2;
  m_originY = std::ceil(radius * 1.05) + 2;
  const int width = int(m_originX) * 2;
  const int height = int(std::ceil(radius * (look.banner ? 3.3 : 2.95) + 4));
  m_surface = newSurface(width, height);
  const Brush cr(cairo_create(m_surface.get()));
  cairo_translate(cr.get(), m_originX, m_originY);
  drawEnvelope(cr.get(), look, radius);
  use(cr.get(), {0.99, 0.97, 0.92});
  drawLettering(cr.get(), look.number, 0, radius * 0.02, radius * 0.42, true);
  use(cr.get(), {0.99, 0.97, 0.92}, 0.95);
  drawLettering(cr.get(), "FENNICK VALE FLYERS", 0, radius * 0.36, radius * 0.085, true);
  drawBasket(cr.get(), 0, radius * kRim, radius * 0.34, radius * (kRim - kMouth), radius * 0.15);
  if (look.banner) drawBanner(cr.get(), radius * (kRim + 0.36), radius);

  // The same outline filled with the colour of the air, for balloons far away.
  m_mist = newSurface(width, height);
  const Brush mist(cairo_create(m_mist.get()));
  use(mist.get(), {0.86, 0.8, 0.8});
  cairo_mask_surface(mist.get(), m_surface.get(), 0, 0);
}

void BalloonSprite::draw(cairo_t* cr, double x, double y, double haze) const {
  cairo_set_source_surface(cr, m_surface.get(), x - m_originX, y - m_originY);
  cairo_paint(cr);
  if (haze <= 0) return;
  cairo_set_source_surface(cr, m_mist.get(), x - m_originX, y - m_originY);
  cairo_paint_with_alpha(cr, haze);
}

} // namespace tromb::demo
