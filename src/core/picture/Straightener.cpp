// SPDX-License-Identifier: GPL-3.0-or-later
#include "picture/Straightener.h"

#include "media/Av.h"
#include "picture/PlanarFrame.h"

#include <cmath>
#include <numbers>
#include <opencv2/imgproc.hpp>

namespace tromb {
namespace {

/// Where a plane's samples lie among those of luma: sample n at n × step + offset.
struct Raster {
  double step = 1;
  double offset = 0;
};

/// The map from a plane's turned pixels to its stored ones, for warpAffine.
cv::Mat mapOf(const PictureShape& shape, const Raster& across, const Raster& down) {
  const Orientation& seen = shape.orientation();
  const double degrees = shape.mirrored() ? -seen.straighten : seen.straighten;
  const double angle = degrees * std::numbers::pi / 180;
  const SizeF picture = shape.picture();
  const double zoom = shape.enlargement();
  const double aspect = shape.pixelAspect(); // of stored pixels: they are turned where they are square
  const RectF part = shape.toStored({0, 0, picture.width, picture.height});
  const double cx = part.x + part.width / 2;
  const double cy = part.y + part.height / 2;
  // Turning the picture clockwise takes each place from where it was anticlockwise of it; y points down.
  const double cosine = std::cos(angle) / zoom;
  const double sine = std::sin(angle) / zoom;
  const double xx = cosine;
  const double xy = sine / aspect;
  const double yx = -sine * aspect;
  const double yy = cosine;
  // In luma coordinates counted from pixel edges: stored = centre + M · (turned − centre); then to samples.
  const double x0 = across.offset + 0.5 - cx;
  const double y0 = down.offset + 0.5 - cy;
  const double tx = (cx + xx * x0 + xy * y0 - 0.5 - across.offset) / across.step;
  const double ty = (cy + yx * x0 + yy * y0 - 0.5 - down.offset) / down.step;
  return (cv::Mat_<double>(2, 3) << xx, xy * down.step / across.step, tx, yx * across.step / down.step, yy, ty);
}

} // namespace

Result<Frame> Straightener::run(const Frame& stored) const {
  const auto planar = planarFrame(stored);
  if (!planar) return tl::unexpected(planar.error());
  const AVFrame& in = **planar;
  const AVPixFmtDescriptor& format = *av_pix_fmt_desc_get(AVPixelFormat(in.format));
  const bool rgb = format.flags & AV_PIX_FMT_FLAG_RGB;
  const int depth = format.comp[0].depth;
  auto out = newFrame({in.width, in.height}, in.format);
  av_frame_copy_props(out.get(), &in);
  for (int p = 0; p < format.nb_components && p < 3; ++p) {
    const bool chroma = p > 0 && !rgb;
    const int shiftX = chroma ? format.log2_chroma_w : 0;
    const int shiftY = chroma ? format.log2_chroma_h : 0;
    // Chroma lies on every second luma sample across, and, unless it is labelled otherwise, between lines.
    const bool top = in.chroma_location == AVCHROMA_LOC_TOPLEFT || in.chroma_location == AVCHROMA_LOC_TOP;
    const bool middle = in.chroma_location == AVCHROMA_LOC_CENTER || in.chroma_location == AVCHROMA_LOC_TOP;
    const Raster across{double(1 << shiftX), shiftX > 0 && middle ? 0.5 : 0};
    const Raster down{double(1 << shiftY), shiftY > 0 && !top ? 0.5 : 0};
    const int type = depth > 8 ? CV_16UC1 : CV_8UC1;
    const cv::Size size(AV_CEIL_RSHIFT(in.width, shiftX), AV_CEIL_RSHIFT(in.height, shiftY));
    const cv::Mat from(size, type, in.data[p], size_t(in.linesize[p]));
    cv::Mat to(size, type, out->data[p], size_t(out->linesize[p]));
    cv::warpAffine(from, to, mapOf(m_shape, across, down), size, cv::INTER_LANCZOS4 | cv::WARP_INVERSE_MAP,
                   cv::BORDER_REPLICATE);
    if (depth > 8 && depth < 16) cv::min(to, double((1 << depth) - 1), to); // what swings over is more than it holds
  }
  return Frame(out);
}

} // namespace tromb
