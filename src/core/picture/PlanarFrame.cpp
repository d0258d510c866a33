// SPDX-License-Identifier: GPL-3.0-or-later
#include "picture/PlanarFrame.h"

#include "media/Av.h"

#include <new>

namespace tromb {
namespace {

constexpr int kAlignment = 64;

bool aligned(const AVFrame& frame) {
  for (int p = 0; p < 4 && frame.data[p]; ++p)
    if ((reinterpret_cast<uintptr_t>(frame.data[p]) | uintptr_t(frame.linesize[p])) % kAlignment != 0) return false;
  return true;
}

bool readableByZimg(const AVPixFmtDescriptor& d) {
  constexpr uint64_t kUnwanted = AV_PIX_FMT_FLAG_BE | AV_PIX_FMT_FLAG_PAL | AV_PIX_FMT_FLAG_HWACCEL |
                                 AV_PIX_FMT_FLAG_ALPHA | AV_PIX_FMT_FLAG_FLOAT | AV_PIX_FMT_FLAG_BITSTREAM;
  if ((d.flags & kUnwanted) || !(d.flags & AV_PIX_FMT_FLAG_PLANAR) || d.nb_components != 3) return false;
  for (int c = 0; c < 3; ++c)
    if (d.comp[c].shift != 0 || d.comp[c].step != (d.comp[c].depth > 8 ? 2 : 1)) return false; // half-planar, padded
  return d.log2_chroma_w <= 2 && d.log2_chroma_h <= 2;
}

Result<Frame> converted(const Frame& source, AVPixelFormat format) {
  const auto target = newFrame({source->width, source->height}, format);
  const av::Handle<SwsContext> sws(sws_getContext(source->width, source->height, AVPixelFormat(source->format),
                                                  source->width, source->height, format, SWS_POINT, nullptr, nullptr,
                                                  nullptr));
  if (!sws)
    return fail(ErrorCode::Unsupported, std::string("pictures in the format ") +
                                            av_get_pix_fmt_name(AVPixelFormat(source->format)) + " cannot be read");
  sws_scale(sws.get(), source->data, source->linesize, 0, source->height, target->data, target->linesize);
  av_frame_copy_props(target.get(), source.get());
  return Frame(target);
}

/// Packed RGBA to planar G, B, R over black.
Frame flattened(const Frame& rgba) {
  const auto target = newFrame({rgba->width, rgba->height}, AV_PIX_FMT_GBRP);
  constexpr int kPlaneOf[3] = {2, 0, 1}; // R, G, B
  for (int y = 0; y < rgba->height; ++y) {
    const uint8_t* in = rgba->data[0] + ptrdiff_t(y) * rgba->linesize[0];
    for (int x = 0; x < rgba->width; ++x, in += 4)
      for (int c = 0; c < 3; ++c)
        target->data[kPlaneOf[c]][ptrdiff_t(y) * target->linesize[kPlaneOf[c]] + x] =
            uint8_t((in[c] * in[3] + 127) / 255);
  }
  av_frame_copy_props(target.get(), rgba.get());
  target->color_range = AVCOL_RANGE_JPEG;
  target->colorspace = AVCOL_SPC_RGB;
  return target;
}

} // namespace

std::shared_ptr<AVFrame> newFrame(Size size, int pixelFormat) {
  std::shared_ptr<AVFrame> frame(av_frame_alloc(), av::Closer{});
  if (!frame) throw std::bad_alloc();
  frame->width = size.width;
  frame->height = size.height;
  frame->format = pixelFormat;
  if (av_frame_get_buffer(frame.get(), kAlignment) < 0) throw std::bad_alloc();
  return frame;
}

std::shared_ptr<AVFrame> newCanvas(Size size) {
  auto canvas = newFrame(size, AV_PIX_FMT_YUV420P);
  canvas->color_range = AVCOL_RANGE_MPEG;
  canvas->colorspace = AVCOL_SPC_BT709;
  canvas->color_primaries = AVCOL_PRI_BT709;
  canvas->color_trc = AVCOL_TRC_BT709;
  canvas->chroma_location = AVCHROMA_LOC_LEFT;
  canvas->sample_aspect_ratio = {1, 1};
  return canvas;
}

Result<Frame> planarFrame(const Frame& frame) {
  const AVPixFmtDescriptor* d = av_pix_fmt_desc_get(AVPixelFormat(frame->format));
  if (!d) return fail(ErrorCode::Unsupported, "the picture has an unknown pixel format");
  if (readableByZimg(*d)) {
    if (aligned(*frame)) return frame;
    const auto copy = newFrame({frame->width, frame->height}, frame->format);
    av_frame_copy(copy.get(), frame.get());
    av_frame_copy_props(copy.get(), frame.get());
    return Frame(copy);
  }
  const bool grey = d->nb_components <= 2;
  if ((d->flags & (AV_PIX_FMT_FLAG_RGB | AV_PIX_FMT_FLAG_PAL)) || grey) {
    const auto rgba = converted(frame, AV_PIX_FMT_RGBA);
    if (!rgba) return rgba;
    return flattened(*rgba);
  }
  // Packed, half-planar or transparent Y'CbCr: the planar format of the same subsampling and depth.
  const bool deep = d->comp[0].depth > 8;
  AVPixelFormat target = deep ? AV_PIX_FMT_YUV444P16 : AV_PIX_FMT_YUV444P;
  if (d->log2_chroma_w == 1)
    target = d->log2_chroma_h == 1 ? (deep ? AV_PIX_FMT_YUV420P16 : AV_PIX_FMT_YUV420P)
                                   : (deep ? AV_PIX_FMT_YUV422P16 : AV_PIX_FMT_YUV422P);
  return converted(frame, target);
}

} // namespace tromb
