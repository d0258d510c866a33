// SPDX-License-Identifier: GPL-3.0-or-later
#include "picture/Scaler.h"

#include "media/Av.h"
#include "media/Frame.h"
#include "picture/Canvas.h"
#include "picture/PlanarFrame.h"

#include <algorithm>
#include <cmath>
#include <cstdlib>
#include <cstring>
#include <string>
#include <zimg.h>

namespace tromb {
namespace {

struct GraphCloser {
  void operator()(zimg_filter_graph* g) const { zimg_filter_graph_free(g); }
};
struct AlignedCloser {
  void operator()(void* p) const { std::free(p); }
};

constexpr int kColumnStep = 128; ///< luma columns whose chroma start stays 64-byte aligned at 8 bit, 4:2:0

bool isRgb(const AVFrame& frame) {
  return (av_pix_fmt_desc_get(AVPixelFormat(frame.format))->flags & AV_PIX_FMT_FLAG_RGB) != 0;
}

zimg_matrix_coefficients_e matrixOf(const AVFrame& frame) {
  if (isRgb(frame)) return ZIMG_MATRIX_RGB;
  switch (frame.colorspace) {
  case AVCOL_SPC_UNSPECIFIED:
  case AVCOL_SPC_RESERVED:
  case AVCOL_SPC_RGB: // a mistaken label on Y'CbCr
    return frame.width <= 1024 && frame.height <= 576 ? ZIMG_MATRIX_ST170_M : ZIMG_MATRIX_BT709;
  case AVCOL_SPC_BT2020_CL:
    return ZIMG_MATRIX_BT2020_NCL;
  default:
    return zimg_matrix_coefficients_e(frame.colorspace);
  }
}

zimg_chroma_location_e chromaOf(const AVFrame& frame, bool full) {
  switch (frame.chroma_location) {
  case AVCHROMA_LOC_CENTER:
    return ZIMG_CHROMA_CENTER;
  case AVCHROMA_LOC_TOPLEFT:
    return ZIMG_CHROMA_TOP_LEFT;
  case AVCHROMA_LOC_TOP:
    return ZIMG_CHROMA_TOP;
  case AVCHROMA_LOC_BOTTOMLEFT:
    return ZIMG_CHROMA_BOTTOM_LEFT;
  case AVCHROMA_LOC_BOTTOM:
    return ZIMG_CHROMA_BOTTOM;
  case AVCHROMA_LOC_LEFT:
    return ZIMG_CHROMA_LEFT;
  // JPEG pictures centre their chroma (JFIF); everything else unlabelled follows H.264's default.
  default:
    return full && frame.format == AV_PIX_FMT_YUVJ420P ? ZIMG_CHROMA_CENTER : ZIMG_CHROMA_LEFT;
  }
}

bool isFull(const AVFrame& frame) {
  return isRgb(frame) || frame.color_range == AVCOL_RANGE_JPEG || frame.format == AV_PIX_FMT_YUVJ420P ||
         frame.format == AV_PIX_FMT_YUVJ422P || frame.format == AV_PIX_FMT_YUVJ444P;
}

AVPixelFormat formatOf(PictureForm form) {
  return form == PictureForm::Yuv420   ? AV_PIX_FMT_YUV420P
         : form == PictureForm::Yuv444 ? AV_PIX_FMT_YUV444P
                                       : AV_PIX_FMT_GBRP;
}

/// FFmpeg's plane for zimg's plane p: RGB is kept as G, B, R.
int planeOf(bool rgb, int p) {
  constexpr int kGbr[3] = {2, 0, 1};
  return rgb ? kGbr[p] : p;
}

/// A picture as zimg reads it. One of odd size has its last column and line of luma once more, so that all chroma
/// samples are whole; the region that is read ends where the picture does.
Result<Frame> evenFrame(const Frame& frame) {
  auto planar = planarFrame(frame);
  if (!planar) return planar;
  const AVFrame& f = **planar;
  const AVPixFmtDescriptor& d = *av_pix_fmt_desc_get(AVPixelFormat(f.format));
  const int overX = (AV_CEIL_RSHIFT(f.width, d.log2_chroma_w) << d.log2_chroma_w) - f.width;
  const int overY = (AV_CEIL_RSHIFT(f.height, d.log2_chroma_h) << d.log2_chroma_h) - f.height;
  if (overX == 0 && overY == 0) return planar;
  const auto whole = newFrame({f.width + overX, f.height + overY}, f.format);
  const int bytes = d.comp[0].depth > 8 ? 2 : 1;
  for (int p = 0; p < 3; ++p) {
    const bool chroma = p > 0 && !isRgb(f);
    const int width = chroma ? AV_CEIL_RSHIFT(f.width, d.log2_chroma_w) : f.width;
    const int height = chroma ? AV_CEIL_RSHIFT(f.height, d.log2_chroma_h) : f.height;
    const int wholeWidth = chroma ? whole->width >> d.log2_chroma_w : whole->width;
    const int wholeHeight = chroma ? whole->height >> d.log2_chroma_h : whole->height;
    for (int y = 0; y < wholeHeight; ++y) {
      const uint8_t* in = f.data[p] + ptrdiff_t(std::min(y, height - 1)) * f.linesize[p];
      uint8_t* out = whole->data[p] + ptrdiff_t(y) * whole->linesize[p];
      std::memcpy(out, in, size_t(width * bytes));
      for (int x = width; x < wholeWidth; ++x) std::memcpy(out + x * bytes, in + (width - 1) * bytes, size_t(bytes));
    }
  }
  av_frame_copy_props(whole.get(), &f);
  return Frame(whole);
}

} // namespace

struct Scaler::State {
  int width = 0;
  int height = 0;
  int format = 0;
  int labels[4] = {};
  PixelRect cut; ///< part of the source that the graph reads
  Size size;
  PictureForm form{};
  std::unique_ptr<zimg_filter_graph, GraphCloser> graph;
  std::unique_ptr<void, AlignedCloser> scratch;
  FramePool pool;
};

Scaler::Scaler(std::unique_ptr<State> state) : m_state(std::move(state)) {}
Scaler::Scaler(Scaler&&) noexcept = default;
Scaler& Scaler::operator=(Scaler&&) noexcept = default;
Scaler::~Scaler() = default;

Result<Scaler> Scaler::build(const Frame& like, const RectF& region, Size size, PictureForm form, Kernel kernel) {
  const auto planar = evenFrame(like);
  if (!planar) return tl::unexpected(planar.error());
  const AVFrame& f = **planar;
  constexpr double kSlack = 1e-6;
  if (region.width <= 0 || region.height <= 0 || region.x < -kSlack || region.y < -kSlack ||
      region.right() > like->width + kSlack || region.bottom() > like->height + kSlack || size.width < 1 ||
      size.height < 1)
    return fail(ErrorCode::InvalidArgument, say("the window lies outside the picture"));

  auto state = std::make_unique<State>();
  state->width = like->width;
  state->height = like->height;
  state->format = like->format;
  const int labels[4] = {like->colorspace, like->color_range, like->color_primaries, like->color_trc};
  std::copy(std::begin(labels), std::end(labels), state->labels);
  state->size = size;
  state->form = form;

  // zimg may filter whole rows before it drops columns: cut to the region and the kernel's reach around it.
  const double reachX = 4 * std::max(1.0, region.width / size.width) * 2 + 8;
  const double reachY = 4 * std::max(1.0, region.height / size.height) * 2 + 8;
  PixelRect& cut = state->cut;
  cut.x = std::max(0, int(std::floor((region.x - reachX) / kColumnStep)) * kColumnStep);
  cut.y = std::max(0, int(std::floor((region.y - reachY) / 4)) * 4);
  cut.width = std::min(f.width, int(std::ceil((region.right() + reachX) / 4)) * 4) - cut.x;
  cut.height = std::min(f.height, int(std::ceil((region.bottom() + reachY) / 4)) * 4) - cut.y;

  const AVPixFmtDescriptor& d = *av_pix_fmt_desc_get(AVPixelFormat(f.format));
  zimg_image_format in;
  zimg_image_format out;
  zimg_image_format_default(&in, ZIMG_API_VERSION);
  zimg_image_format_default(&out, ZIMG_API_VERSION);
  in.width = unsigned(cut.width);
  in.height = unsigned(cut.height);
  in.pixel_type = d.comp[0].depth > 8 ? ZIMG_PIXEL_WORD : ZIMG_PIXEL_BYTE;
  in.depth = unsigned(d.comp[0].depth);
  in.subsample_w = d.log2_chroma_w;
  in.subsample_h = d.log2_chroma_h;
  in.color_family = isRgb(f) ? ZIMG_COLOR_RGB : ZIMG_COLOR_YUV;
  in.matrix_coefficients = matrixOf(f);
  in.pixel_range = isFull(f) ? ZIMG_RANGE_FULL : ZIMG_RANGE_LIMITED;
  in.chroma_location = chromaOf(f, isFull(f));
  in.active_region.left = region.x - cut.x;
  in.active_region.top = region.y - cut.y;
  in.active_region.width = region.width;
  in.active_region.height = region.height;
  out.width = unsigned(size.width);
  out.height = unsigned(size.height);
  out.pixel_type = ZIMG_PIXEL_BYTE;
  out.subsample_w = out.subsample_h = form == PictureForm::Yuv420 ? 1 : 0;
  out.color_family = form == PictureForm::Rgb ? ZIMG_COLOR_RGB : ZIMG_COLOR_YUV;
  out.matrix_coefficients = form == PictureForm::Rgb ? ZIMG_MATRIX_RGB : ZIMG_MATRIX_BT709;
  out.pixel_range = form == PictureForm::Rgb ? ZIMG_RANGE_FULL : ZIMG_RANGE_LIMITED;
  out.chroma_location = ZIMG_CHROMA_LEFT;

  // Wide-gamut and HDR labels need a conversion in linear light; ordinary SDR keeps its code values.
  const bool wide = f.color_primaries == AVCOL_PRI_BT2020 || f.color_trc == AVCOL_TRC_SMPTE2084 ||
                    f.color_trc == AVCOL_TRC_ARIB_STD_B67;
  if (wide && !isRgb(f)) {
    in.color_primaries = ZIMG_PRIMARIES_BT2020;
    in.transfer_characteristics = f.color_trc == AVCOL_TRC_SMPTE2084      ? ZIMG_TRANSFER_ST2084
                                  : f.color_trc == AVCOL_TRC_ARIB_STD_B67 ? ZIMG_TRANSFER_ARIB_B67
                                                                          : ZIMG_TRANSFER_BT709;
    out.color_primaries = ZIMG_PRIMARIES_BT709;
    out.transfer_characteristics = ZIMG_TRANSFER_BT709;
  }

  zimg_graph_builder_params params;
  zimg_graph_builder_params_default(&params, ZIMG_API_VERSION);
  params.resample_filter = params.resample_filter_uv =
      kernel == Kernel::Sharp ? ZIMG_RESIZE_SPLINE36 : ZIMG_RESIZE_BICUBIC;
  if (kernel == Kernel::Smooth) {
    params.filter_param_a = params.filter_param_a_uv = 1; // B-spline
    params.filter_param_b = params.filter_param_b_uv = 0;
  }
  params.cpu_type = ZIMG_CPU_AUTO_64B;
  params.nominal_peak_luminance = 203; // reference white of HDR in SDR terms (ITU-R BT.2408)
  // Tables of one channel cannot hold HLG's system gamma, which goes by luminance (Rec. ITU-R BT.2100, Table 5).
  params.allow_approximate_gamma = f.color_trc != AVCOL_TRC_ARIB_STD_B67;

  state->graph.reset(zimg_filter_graph_build(&in, &out, &params));
  size_t bytes = 0;
  if (!state->graph || zimg_filter_graph_get_tmp_size(state->graph.get(), &bytes) != ZIMG_ERROR_SUCCESS) {
    char reason[256] = {};
    if (zimg_get_last_error(reason, sizeof reason) == ZIMG_ERROR_OUT_OF_MEMORY || reason[0] == 0)
      throw std::bad_alloc();
    return fail(ErrorCode::Unsupported, say("the picture cannot be scaled (%1)", reason));
  }
  state->scratch.reset(std::aligned_alloc(64, (bytes + 63) / 64 * 64 + 64));
  if (!state->scratch) throw std::bad_alloc();
  return Scaler(std::move(state));
}

bool Scaler::fits(const Frame& frame) const {
  const State& s = *m_state;
  return frame->width == s.width && frame->height == s.height && frame->format == s.format &&
         frame->colorspace == s.labels[0] && frame->color_range == s.labels[1] &&
         frame->color_primaries == s.labels[2] && frame->color_trc == s.labels[3];
}

Result<Frame> Scaler::run(const Frame& source) {
  State& s = *m_state;
  const auto planar = evenFrame(source);
  if (!planar) return planar;
  const AVFrame& f = **planar;
  const AVPixFmtDescriptor& d = *av_pix_fmt_desc_get(AVPixelFormat(f.format));
  const auto target =
      s.form == PictureForm::Yuv420 ? newCanvas(s.size, s.pool) : s.pool.frame(s.size, formatOf(s.form));
  if (s.form == PictureForm::Yuv444) {
    target->colorspace = AVCOL_SPC_BT709;
    target->color_range = AVCOL_RANGE_MPEG;
  }

  zimg_image_buffer_const in{};
  zimg_image_buffer out{};
  in.version = out.version = ZIMG_API_VERSION;
  const int bytes = d.comp[0].depth > 8 ? 2 : 1;
  for (int p = 0; p < 3; ++p) {
    const int from = planeOf(isRgb(f), p);
    const int to = planeOf(s.form == PictureForm::Rgb, p);
    const bool chroma = p > 0 && !isRgb(f);
    const int x = chroma ? s.cut.x >> d.log2_chroma_w : s.cut.x;
    const int y = chroma ? s.cut.y >> d.log2_chroma_h : s.cut.y;
    in.plane[p] = {f.data[from] + ptrdiff_t(y) * f.linesize[from] + ptrdiff_t(x) * bytes, f.linesize[from],
                   ZIMG_BUFFER_MAX};
    out.plane[p] = {target->data[to], target->linesize[to], ZIMG_BUFFER_MAX};
  }
  if (zimg_filter_graph_process(s.graph.get(), &in, &out, s.scratch.get(), nullptr, nullptr, nullptr, nullptr) !=
      ZIMG_ERROR_SUCCESS) {
    char reason[256] = {};
    zimg_get_last_error(reason, sizeof reason);
    return fail(ErrorCode::Decoder, say("scaling failed (%1)", reason));
  }
  return Frame(target);
}

} // namespace tromb
