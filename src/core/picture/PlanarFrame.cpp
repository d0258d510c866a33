// SPDX-License-Identifier: GPL-3.0-or-later
#include "picture/PlanarFrame.h"

#include "media/Av.h"

#include <algorithm>
#include <cmath>
#include <cstdint>
#include <limits>

namespace tromb {
namespace {

bool aligned(const AVFrame& frame) {
  for (int p = 0; p < 4 && frame.data[p]; ++p)
    if ((reinterpret_cast<uintptr_t>(frame.data[p]) | uintptr_t(frame.linesize[p])) % kFrameAlignment != 0)
      return false;
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
    return fail(ErrorCode::Unsupported,
                say("pictures in the format %1 cannot be read", av_get_pix_fmt_name(AVPixelFormat(source->format))));
  sws_scale(sws.get(), source->data, source->linesize, 0, source->height, target->data, target->linesize);
  av_frame_copy_props(target.get(), source.get());
  return Frame(target);
}

/// A grey picture as Y'CbCr of its own depth, without colour. Without a label it has full range, as FFmpeg takes it.
Frame coloured(const Frame& grey, const AVPixFmtDescriptor& d) {
  const int depth = d.comp[0].depth;
  const AVPixelFormat format = depth <= 8    ? AV_PIX_FMT_YUV444P
                               : depth <= 9  ? AV_PIX_FMT_YUV444P9
                               : depth <= 10 ? AV_PIX_FMT_YUV444P10
                               : depth <= 12 ? AV_PIX_FMT_YUV444P12
                               : depth <= 14 ? AV_PIX_FMT_YUV444P14
                                             : AV_PIX_FMT_YUV444P16;
  const auto target = newFrame({grey->width, grey->height}, format);
  const int bytes = depth > 8 ? 2 : 1;
  av_image_copy_plane(target->data[0], target->linesize[0], grey->data[0], grey->linesize[0], grey->width * bytes,
                      grey->height);
  for (int p = 1; p < 3; ++p)
    for (int y = 0; y < grey->height; ++y) {
      uint8_t* row = target->data[p] + ptrdiff_t(y) * target->linesize[p];
      if (bytes == 1)
        std::fill_n(row, grey->width, uint8_t(128));
      else
        std::fill_n(reinterpret_cast<uint16_t*>(row), grey->width, uint16_t(1 << (depth - 1)));
    }
  av_frame_copy_props(target.get(), grey.get());
  if (grey->color_range == AVCOL_RANGE_UNSPECIFIED) target->color_range = AVCOL_RANGE_JPEG;
  return target;
}

/// A value of full scale `from` in full scale `to`.
template <typename To, typename From> To rescaled(From value) {
  constexpr uint64_t kFrom = std::numeric_limits<From>::max();
  constexpr uint64_t kTo = std::numeric_limits<To>::max();
  return To((value * kTo + kFrom / 2) / kFrom);
}

/// Packed RGBA to planar G, B, R over black, of the depths of the types.
template <typename Out, typename In> Frame flattened(const AVFrame& rgba) {
  constexpr uint64_t kFull = std::numeric_limits<Out>::max();
  const auto target = newFrame({rgba.width, rgba.height}, sizeof(Out) == 1 ? AV_PIX_FMT_GBRP : AV_PIX_FMT_GBRP16);
  constexpr int kPlaneOf[3] = {2, 0, 1}; // R, G, B
  for (int y = 0; y < rgba.height; ++y) {
    const auto* in = reinterpret_cast<const In*>(rgba.data[0] + ptrdiff_t(y) * rgba.linesize[0]);
    for (int x = 0; x < rgba.width; ++x, in += 4)
      for (int c = 0; c < 3; ++c)
        reinterpret_cast<Out*>(target->data[kPlaneOf[c]] + ptrdiff_t(y) * target->linesize[kPlaneOf[c]])[x] =
            Out((uint64_t(rescaled<Out>(in[c])) * rescaled<Out>(in[3]) + kFull / 2) / kFull);
  }
  av_frame_copy_props(target.get(), &rgba);
  target->color_range = AVCOL_RANGE_JPEG;
  target->colorspace = AVCOL_SPC_RGB;
  return target;
}

/// True for planar Y'CbCr with a plane of opacity, in a form that can be read sample by sample.
bool planarWithOpacity(const AVPixFmtDescriptor& d) {
  constexpr uint64_t kUnwanted =
      AV_PIX_FMT_FLAG_BE | AV_PIX_FMT_FLAG_PAL | AV_PIX_FMT_FLAG_HWACCEL | AV_PIX_FMT_FLAG_FLOAT | AV_PIX_FMT_FLAG_RGB;
  return (d.flags & AV_PIX_FMT_FLAG_ALPHA) && (d.flags & AV_PIX_FMT_FLAG_PLANAR) && !(d.flags & kUnwanted) &&
         d.nb_components == 4 && d.comp[0].shift == 0;
}

/// A sample times an opacity from 0 to 1, where `none` is black or no colour.
template <typename Sample> void fade(uint8_t* plane, ptrdiff_t stride, Size size, int none, auto&& opacityAt) {
  for (int y = 0; y < size.height; ++y) {
    auto* row = reinterpret_cast<Sample*>(plane + ptrdiff_t(y) * stride);
    for (int x = 0; x < size.width; ++x) row[x] = Sample(std::lround(none + (double(row[x]) - none) * opacityAt(x, y)));
  }
}

/// The opacity of a pixel in the depth of its plane.
int opacityAtPixel(const AVFrame& frame, const AVPixFmtDescriptor& d, int x, int y) {
  const uint8_t* row = frame.data[d.comp[3].plane] + ptrdiff_t(y) * frame.linesize[d.comp[3].plane];
  return d.comp[3].depth > 8 ? reinterpret_cast<const uint16_t*>(row)[x] : row[x];
}

/// Planar Y'CbCr with a plane of opacity, laid over black.
Result<Frame> flattenedYuv(const Frame& frame, const AVPixFmtDescriptor& d, bool deep) {
  deep = deep || d.comp[0].depth > 8;
  const AVPixelFormat opaque = d.log2_chroma_w == 0   ? (deep ? AV_PIX_FMT_YUV444P16 : AV_PIX_FMT_YUV444P)
                               : d.log2_chroma_h == 0 ? (deep ? AV_PIX_FMT_YUV422P16 : AV_PIX_FMT_YUV422P)
                                                      : (deep ? AV_PIX_FMT_YUV420P16 : AV_PIX_FMT_YUV420P);
  const auto whole = converted(frame, opaque);
  if (!whole) return whole;
  const auto target = newFrame({frame->width, frame->height}, opaque);
  av_frame_copy(target.get(), whole->get());
  av_frame_copy_props(target.get(), whole->get());
  const AVFrame& m = *frame;
  const double full = (1 << d.comp[3].depth) - 1;
  for (int p = 0; p < 3; ++p) {
    const int shiftX = p > 0 ? d.log2_chroma_w : 0;
    const int shiftY = p > 0 ? d.log2_chroma_h : 0;
    const auto opacityAt = [&](int x, int y) { // the mean over what a chroma sample covers
      int64_t sum = 0;
      int count = 0;
      for (int ay = y << shiftY; ay < std::min(m.height, (y + 1) << shiftY); ++ay)
        for (int ax = x << shiftX; ax < std::min(m.width, (x + 1) << shiftX); ++ax, ++count)
          sum += opacityAtPixel(m, d, ax, ay);
      return double(sum) / (full * std::max(1, count));
    };
    const Size size{AV_CEIL_RSHIFT(m.width, shiftX), AV_CEIL_RSHIFT(m.height, shiftY)};
    const int black = frame->color_range == AVCOL_RANGE_JPEG ? 0 : 16;
    const int none = (p > 0 ? 128 : black) << (deep ? 8 : 0);
    if (deep)
      fade<uint16_t>(target->data[p], target->linesize[p], size, none, opacityAt);
    else
      fade<uint8_t>(target->data[p], target->linesize[p], size, none, opacityAt);
  }
  return Frame(target);
}

/// A grey picture as three planes in one, for zimg; empty where all of it is opaque.
template <typename Out> Frame greyMask(Size size, auto&& opacityAt) {
  const auto grey = newFrame(size, sizeof(Out) == 1 ? AV_PIX_FMT_GRAY8 : AV_PIX_FMT_GRAY16);
  bool any = false;
  for (int y = 0; y < size.height; ++y) {
    auto* out = reinterpret_cast<Out*>(grey->data[0] + ptrdiff_t(y) * grey->linesize[0]);
    for (int x = 0; x < size.width; ++x) {
      out[x] = opacityAt(x, y);
      any = any || out[x] != std::numeric_limits<Out>::max();
    }
  }
  if (!any) return {};
  grey->format = sizeof(Out) == 1 ? AV_PIX_FMT_GBRP : AV_PIX_FMT_GBRP16;
  for (int p = 1; p < 3; ++p) {
    grey->data[p] = grey->data[0];
    grey->linesize[p] = grey->linesize[0];
  }
  grey->color_range = AVCOL_RANGE_JPEG;
  grey->colorspace = AVCOL_SPC_RGB;
  return grey;
}

template <typename Out> Result<Frame> opacityIn(const Frame& frame, const AVPixFmtDescriptor& d) {
  const Size size{frame->width, frame->height};
  if (planarWithOpacity(d)) {
    const double full = (1 << d.comp[3].depth) - 1;
    return greyMask<Out>(size, [&](int x, int y) {
      return Out(std::lround(opacityAtPixel(*frame, d, x, y) / full * std::numeric_limits<Out>::max()));
    });
  }
  const bool deep = d.comp[d.nb_components - 1].depth > 8;
  const auto rgba = converted(frame, deep ? AV_PIX_FMT_RGBA64 : AV_PIX_FMT_RGBA);
  if (!rgba) return rgba;
  return greyMask<Out>(size, [&](int x, int y) {
    const uint8_t* row = (*rgba)->data[0] + ptrdiff_t(y) * (*rgba)->linesize[0];
    return deep ? rescaled<Out>(reinterpret_cast<const uint16_t*>(row)[4 * x + 3]) : rescaled<Out>(row[4 * x + 3]);
  });
}

} // namespace

Result<Frame> opacity(const Frame& frame, bool deep) {
  const AVPixFmtDescriptor* d = av_pix_fmt_desc_get(AVPixelFormat(frame->format));
  if (!d || !(d->flags & AV_PIX_FMT_FLAG_ALPHA)) return Frame();
  return deep ? opacityIn<uint16_t>(frame, *d) : opacityIn<uint8_t>(frame, *d);
}

Result<Frame> planarFrame(const Frame& frame, bool deep) {
  const AVPixFmtDescriptor* d = av_pix_fmt_desc_get(AVPixelFormat(frame->format));
  if (!d) return fail(ErrorCode::Unsupported, say("the picture has an unknown pixel format"));
  if (readableByZimg(*d)) {
    if (aligned(*frame)) return frame;
    const auto copy = newFrame({frame->width, frame->height}, frame->format);
    av_frame_copy(copy.get(), frame.get());
    av_frame_copy_props(copy.get(), frame.get());
    return Frame(copy);
  }
  const bool little =
      !(d->flags & (AV_PIX_FMT_FLAG_BE | AV_PIX_FMT_FLAG_FLOAT | AV_PIX_FMT_FLAG_BITSTREAM | AV_PIX_FMT_FLAG_PAL));
  if (d->nb_components == 1 && little && d->comp[0].depth >= 8 && d->comp[0].shift == 0) return coloured(frame, *d);
  const bool grey = d->nb_components <= 2;
  if ((d->flags & (AV_PIX_FMT_FLAG_RGB | AV_PIX_FMT_FLAG_PAL)) || grey) {
    const bool fine = deep && d->comp[0].depth > 8;
    const auto rgba = converted(frame, fine ? AV_PIX_FMT_RGBA64 : AV_PIX_FMT_RGBA);
    if (!rgba) return rgba;
    return fine   ? flattened<uint16_t, uint16_t>(**rgba)
           : deep ? flattened<uint16_t, uint8_t>(**rgba)
                  : flattened<uint8_t, uint8_t>(**rgba);
  }
  if (planarWithOpacity(*d)) return flattenedYuv(frame, *d, deep);
  // Packed or half-planar Y'CbCr: the planar format of the same subsampling and depth.
  deep = d->comp[0].depth > 8;
  AVPixelFormat target = deep ? AV_PIX_FMT_YUV444P16 : AV_PIX_FMT_YUV444P;
  if (d->log2_chroma_w == 1)
    target = d->log2_chroma_h == 1 ? (deep ? AV_PIX_FMT_YUV420P16 : AV_PIX_FMT_YUV420P)
                                   : (deep ? AV_PIX_FMT_YUV422P16 : AV_PIX_FMT_YUV422P);
  return converted(frame, target);
}

} // namespace tromb
