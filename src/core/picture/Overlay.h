// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "colour/CanvasFormat.h"
#include "geometry/Rect.h"
#include "media/Frame.h"

#include <array>
#include <cstdint>
#include <vector>

namespace tromb {

/// A picture with transparency that is laid over canvases, made ready once: in the canvas's own codes, its chroma where
/// the canvas has it. Blending is that of signals, as pictures with transparency are made for. In high dynamic range
/// its white is reference white. Immutable, thread-safe.
class Overlay {
public:
  /// Four bytes a pixel (blue, green, red of BT.709, how opaque it is; colours are times that already), rows of
  /// `at.width` pixels; `at` is where they lie on the canvas, beyond which nothing of them is kept.
  Overlay(const uint8_t* bytes, const PixelRect& at, Size canvas, const CanvasFormat& format);

  /// Lays it on a canvas of the size and format it was made for, `opacity` in [0, 1]. Each sample is rounded once.
  void layOn(AVFrame& canvas, double opacity) const;

private:
  /// A row of a plane: out = code + opacity · (added − share · (code − none)).
  struct Row {
    int y = 0;
    int x = 0; ///< of the first sample that is not fully transparent
    size_t from = 0;
    size_t count = 0;
  };
  struct Plane {
    float none = 0; ///< the code of black, or of no colour
    std::vector<Row> rows;
    std::vector<float> share;
    std::vector<float> added;
  };
  template <typename Sample> void layOn(AVFrame& canvas, float opacity) const;

  CanvasFormat m_format;
  std::array<Plane, 3> m_planes;
};

} // namespace tromb
