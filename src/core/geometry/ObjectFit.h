// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "geometry/Rect.h"

namespace tromb {

/// The two ways of CSS Images Level 3 `object-fit` that delivery needs.
enum class ObjectFit {
  Contain, ///< the whole picture shown; the rest of the box stays empty
  Cover,   ///< the box covered; parts of the picture fall outside
};

/// Where a picture is drawn in a box, in box pixels, after CSS Images 3 `object-fit` and `object-position`;
/// `positionX`, `positionY` in [0, 1] (0.5 = centred). The rectangle reaches outside the box for Cover.
[[nodiscard]] RectF objectFit(SizeF picture, SizeF box, ObjectFit fit, double positionX = 0.5, double positionY = 0.5);

} // namespace tromb
