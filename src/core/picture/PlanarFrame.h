// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "Error.h"
#include "geometry/Rect.h"
#include "picture/Frame.h"

#include <cstddef>
#include <memory>

struct AVBufferPool;
struct AVFrame;

namespace tromb {

/// The same picture in a planar format that zimg reads (Y'CbCr or G, B, R; 8 to 16 bit), planes 64-byte
/// aligned. Returns `frame` itself where it is so already. Transparency is laid over black: colours
/// are those of the picture times its opacity.
/// Errors: Unsupported (the pixel format cannot be converted). Thread-safe.
[[nodiscard]] Result<Frame> planarFrame(const Frame& frame);

/// How opaque a picture is: a grey picture of its size, planar G, B, R of 8 bits, full range; empty where all of it is
/// opaque. Errors: Unsupported. Thread-safe.
[[nodiscard]] Result<Frame> opacity(const Frame& frame);

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
  std::unique_ptr<AVBufferPool, Closer> m_pool; ///< of pieces of m_bytes
  size_t m_bytes = 0;
};

/// A new canvas: 8-bit 4:2:0, BT.709 limited, left-sited, labelled; contents undefined.
[[nodiscard]] std::shared_ptr<AVFrame> newCanvas(Size size, FramePool& pool);

} // namespace tromb
