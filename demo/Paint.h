// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <cairo.h>
#include <cmath>
#include <cstdint>
#include <memory>
#include <random>

namespace tromb::demo {

struct SurfaceCloser {
  void operator()(cairo_surface_t* s) const { cairo_surface_destroy(s); }
  void operator()(cairo_t* c) const { cairo_destroy(c); }
  void operator()(cairo_pattern_t* p) const { cairo_pattern_destroy(p); }
};
using Surface = std::unique_ptr<cairo_surface_t, SurfaceCloser>;
using Brush = std::unique_ptr<cairo_t, SurfaceCloser>;
using Pattern = std::unique_ptr<cairo_pattern_t, SurfaceCloser>;

inline Surface newSurface(int width, int height) {
  return Surface(cairo_image_surface_create(CAIRO_FORMAT_ARGB32, width, height));
}

struct Colour {
  double r, g, b;
  [[nodiscard]] Colour lit(double light) const { return {r * light, g * light, b * light}; }
  [[nodiscard]] Colour mixed(const Colour& other, double share) const {
    return {r + (other.r - r) * share, g + (other.g - g) * share, b + (other.b - b) * share};
  }
};

inline void use(cairo_t* cr, const Colour& c, double alpha = 1) {
  cairo_set_source_rgba(cr, c.r, c.g, c.b, alpha);
}

/// The same numbers on every machine: the standard fixes the engine, not its distributions.
class Dice {
public:
  explicit Dice(uint32_t seed) : m_engine(seed) {}
  double in(double least, double most) { return least + (most - least) * (double(m_engine()) / 4294967296.0); }

private:
  std::mt19937 m_engine;
};

} // namespace tromb::demo
