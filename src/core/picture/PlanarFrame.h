// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "Error.h"
#include "media/Frame.h"

namespace tromb {

/// The same picture in a planar format that zimg reads (Y'CbCr or G, B, R; 8 to 16 bit), planes 64-byte
/// aligned. Returns `frame` itself where it is so already. Transparency is laid over black: colours
/// are those of the picture times its opacity. With `deep` that product, and any format that has to be converted, has
/// 16 bits, for canvases of more than 8. Errors: Unsupported (the pixel format cannot be converted). Thread-safe.
[[nodiscard]] Result<Frame> planarFrame(const Frame& frame, bool deep = false);

/// How opaque a picture is: a grey picture of its size, planar G, B, R of 8 bits (16 with `deep`), full range; empty
/// where all of it is opaque. Errors: Unsupported. Thread-safe.
[[nodiscard]] Result<Frame> opacity(const Frame& frame, bool deep = false);

} // namespace tromb
