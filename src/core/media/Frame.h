// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "geometry/Rect.h"

#include <cstddef>
#include <memory>

struct AVBufferPool;
struct AVFrame;

namespace tromb {

/// A decoded or composed picture: planes, strides, size, pixel format and colour labels as FFmpeg keeps them.
/// Counted reference to pixels that nobody changes any more; may be shared between threads.
using Frame = std::shared_ptr<const AVFrame>;

/// Planes of new frames begin, and their lines lie apart, by multiples of so many bytes.
inline constexpr int kFrameAlignment = 64;

/// A new frame with 64-byte aligned planes; contents undefined. `pixelFormat` is an AVPixelFormat.
[[nodiscard]] std::shared_ptr<AVFrame> newFrame(Size size, int pixelFormat);

/// Gives frames like newFrame, out of memory of earlier ones that nobody holds any more: fresh memory for every picture
/// of an export costs the system thousands of pages each. One thread at a time; frames may outlive it and be let go of
/// in any thread.
class FramePool {
public:
  [[nodiscard]] std::shared_ptr<AVFrame> frame(Size size, int pixelFormat);

private:
  struct Closer {
    void operator()(AVBufferPool* pool) const;
  };
  std::unique_ptr<AVBufferPool, Closer> m_pool; ///< Hands out pieces of m_bytes bytes.
  size_t m_bytes = 0;
};

} // namespace tromb
