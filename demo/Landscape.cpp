// SPDX-License-Identifier: GPL-3.0-or-later
#include "Landscape.h"

#include <algorithm>
#include <array>
#include <vector>

namespace tromb::demo {
namespace {

/// A hill line: a few waves of chance phase.
class Ridge {
public:
  Ridge(Dice& dice, double height) {
    for (int i = 0; i < 6; ++i)
      m_waves.push_back({dice.in(0, 6.3), (1.3 + i * 1.7) * dice.in(0.8, 1.2), height / (1.2 + i * 1.1)});
  }
  [[nodiscard]] double at(double x) const {
    double y = 0;
    for (const auto& w : m_waves) y += w[2] * std::sin(w[0] + x * w[1]);
    return y;
  }

private:
  std::vector<std::array<double, 3>> m_waves;
};

void paintSky(cairo_t* cr, double w, double h, double horizon) {
  const Pattern sky(cairo_pattern_create_linear(0, 0, 0, h * horizon * 1.25));
  cairo_pattern_add_color_stop_rgb(sky.get(), 0, 0.33, 0.47, 0.63);
  cairo_pattern_add_color_stop_rgb(sky.get(), 0.45, 0.62, 0.69, 0.76);
  cairo_pattern_add_color_stop_rgb(sky.get(), 0.78, 0.94, 0.81, 0.68);
  cairo_pattern_add_color_stop_rgb(sky.get(), 1, 0.99, 0.88, 0.72);
  cairo_set_source(cr, sky.get());
  cairo_paint(cr);
  const Pattern sun(cairo_pattern_create_radial(w * 0.2, h * horizon, 0, w * 0.2, h * horizon, w * 0.5));
  cairo_pattern_add_color_stop_rgba(sun.get(), 0, 1, 0.97, 0.86, 1);
  cairo_pattern_add_color_stop_rgba(sun.get(), 0.05, 1, 0.94, 0.78, 0.9);
  cairo_pattern_add_color_stop_rgba(sun.get(), 0.3, 1, 0.85, 0.62, 0.3);
  cairo_pattern_add_color_stop_rgba(sun.get(), 1, 1, 0.8, 0.6, 0);
  cairo_set_source(cr, sun.get());
  cairo_paint(cr);
}

void paintClouds(cairo_t* cr, double w, double h, Dice& dice, double horizon) {
  for (int i = 0; i < 26; ++i) {
    const double x = dice.in(-0.1, 1.1) * w;
    const double y = dice.in(0.05, horizon * 0.8) * h;
    const double length = dice.in(0.06, 0.22) * w;
    for (int puff = 0; puff < 12; ++puff) {
      const double px = x + dice.in(-0.5, 0.5) * length;
      const double radius = dice.in(0.02, 0.05) * w * (0.5 + horizon);
      const Pattern soft(cairo_pattern_create_radial(0, 0, 0, 0, 0, radius));
      cairo_pattern_add_color_stop_rgba(soft.get(), 0, 1, 0.95, 0.9, 0.06);
      cairo_pattern_add_color_stop_rgba(soft.get(), 1, 1, 0.93, 0.88, 0);
      cairo_save(cr);
      cairo_translate(cr, px, y + dice.in(-0.006, 0.006) * h);
      cairo_scale(cr, 1, 0.22);
      cairo_set_source(cr, soft.get());
      cairo_arc(cr, 0, 0, radius, 0, 7);
      cairo_fill(cr);
      cairo_restore(cr);
    }
  }
}

void paintTree(cairo_t* cr, double x, double y, double size, const Colour& tone, Dice& dice) {
  use(cr, tone.lit(0.7));
  cairo_rectangle(cr, x - size * 0.03, y - size * 0.3, size * 0.06, size * 0.3);
  cairo_fill(cr);
  const bool poplar = dice.in(0, 1) < 0.4;
  for (int i = 0; i < 46; ++i) {
    const double t = dice.in(0, 1);
    const double spread = (poplar ? 0.12 : 0.3) * size * std::sin((0.1 + 0.85 * t) * 3.1);
    use(cr, tone.lit(dice.in(0.75, 1.3)));
    cairo_arc(cr, x + dice.in(-1, 1) * spread, y - size * (0.18 + 0.82 * t * (poplar ? 1.25 : 0.8)),
              size * dice.in(0.035, 0.075), 0, 7);
    cairo_fill(cr);
  }
}

} // namespace

Surface paintValley(int width, int height, uint32_t seed, double horizon) {
  Surface surface = newSurface(width, height);
  const Brush brush(cairo_create(surface.get()));
  cairo_t* cr = brush.get();
  Dice dice(seed);
  const double w = width;
  const double h = height;
  paintSky(cr, w, h, horizon);
  paintClouds(cr, w, h, dice, horizon);
  const std::array<Colour, 5> tones{
      {{0.68, 0.67, 0.74}, {0.55, 0.58, 0.64}, {0.42, 0.5, 0.5}, {0.32, 0.42, 0.34}, {0.26, 0.36, 0.22}}};
  for (size_t layer = 0; layer < tones.size(); ++layer) {
    const double base = h * (horizon + (1 - horizon) * 0.17 * double(layer));
    const Ridge ridge(dice, h * (0.035 - 0.003 * double(layer)));
    cairo_move_to(cr, 0, h);
    for (int x = 0; x <= width; x += 2) cairo_line_to(cr, x, base + ridge.at(x / h * 1.3));
    cairo_line_to(cr, w, h);
    cairo_close_path(cr);
    const Pattern fade(cairo_pattern_create_linear(0, base - h * 0.04, 0, base + h * 0.2));
    const Colour low = tones[layer].mixed({0.93, 0.86, 0.8}, 0.5 - 0.08 * double(layer));
    cairo_pattern_add_color_stop_rgb(fade.get(), 0, tones[layer].r, tones[layer].g, tones[layer].b);
    cairo_pattern_add_color_stop_rgb(fade.get(), 1, low.r, low.g, low.b);
    cairo_set_source(cr, fade.get());
    cairo_fill(cr);
    if (layer < 1) continue;
    const int trees = int(40 + 25 * layer);
    for (int i = 0; i < trees; ++i) {
      const double x = dice.in(0, w);
      const double y = base + ridge.at(x / h * 1.3) + dice.in(0, 0.05) * h;
      paintTree(cr, x, y, h * (0.012 + 0.012 * double(layer)) * dice.in(0.7, 1.4), tones[layer].lit(0.82), dice);
    }
  }
  return surface;
}

Surface paintMeadow(int width, int height, uint32_t seed, double top) {
  Surface surface = newSurface(width, height);
  const Brush brush(cairo_create(surface.get()));
  cairo_t* cr = brush.get();
  Dice dice(seed);
  const double w = width;
  const double h = height;
  const double y0 = h * top;
  const Pattern ground(cairo_pattern_create_linear(0, y0, 0, h));
  cairo_pattern_add_color_stop_rgb(ground.get(), 0, 0.46, 0.5, 0.28);
  cairo_pattern_add_color_stop_rgb(ground.get(), 1, 0.2, 0.27, 0.13);
  const Ridge edge(dice, h * 0.006);
  cairo_move_to(cr, 0, h);
  for (int x = 0; x <= width; x += 4) cairo_line_to(cr, x, y0 + edge.at(x / h));
  cairo_line_to(cr, w, h);
  cairo_close_path(cr);
  cairo_set_source(cr, ground.get());
  cairo_fill(cr);
  // Tents and people near the far edge.
  for (int i = 0; i < int(w / h * 5); ++i) {
    const double x = dice.in(0, w);
    const double size = h * dice.in(0.02, 0.032);
    const double y = y0 + h * dice.in(0.02, 0.05);
    const bool red = dice.in(0, 1) < 0.5;
    for (int stripe = 0; stripe < 6; ++stripe) {
      use(cr, stripe % 2 ? Colour{0.95, 0.93, 0.87} : red ? Colour{0.7, 0.28, 0.22} : Colour{0.25, 0.42, 0.46});
      cairo_move_to(cr, x, y - size * 1.3);
      cairo_line_to(cr, x + size * (stripe - 3) / 2.0, y);
      cairo_line_to(cr, x + size * (stripe - 2) / 2.0, y);
      cairo_close_path(cr);
      cairo_fill(cr);
    }
  }
  for (int i = 0; i < int(w / h * 60); ++i) {
    const double x = dice.in(0, w);
    const double y = y0 + h * dice.in(0.035, 0.12);
    const double size = h * 0.011 * (0.7 + (y - y0) / h * 10);
    use(cr, {dice.in(0.2, 0.8), dice.in(0.2, 0.55), dice.in(0.2, 0.5)});
    cairo_rectangle(cr, x - size * 0.22, y - size * 1.3, size * 0.44, size * 0.9);
    cairo_fill(cr);
    use(cr, {0.25, 0.22, 0.24});
    cairo_rectangle(cr, x - size * 0.18, y - size * 0.45, size * 0.36, size * 0.5);
    cairo_fill(cr);
    use(cr, {0.66, 0.5, 0.4});
    cairo_arc(cr, x, y - size * 1.48, size * 0.2, 0, 7);
    cairo_fill(cr);
  }
  // Grass.
  cairo_set_line_width(cr, std::max(0.7, h / 1400));
  for (int i = 0; i < int(w * h / 260); ++i) {
    const double depth = dice.in(0, 1);
    const double y = y0 + (h - y0) * (0.03 + depth * 0.99);
    const double x = dice.in(0, w);
    const double length = h * (0.004 + 0.016 * depth);
    use(cr, Colour{dice.in(0.36, 0.62), dice.in(0.42, 0.62), dice.in(0.16, 0.28)}.lit(1.02 - 0.5 * depth), 0.75);
    cairo_move_to(cr, x, y);
    cairo_line_to(cr, x + dice.in(-0.5, 0.5) * length, y - length);
    cairo_stroke(cr);
  }
  // Fence with two rails.
  use(cr, {0.32, 0.24, 0.17});
  const double fence = y0 + (h - y0) * 0.55;
  cairo_set_line_width(cr, h * 0.004);
  for (const double rail : {0.022, 0.038}) {
    cairo_move_to(cr, 0, fence - h * rail);
    cairo_line_to(cr, w, fence - h * rail);
    cairo_stroke(cr);
  }
  for (double x = h * 0.02; x < w; x += h * 0.085) {
    cairo_rectangle(cr, x, fence - h * 0.05, h * 0.008, h * 0.06);
    cairo_fill(cr);
  }
  return surface;
}

} // namespace tromb::demo
