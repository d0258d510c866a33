// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "media/Frame.h"

namespace tromb {

/// A new canvas: 8-bit 4:2:0, BT.709 limited, left-sited, labelled; contents undefined.
[[nodiscard]] std::shared_ptr<AVFrame> newCanvas(Size size, FramePool& pool);

} // namespace tromb
