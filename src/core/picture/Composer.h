// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "geometry/Framing.h"
#include "media/Frame.h"
#include "picture/PlanarFrame.h"
#include "picture/Scaler.h"

#include <vector>

namespace tromb {

/// Lays the windows of one shot on one canvas: decoded source picture in, finished canvas out, in the canvas's format
/// and labelled. What lies under a transparent picture shows through it. Uncovered canvas is black. One thread at a
/// time; scalers are built on the first frame and again where a placement or the source's format is another than
/// before.
class Composer {
public:
  /// Windows are scaled by `kernel`.
  Composer(const PictureShape& shape, Size canvas, const CanvasFormat& format, Kernel kernel = Kernel::Sharp)
      : m_shape(shape), m_canvas(canvas), m_format(format), m_kernel(kernel) {}

  /// Gives the picture that placements of kind Still show, as it fills the canvas; without one they are black.
  /// Errors: those of Scaler.
  [[nodiscard]] Status setStill(const Frame& picture, const PictureShape& shape);

  /// Errors: those of Scaler.
  [[nodiscard]] Result<Frame> compose(const Frame& source, const std::vector<Placement>& placements);

private:
  using Chain = std::vector<Scaler>; ///< one scaler, or two where the picture is turned or blurred in between
  struct Layer {
    Placement placement;
    Chain chain;
    Chain mask; ///< the same for how opaque the picture is, where something shows through it
  };
  [[nodiscard]] Status prepare(Chain& chain, const Placement& at, const Frame& source,
                               const CanvasFormat& format) const;
  [[nodiscard]] Result<Frame> drawn(Chain& chain, const Placement& at, const Frame& source,
                                    const CanvasFormat& format) const;
  /// The format of masks, and of pictures on their way: with 16 bits for canvases of more than 8, so that only the last
  /// step rounds to the canvas's own depth.
  [[nodiscard]] CanvasFormat onTheWay(const CanvasFormat& format) const {
    return format.withDepth(m_format.depth > 8 ? 16 : 8);
  }
  [[nodiscard]] CanvasFormat maskFormat() const;
  /// `mask` may be empty: all of the picture is opaque.
  [[nodiscard]] Status drawInto(AVFrame& canvas, Layer& layer, const Frame& source, const Frame& mask) const;

  PictureShape m_shape;
  Size m_canvas;
  CanvasFormat m_format;
  Kernel m_kernel;
  FramePool m_pool;
  std::vector<Layer> m_layers;
  Frame m_still; ///< The still, scaled to the canvas.
};

} // namespace tromb
