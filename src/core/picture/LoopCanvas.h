// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "picture/Scaler.h"

#include <optional>

namespace tromb {

/// Brings the pictures of a loop, which are read as red, green and blue, into the format of a canvas, so that they can
/// be held against what was composed. One thread at a time; movable.
class LoopCanvas {
public:
  LoopCanvas(Size canvas, const CanvasFormat& format) : m_canvas(canvas), m_format(format) {}
  /// Errors: those of planarFrame and Scaler.
  [[nodiscard]] Result<Frame> of(const Frame& picture);

private:
  Size m_canvas;
  CanvasFormat m_format;
  std::optional<Scaler> m_scaler;
};

} // namespace tromb
