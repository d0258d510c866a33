// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "geometry/Framing.h"
#include "picture/Frame.h"
#include "picture/Scaler.h"

#include <vector>

namespace tromb {

/// Lays the windows of one shot on one canvas: decoded source picture in, finished canvas out (8-bit 4:2:0,
/// BT.709 limited, labelled). Uncovered canvas is black. One thread at a time; scalers are built on the first
/// frame and again when the source changes its format.
class Composer {
public:
  Composer(const PictureShape& shape, Size canvas, std::vector<Placement> placements);

  /// Errors: those of Scaler.
  [[nodiscard]] Result<Frame> compose(const Frame& source);

private:
  struct Layer {
    Placement placement;
    std::vector<Scaler> chain; ///< one scaler, or two where the picture is turned or blurred in between
  };
  [[nodiscard]] Status prepare(const Frame& source);
  [[nodiscard]] Result<Frame> drawn(Layer& layer, const Frame& source) const;

  PictureShape m_shape;
  Size m_canvas;
  std::vector<Layer> m_layers;
};

} // namespace tromb
