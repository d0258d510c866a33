// SPDX-License-Identifier: GPL-3.0-or-later
#include "media/CanvasFrame.h"

#include "media/Av.h"

namespace tromb {

int pixelFormatOf(const CanvasFormat& format) {
  struct Row {
    int depth;
    AVPixelFormat c420, c422, c444, rgb;
  };
  constexpr Row kRows[] = {
      {8, AV_PIX_FMT_YUV420P, AV_PIX_FMT_YUV422P, AV_PIX_FMT_YUV444P, AV_PIX_FMT_GBRP},
      {10, AV_PIX_FMT_YUV420P10, AV_PIX_FMT_YUV422P10, AV_PIX_FMT_YUV444P10, AV_PIX_FMT_GBRP10},
      {16, AV_PIX_FMT_YUV420P16, AV_PIX_FMT_YUV422P16, AV_PIX_FMT_YUV444P16, AV_PIX_FMT_GBRP16},
  };
  for (const Row& row : kRows)
    if (row.depth == format.depth)
      return format.isRgb()                  ? row.rgb
             : format.chroma == Chroma::C420 ? row.c420
             : format.chroma == Chroma::C422 ? row.c422
                                             : row.c444;
  return AV_PIX_FMT_NONE;
}

std::string pixelFormatName(const CanvasFormat& format) {
  const char* name = av_get_pix_fmt_name(AVPixelFormat(pixelFormatOf(format)));
  return name ? name : "";
}

void label(AVFrame& picture, const CanvasFormat& format) {
  picture.color_range = format.colour.fullRange ? AVCOL_RANGE_JPEG : AVCOL_RANGE_MPEG;
  picture.colorspace = AVColorSpace(format.colour.matrix);
  picture.color_primaries = AVColorPrimaries(format.colour.primaries);
  picture.color_trc = AVColorTransferCharacteristic(format.colour.transfer);
  if (!format.isRgb() && format.chroma != Chroma::C444)
    picture.chroma_location =
        isHdr(format.colour) && format.chroma == Chroma::C420 ? AVCHROMA_LOC_TOPLEFT : AVCHROMA_LOC_LEFT;
}

std::shared_ptr<AVFrame> described(Size size, const CanvasFormat& format) {
  std::shared_ptr<AVFrame> picture(av::allocated(av_frame_alloc()), av::Closer());
  picture->width = size.width;
  picture->height = size.height;
  picture->format = pixelFormatOf(format);
  label(*picture, format);
  return picture;
}

std::shared_ptr<AVFrame> newCanvas(Size size, const CanvasFormat& format, FramePool& pool) {
  auto canvas = pool.frame(size, pixelFormatOf(format));
  label(*canvas, format);
  canvas->sample_aspect_ratio = {1, 1};
  return canvas;
}

} // namespace tromb
