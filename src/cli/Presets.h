// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "destination/PresetStore.h"

namespace tromb::cli {

/// The user's presets, as the window has them.
[[nodiscard]] PresetStore presets();

} // namespace tromb::cli
