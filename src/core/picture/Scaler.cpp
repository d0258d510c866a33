// SPDX-License-Identifier: GPL-3.0-or-later
#include "picture/Scaler.h"

#include "colour/Light.h"
#include "media/Av.h"
#include "media/CanvasFrame.h"
#include "media/Frame.h"
#include "picture/ColourMap.h"
#include "picture/PlanarFrame.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdlib>
#include <cstring>
#include <optional>
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

/// FFmpeg's plane for zimg's plane p: RGB is kept as G, B, R.
int planeOf(bool rgb, int p) {
  constexpr int kGbr[3] = {2, 0, 1};
  return rgb ? kGbr[p] : p;
}

/// A picture as zimg reads it. One of odd size has its last column and line of luma once more, so that all chroma
/// samples are whole; the region that is read ends where the picture does.
Result<Frame> evenFrame(const Frame& frame, bool deep) {
  auto planar = planarFrame(frame, deep);
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

/// The colour system of a picture by its labels: BT.709 stands for all ordinary SDR, whose code values are kept.
ColourTags systemOf(const AVFrame& frame) {
  ColourTags system = kRec709;
  if (frame.color_trc == AVCOL_TRC_SMPTE2084 || frame.color_trc == AVCOL_TRC_ARIB_STD_B67) {
    system.transfer = frame.color_trc;
    system.primaries = kPrimaries2020;
  } else if (frame.color_primaries == AVCOL_PRI_BT2020) {
    system.primaries = kPrimaries2020;
  }
  return system;
}

/// True if a picture is brighter than a canvas can show, so that its tones have to be mapped.
bool exceeds(const ColourTags& from, const ColourTags& to) {
  return isHdr(from) && (!isHdr(to) || (from.transfer == kTransferPq && to.transfer == kTransferHlg));
}

/// The luminance that a picture is mastered for, in cd/m², by its metadata (SMPTE ST 2086, CTA-861.3). Where it has
/// none, that of an HLG display, for which most is mastered (common practice, no published source).
double masteredPeak(const AVFrame& frame) {
  double peak = 0;
  if (const AVFrameSideData* data = av_frame_get_side_data(&frame, AV_FRAME_DATA_CONTENT_LIGHT_LEVEL))
    peak = reinterpret_cast<const AVContentLightMetadata*>(data->data)->MaxCLL;
  if (const AVFrameSideData* data = av_frame_get_side_data(&frame, AV_FRAME_DATA_MASTERING_DISPLAY_METADATA);
      data && peak <= 0)
    if (const auto* display = reinterpret_cast<const AVMasteringDisplayMetadata*>(data->data); display->has_luminance)
      peak = av_q2d(display->max_luminance);
  return peak > kReferenceWhite && peak <= kPqPeak ? peak : kHlgPeak;
}

/// A picture as zimg describes it.
zimg_image_format formatOf(const AVFrame& f) {
  const AVPixFmtDescriptor& d = *av_pix_fmt_desc_get(AVPixelFormat(f.format));
  zimg_image_format format;
  zimg_image_format_default(&format, ZIMG_API_VERSION);
  format.width = unsigned(f.width);
  format.height = unsigned(f.height);
  format.pixel_type = d.comp[0].depth > 8 ? ZIMG_PIXEL_WORD : ZIMG_PIXEL_BYTE;
  format.depth = unsigned(d.comp[0].depth);
  format.subsample_w = d.log2_chroma_w;
  format.subsample_h = d.log2_chroma_h;
  format.color_family = isRgb(f) ? ZIMG_COLOR_RGB : ZIMG_COLOR_YUV;
  format.matrix_coefficients = matrixOf(f);
  format.pixel_range = isFull(f) ? ZIMG_RANGE_FULL : ZIMG_RANGE_LIMITED;
  format.chroma_location = chromaOf(f, isFull(f));
  return format;
}

zimg_transfer_characteristics_e transferOf(const ColourTags& tags) {
  return tags.transfer == kTransferPq    ? ZIMG_TRANSFER_ST2084
         : tags.transfer == kTransferHlg ? ZIMG_TRANSFER_ARIB_B67
                                         : ZIMG_TRANSFER_BT709;
}

/// One graph of zimg: from pictures like one to pictures of a canvas format.
class Graph {
public:
  /// Reads `region` of what lies in `cut`. Errors: Unsupported.
  [[nodiscard]] Status build(const AVFrame& like, const PixelRect& cut, const RectF& region, Size size,
                             const CanvasFormat& format, Kernel kernel) {
    m_cut = cut;
    m_size = size;
    m_format = format;
    zimg_image_format in = formatOf(like);
    in.width = unsigned(cut.width);
    in.height = unsigned(cut.height);
    in.active_region.left = region.x - cut.x;
    in.active_region.top = region.y - cut.y;
    in.active_region.width = region.width;
    in.active_region.height = region.height;
    const auto target = described(size, format);
    zimg_image_format out = formatOf(*target);

    // Wide-gamut and HDR labels need a conversion in linear light; ordinary SDR keeps its code values.
    const ColourTags from = systemOf(like);
    const ColourTags to = systemOf(*target);
    if (from != to) {
      const auto primaries = [](const ColourTags& tags) {
        return tags.primaries == kPrimaries2020 ? ZIMG_PRIMARIES_BT2020 : ZIMG_PRIMARIES_BT709;
      };
      in.color_primaries = primaries(from);
      in.transfer_characteristics = transferOf(from);
      out.color_primaries = primaries(to);
      out.transfer_characteristics = transferOf(to);
    }
    zimg_graph_builder_params params;
    zimg_graph_builder_params_default(&params, ZIMG_API_VERSION);
    params.resample_filter = params.resample_filter_uv = kernel == Kernel::Sharp   ? ZIMG_RESIZE_SPLINE36
                                                         : kernel == Kernel::Quick ? ZIMG_RESIZE_BILINEAR
                                                                                   : ZIMG_RESIZE_BICUBIC;
    if (kernel == Kernel::Smooth) {
      params.filter_param_a = params.filter_param_a_uv = 1; // B-spline
      params.filter_param_b = params.filter_param_b_uv = 0;
    }
    params.cpu_type = ZIMG_CPU_AUTO_64B;
    params.nominal_peak_luminance = kReferenceWhite;
    // Tables of one channel cannot hold HLG's system gamma, which goes by luminance (Rec. ITU-R BT.2100, Table 5).
    params.allow_approximate_gamma = from.transfer != kTransferHlg && to.transfer != kTransferHlg;

    m_graph.reset(zimg_filter_graph_build(&in, &out, &params));
    size_t bytes = 0;
    if (!m_graph || zimg_filter_graph_get_tmp_size(m_graph.get(), &bytes) != ZIMG_ERROR_SUCCESS) {
      char reason[256] = {};
      if (zimg_get_last_error(reason, sizeof reason) == ZIMG_ERROR_OUT_OF_MEMORY || reason[0] == 0)
        throw std::bad_alloc();
      return fail(ErrorCode::Unsupported, say("the picture cannot be scaled (%1)", reason));
    }
    m_scratch.reset(std::aligned_alloc(64, (bytes + 63) / 64 * 64 + 64));
    if (!m_scratch) throw std::bad_alloc();
    return {};
  }

  /// Errors: Decoder.
  [[nodiscard]] Result<std::shared_ptr<AVFrame>> run(const AVFrame& f) {
    const AVPixFmtDescriptor& d = *av_pix_fmt_desc_get(AVPixelFormat(f.format));
    auto target = newCanvas(m_size, m_format, m_pool);
    zimg_image_buffer_const in{};
    zimg_image_buffer out{};
    in.version = out.version = ZIMG_API_VERSION;
    const int bytes = d.comp[0].depth > 8 ? 2 : 1;
    for (int p = 0; p < 3; ++p) {
      const int from = planeOf(isRgb(f), p);
      const int to = planeOf(m_format.isRgb(), p);
      const bool chroma = p > 0 && !isRgb(f);
      const int x = chroma ? m_cut.x >> d.log2_chroma_w : m_cut.x;
      const int y = chroma ? m_cut.y >> d.log2_chroma_h : m_cut.y;
      in.plane[p] = {f.data[from] + ptrdiff_t(y) * f.linesize[from] + ptrdiff_t(x) * bytes, f.linesize[from],
                     ZIMG_BUFFER_MAX};
      out.plane[p] = {target->data[to], target->linesize[to], ZIMG_BUFFER_MAX};
    }
    if (zimg_filter_graph_process(m_graph.get(), &in, &out, m_scratch.get(), nullptr, nullptr, nullptr, nullptr) ==
        ZIMG_ERROR_SUCCESS)
      return target;
    char reason[256] = {};
    zimg_get_last_error(reason, sizeof reason);
    return fail(ErrorCode::Decoder, say("scaling failed (%1)", reason));
  }

private:
  PixelRect m_cut; ///< part of the source that the graph reads
  Size m_size;
  CanvasFormat m_format;
  std::unique_ptr<zimg_filter_graph, GraphCloser> m_graph;
  std::unique_ptr<void, AlignedCloser> m_scratch;
  FramePool m_pool;
};

/// Scales high dynamic range first, in its own colours, then maps these, and stores them as the canvas has them.
struct Mapping {
  ColourMap map;
  Graph store;
};

} // namespace

