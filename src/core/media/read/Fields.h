// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "media/Frame.h"

namespace tromb {

/// What a picture and the one after it tell of how they were scanned.
enum class FieldEvidence {
  None,        ///< too little moves, or it moves so that both would look the same: nothing may be concluded
  Progressive, ///< the lines of a picture belong together
  TopFirst,    ///< the lines of its two fields are of two moments, the upper field's first
  BottomFirst,
};

/// Weaves the fields of both pictures with each other: fields of one moment fit without teeth. In a progressive picture
/// its own two do, and each with the next picture's does not; in interlaced ones the later field of this picture fits
/// the earlier one of the next as well as its own fellow. Looks at luma at full height. None for formats whose first
/// plane is not luma or that differ in size. Thread-safe.
[[nodiscard]] FieldEvidence fieldEvidence(const Frame& picture, const Frame& next);

} // namespace tromb
