// SPDX-License-Identifier: GPL-3.0-or-later
#include "picture/Canvas.h"

#include "media/Av.h"

namespace tromb {

std::shared_ptr<AVFrame> newCanvas(Size size, FramePool& pool) {
  auto canvas = pool.frame(size, AV_PIX_FMT_YUV420P);
  canvas->color_range = AVCOL_RANGE_MPEG;
  canvas->colorspace = AVCOL_SPC_BT709;
  canvas->color_primaries = AVCOL_PRI_BT709;
  canvas->color_trc = AVCOL_TRC_BT709;
  canvas->chroma_location = AVCHROMA_LOC_LEFT;
  canvas->sample_aspect_ratio = {1, 1};
  return canvas;
}

} // namespace tromb
