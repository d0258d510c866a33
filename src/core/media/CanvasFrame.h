// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "colour/CanvasFormat.h"
#include "media/Frame.h"

namespace tromb {

/// The AVPixelFormat of a canvas format; −1 for one that no pixel format has.
[[nodiscard]] int pixelFormatOf(const CanvasFormat& format);
/// What FFmpeg calls it: "yuv420p10le".
[[nodiscard]] std::string pixelFormatName(const CanvasFormat& format);
/// Labels a picture with the colour of a canvas; subsampled chroma lies beside the left luma sample, in BT.2100 on it.
void label(AVFrame& picture, const CanvasFormat& format);
/// A picture that has size, format and labels, and no pixels: to say what others will be like.
[[nodiscard]] std::shared_ptr<AVFrame> described(Size size, const CanvasFormat& format);
/// A new canvas, labelled; contents undefined.
[[nodiscard]] std::shared_ptr<AVFrame> newCanvas(Size size, const CanvasFormat& format, FramePool& pool);

} // namespace tromb
