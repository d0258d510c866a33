// SPDX-License-Identifier: GPL-3.0-or-later
#include "picture/Overlay.h"

#include "colour/Light.h"
#include "media/Av.h"

#include <algorithm>

namespace tromb {
namespace {

/// How opaque a pixel is, and its codes less those of black, times that.
struct Sampled {
  float share = 0;
  std::array<float, 3> added{};
};

/// The pixels of an overlay on the canvas, in its codes, without subsampling.
class Sampler {
public:
  Sampler(const uint8_t* bytes, const PixelRect& at, Size canvas, const CanvasFormat& format)
      : m_at(at), m_canvas(canvas), m_pixels(size_t(at.width) * size_t(at.height)) {
    // Most pixels of words have one of very few colours.
    uint32_t known = 0;
    Codes codes = codesOf({0, 0, 0}, format);
    const Codes none{format.lumaBlack(), format.chromaNone(), format.chromaNone()};
    for (size_t i = 0; i < m_pixels.size(); ++i) {
      const uint8_t* p = bytes + 4 * i;
      if (p[3] == 0) continue;
      const double opaque = p[3];
      const auto straight = [&](int c) { return std::min(1.0, double(p[c]) / opaque); };
      const Rgb signal{straight(2), straight(1), straight(0)};
      const uint32_t key = uint32_t(p[0]) << 24 | uint32_t(p[1]) << 16 | uint32_t(p[2]) << 8 | p[3];
      if (key != known || i == 0) {
        codes = codesOf(signal, format);
        known = key;
      }
      m_pixels[i].share = float(opaque / 255);
      for (size_t c = 0; c < 3; ++c) m_pixels[i].added[c] = float((codes[c] - none[c]) * opaque / 255);
    }
  }
  /// Pixel x, y of the canvas. Beyond the canvas it goes on as at its edge.
  [[nodiscard]] const Sampled& at(int x, int y) const {
    static const Sampled clear;
    const int column = std::clamp(x, 0, m_canvas.width - 1) - m_at.x;
    const int row = std::clamp(y, 0, m_canvas.height - 1) - m_at.y;
    if (column < 0 || row < 0 || column >= m_at.width || row >= m_at.height) return clear;
    return m_pixels[size_t(row) * size_t(m_at.width) + size_t(column)];
  }

private:
  PixelRect m_at;
  Size m_canvas;
  std::vector<Sampled> m_pixels;
};

void add(Sampled& sum, const Sampled& one, float weight) {
  sum.share += weight * one.share;
  for (size_t c = 0; c < 3; ++c) sum.added[c] += weight * one.added[c];
}

/// A chroma sample of a subsampled canvas: across it lies on the left one of its two pixels, and takes a quarter of the
/// neighbours on both sides; down it lies between its two lines, or in BT.2100 on the upper one.
Sampled subsampled(const Sampler& pixels, int x, int y, const CanvasFormat& format) {
  constexpr std::array<float, 3> kAround{0.25F, 0.5F, 0.25F};
  Sampled sum;
  const bool between = format.shiftY() == 1 && !isHdr(format.colour);
  const bool upper = format.shiftY() == 1 && isHdr(format.colour);
  for (int i = -1; i <= 1; ++i) {
    const float across = kAround[size_t(i + 1)];
    const int column = 2 * x + i;
    if (between)
      for (int j = 0; j <= 1; ++j) add(sum, pixels.at(column, 2 * y + j), across / 2);
    else if (upper)
      for (int j = -1; j <= 1; ++j) add(sum, pixels.at(column, 2 * y + j), across * kAround[size_t(j + 1)]);
    else
      add(sum, pixels.at(column, y), across);
  }
  return sum;
}

} // namespace

Overlay::Overlay(const uint8_t* bytes, const PixelRect& at, Size canvas, const CanvasFormat& format)
    : m_format(format) {
  const Sampler pixels(bytes, at, canvas, format);
  for (int p = 0; p < 3; ++p) {
    Plane& plane = m_planes[size_t(p)];
    plane.none = float(p > 0 ? format.chromaNone() : format.lumaBlack());
    const int right = p > 0 ? format.shiftX() : 0;
    const int down = p > 0 ? format.shiftY() : 0;
    // One sample more on each side: neighbours reach into them.
    const int x0 = std::max(0, (at.x >> right) - right);
    const int y0 = std::max(0, (at.y >> down) - down);
    const int x1 = std::min(canvas.width >> right, ((at.x + at.width) >> right) + 1 + right);
    const int y1 = std::min(canvas.height >> down, ((at.y + at.height) >> down) + 1 + down);
    for (int y = y0; y < y1; ++y) {
      Row row{y, 0, plane.share.size(), 0};
      size_t used = row.from; ///< behind the last sample that is seen
      for (int x = x0; x < x1; ++x) {
        const Sampled sample = right == 0 && down == 0 ? pixels.at(x, y) : subsampled(pixels, x, y, format);
        if (sample.share <= 0 && plane.share.size() == row.from) continue;
        if (plane.share.size() == row.from) row.x = x;
        plane.share.push_back(sample.share);
        plane.added.push_back(sample.added[size_t(p)]);
        if (sample.share > 0) used = plane.share.size();
      }
      plane.share.resize(used);
      plane.added.resize(used);
      row.count = used - row.from;
      if (row.count > 0) plane.rows.push_back(row);
    }
  }
}

template <typename Sample> void Overlay::layOn(AVFrame& canvas, float opacity) const {
  const auto most = float(m_format.mostCode());
  for (size_t p = 0; p < 3; ++p) {
    const Plane& plane = m_planes[p];
    const float none = plane.none;
    for (const Row& row : plane.rows) {
      auto* out = reinterpret_cast<Sample*>(canvas.data[p] + ptrdiff_t(row.y) * canvas.linesize[p]) + row.x;
      const float* share = plane.share.data() + row.from;
      const float* added = plane.added.data() + row.from;
      for (size_t i = 0; i < row.count; ++i) {
        const auto code = float(out[i]);
        const float laid = code + opacity * (added[i] - share[i] * (code - none)) + 0.5F;
        out[i] = Sample(int(std::min(std::max(laid, 0.0F), most)));
      }
    }
  }
}

void Overlay::layOn(AVFrame& canvas, double opacity) const {
  if (m_format.depth > 8)
    layOn<uint16_t>(canvas, float(opacity));
  else
    layOn<uint8_t>(canvas, float(opacity));
}

} // namespace tromb
