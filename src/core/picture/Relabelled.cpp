// SPDX-License-Identifier: GPL-3.0-or-later
#include "picture/Relabelled.h"

#include "media/Av.h"

namespace tromb {

Frame relabelled(const Frame& picture, const ColourTags& tags) {
  std::shared_ptr<AVFrame> other(av::allocated(av_frame_clone(picture.get())), av::Closer());
  other->color_primaries = AVColorPrimaries(tags.primaries);
  other->color_trc = AVColorTransferCharacteristic(tags.transfer);
  if (av_pix_fmt_desc_get(AVPixelFormat(other->format))->flags & AV_PIX_FMT_FLAG_RGB) return other;
  other->colorspace = AVColorSpace(tags.matrix);
  other->color_range = tags.fullRange ? AVCOL_RANGE_JPEG : AVCOL_RANGE_MPEG;
  // Some pixel formats of FFmpeg mean full range by themselves.
  constexpr std::pair<AVPixelFormat, AVPixelFormat> kFull[] = {{AV_PIX_FMT_YUVJ420P, AV_PIX_FMT_YUV420P},
                                                               {AV_PIX_FMT_YUVJ422P, AV_PIX_FMT_YUV422P},
                                                               {AV_PIX_FMT_YUVJ444P, AV_PIX_FMT_YUV444P}};
  for (const auto& [full, plain] : kFull)
    if (other->format == full) other->format = plain;
  return other;
}

} // namespace tromb
