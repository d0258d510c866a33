// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <memory>

struct AVFrame;

namespace tromb {

/// A decoded or composed picture: planes, strides, size, pixel format and colour labels as FFmpeg keeps them.
/// Counted reference to pixels that nobody changes any more; may be shared between threads.
using Frame = std::shared_ptr<const AVFrame>;

} // namespace tromb