struct Scaler::State {
  int width = 0;
  int height = 0;
  int format = 0;
  std::array<int, 5> labels{};
  double peak = 0;
  bool deep = false;
  Graph scale;
  std::optional<Mapping> mapping;

  static std::array<int, 5> labelsOf(const AVFrame& f) {
    return {f.colorspace, f.color_range, f.color_primaries, f.color_trc, f.chroma_location};
  }
};

Scaler::Scaler(std::unique_ptr<State> state) : m_state(std::move(state)) {}
Scaler::Scaler(Scaler&&) noexcept = default;
Scaler& Scaler::operator=(Scaler&&) noexcept = default;
Scaler::~Scaler() = default;

Result<Scaler> Scaler::build(const Frame& like, const RectF& region, Size size, const CanvasFormat& format,
                             Kernel kernel) {
  const bool deep = format.depth > 8;
  const auto planar = evenFrame(like, deep);
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
  state->labels = State::labelsOf(*like);
  state->deep = deep;

  // zimg may filter whole rows before it drops columns: cut to the region and the kernel's reach around it.
  const double reachX = 4 * std::max(1.0, region.width / size.width) * 2 + 8;
  const double reachY = 4 * std::max(1.0, region.height / size.height) * 2 + 8;
  PixelRect cut;
  cut.x = std::max(0, int(std::floor((region.x - reachX) / kColumnStep)) * kColumnStep);
  cut.y = std::max(0, int(std::floor((region.y - reachY) / 4)) * 4);
  cut.width = std::min(f.width, int(std::ceil((region.right() + reachX) / 4)) * 4) - cut.x;
  cut.height = std::min(f.height, int(std::ceil((region.bottom() + reachY) / 4)) * 4) - cut.y;

  const ColourTags from = systemOf(f);
  if (!exceeds(from, format.colour)) {
    if (const Status built = state->scale.build(f, cut, region, size, format, kernel); !built)
      return tl::unexpected(built.error());
    return Scaler(std::move(state));
  }
  constexpr int kMapDepth = 16;
  state->peak = masteredPeak(f);
  const CanvasFormat own{kMapDepth, Chroma::C444, {from.primaries, from.transfer, kMatrixRgb, true}};
  const CanvasFormat mapped{
      kMapDepth, Chroma::C444, {format.colour.primaries, format.colour.transfer, kMatrixRgb, true}};
  state->mapping.emplace(Mapping{ColourMap(own.colour, mapped.colour, state->peak), {}});
  if (const Status built = state->scale.build(f, cut, region, size, own, kernel); !built)
    return tl::unexpected(built.error());
  const auto between = described(size, mapped);
  const PixelRect whole{0, 0, size.width, size.height};
  if (const Status built = state->mapping->store.build(*between, whole, {0, 0, double(size.width), double(size.height)},
                                                       size, format, kernel);
      !built)
    return tl::unexpected(built.error());
  return Scaler(std::move(state));
}

bool Scaler::fits(const Frame& frame) const {
  const State& s = *m_state;
  return frame->width == s.width && frame->height == s.height && frame->format == s.format &&
         State::labelsOf(*frame) == s.labels && (!s.mapping || masteredPeak(*frame) == s.peak);
}

Result<Frame> Scaler::run(const Frame& source) {
  State& s = *m_state;
  const auto planar = evenFrame(source, s.deep);
  if (!planar) return planar;
  auto scaled = s.scale.run(**planar);
  if (!scaled) return tl::unexpected(scaled.error());
  if (!s.mapping) return Frame(std::move(*scaled));
  s.mapping->map.run(**scaled, **scaled);
  auto stored = s.mapping->store.run(**scaled);
  if (!stored) return tl::unexpected(stored.error());
  return Frame(std::move(*stored));
}

} // namespace tromb
