// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "colour/ColourTags.h"
#include "media/Frame.h"

namespace tromb {

/// The same picture with other colour labels; its samples are shared. Pictures of red, green and blue keep their matrix
/// and range. Thread-safe.
[[nodiscard]] Frame relabelled(const Frame& picture, const ColourTags& tags);

} // namespace tromb
