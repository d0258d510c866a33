// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "Error.h"
#include "colour/CanvasFormat.h"
#include "geometry/Rect.h"
#include "media/Frame.h"

#include <memory>

namespace tromb {

enum class Kernel {
  Sharp,  ///< Spline36: for pictures that are delivered
  Smooth, ///< cubic B-spline: for blurring an enlargement
  Quick,  ///< triangle: for pictures that are only watched
};

/// Resamples a fractional area of pictures of one format to a whole number of pixels with zimg, converting depth,
/// subsampling, matrix, range and, where the colour systems differ, colour: see ColourMap for high dynamic range that
/// is shown in less. Unlabelled SD (up to 1024×576) is taken as BT.601, other unlabelled video as BT.709; SDR primaries
/// other than BT.2020 are not converted. Results are labelled. One thread at a time; build once, run for every frame.
class Scaler {
public:
  /// `like` gives size, format and labels of what `run` will be fed; `region` is in its pixels and must lie
  /// inside it (zimg would mirror silently). Errors: InvalidArgument, Unsupported.
  [[nodiscard]] static Result<Scaler> build(const Frame& like, const RectF& region, Size size,
                                            const CanvasFormat& format, Kernel kernel = Kernel::Sharp);
  Scaler(Scaler&&) noexcept;
  Scaler& operator=(Scaler&&) noexcept;
  ~Scaler();

  /// Returns true if `frame` has the size, format and labels that this was built for.
  [[nodiscard]] bool fits(const Frame& frame) const;
  [[nodiscard]] Result<Frame> run(const Frame& source);

private:
  struct State;
  explicit Scaler(std::unique_ptr<State> state);
  std::unique_ptr<State> m_state;
};

} // namespace tromb
