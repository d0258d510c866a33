// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "Paint.h"

namespace tromb::demo {

/// A made-up valley at sunrise, `width` × `height` pixels; `seed` varies hills and trees, `horizon` (0 to 1 from the
/// top) is where the far hills begin.
[[nodiscard]] Surface paintValley(int width, int height, uint32_t seed, double horizon);

/// The meadow in front: grass, fence, tents and people, transparent above; `width` may be more than a frame, for
/// pans.
[[nodiscard]] Surface paintMeadow(int width, int height, uint32_t seed, double top);

} // namespace tromb::demo
