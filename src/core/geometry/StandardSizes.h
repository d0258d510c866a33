// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "geometry/Rect.h"

#include <string_view>
#include <vector>

namespace tromb {

/// A shape of canvases that is in use, and the sizes that it usually has.
struct StandardShape {
  std::string_view name;   ///< "16:9"
  std::vector<Size> sizes; ///< smallest first; never empty
};

/// The shapes in use, the widest last. Common practice, no published source; 1280×720, 1920×1080 and 3840×2160 are
/// those of Rec. ITU-R BT.709 and BT.2020. Immutable; thread-safe.
[[nodiscard]] const std::vector<StandardShape>& standardShapes();
/// The shape of a canvas, as close as rounding to even pixels allows; null where it is none of them.
[[nodiscard]] const StandardShape* standardShapeOf(Size canvas);
/// Of a shape's sizes the one whose area is nearest to that of a canvas.
[[nodiscard]] Size sizeLike(const StandardShape& shape, Size canvas);

} // namespace tromb
