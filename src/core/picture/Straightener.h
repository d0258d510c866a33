// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "geometry/PictureShape.h"
#include "media/Frame.h"

namespace tromb {

/// Turns stored pictures by a small angle round the middle of what lies between their bars, and enlarges them just
/// enough to leave no corner empty (PictureShape::enlargement); size, format and labels stay. Resamples with an 8×8
/// Lanczos window. Value, thread-safe.
class Straightener {
public:
  /// `shape` as the pictures are to be seen, its orientation included.
  explicit Straightener(const PictureShape& shape) : m_shape(shape) {}

  /// Errors: Unsupported (the pixel format cannot be converted).
  [[nodiscard]] Result<Frame> run(const Frame& stored) const;

private:
  PictureShape m_shape;
};

} // namespace tromb
