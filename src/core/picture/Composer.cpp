// SPDX-License-Identifier: GPL-3.0-or-later
#include "picture/Composer.h"

#include "media/Av.h"
#include "picture/Canvas.h"
#include "picture/PlanarFrame.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <cstring>

namespace tromb {
namespace {

constexpr int kBackdropShrink = 24; ///< a backdrop keeps 1 in 24 pixels: blurred beyond recognition of detail
constexpr double kBackdropLight = 0.5;
constexpr double kBackdropColour = 0.75;
constexpr int kEdgeSamples = 16; ///< a gradient's ends are the means of the outermost of so many rows

/// Turns an 8-bit 4:4:4 picture left for right.
void mirror(AVFrame& picture) {
  for (int p = 0; p < 3; ++p)
    for (int y = 0; y < picture.height; ++y) {
      uint8_t* row = picture.data[p] + ptrdiff_t(y) * picture.linesize[p];
      std::reverse(row, row + picture.width);
    }
}

/// Turns an 8-bit 4:4:4 picture clockwise by 0, 90, 180 or 270 degrees.
std::shared_ptr<AVFrame> turned(const Frame& source, int degrees) {
  const int w = source->width;
  const int h = source->height;
  const bool swap = degrees == 90 || degrees == 270;
  const auto target = newFrame(swap ? Size{h, w} : Size{w, h}, source->format);
  for (int p = 0; p < 3; ++p) {
    const uint8_t* in = source->data[p];
    const ptrdiff_t inStride = source->linesize[p];
    for (int y = 0; y < target->height; ++y) {
      uint8_t* out = target->data[p] + ptrdiff_t(y) * target->linesize[p];
      for (int x = 0; x < target->width; ++x)
        out[x] = degrees == 0     ? in[y * inStride + x]
                 : degrees == 90  ? in[(h - 1 - x) * inStride + y]
                 : degrees == 180 ? in[(h - 1 - y) * inStride + (w - 1 - x)]
                                  : in[x * inStride + (w - 1 - y)];
    }
  }
  av_frame_copy_props(target.get(), source.get());
  return target;
}

void paste(AVFrame& canvas, const AVFrame& picture, const PixelRect& at) {
  for (int p = 0; p < 3; ++p) {
    const int shift = p > 0 ? 1 : 0;
    for (int y = 0; y < at.height >> shift; ++y)
      std::memcpy(canvas.data[p] + ptrdiff_t(y + (at.y >> shift)) * canvas.linesize[p] + (at.x >> shift),
                  picture.data[p] + ptrdiff_t(y) * picture.linesize[p], size_t(at.width >> shift));
  }
}

/// Lays a picture that is times its own opacity already on the canvas. `mask` tells that opacity by its luma.
void layOver(AVFrame& canvas, const AVFrame& picture, const AVFrame& mask, const PixelRect& at) {
  for (int p = 0; p < 3; ++p) {
    const int shift = p > 0 ? 1 : 0;
    const int none = p > 0 ? 128 : 16;
    for (int y = 0; y < at.height >> shift; ++y) {
      const uint8_t* in = picture.data[p] + ptrdiff_t(y) * picture.linesize[p];
      uint8_t* out = canvas.data[p] + ptrdiff_t(y + (at.y >> shift)) * canvas.linesize[p] + (at.x >> shift);
      const uint8_t* opaque = mask.data[0] + (ptrdiff_t(y) << shift) * mask.linesize[0];
      for (int x = 0; x < at.width >> shift; ++x) {
        double share = opaque[x << shift];
        if (shift > 0) { // chroma lies between two lines, on the left of two columns
          const uint8_t* below = opaque + mask.linesize[0];
          share = (share + below[x << 1]) / 2;
        }
        share = std::clamp((share - 16) / 219, 0.0, 1.0);
        out[x] = uint8_t(std::clamp(std::lround(in[x] + (double(out[x]) - none) * (1 - share)), 0L, 255L));
      }
    }
  }
}

/// Y′CbCr of 8 bits.
using Triple = std::array<double, 3>;

/// Rec. ITU-R BT.709, limited range.
Triple fromRgb(const Colour& c) {
  const double y = (0.2126 * c.red + 0.7152 * c.green + 0.0722 * c.blue) / 255;
  return {16 + 219 * y, 128 + 224 * (c.blue / 255.0 - y) / 1.8556, 128 + 224 * (c.red / 255.0 - y) / 1.5748};
}

/// Fills part of the canvas from one colour to another, along its height or its width.
void fill(AVFrame& canvas, const PixelRect& part, const Triple& from, const Triple& to, bool upright) {
  for (size_t p = 0; p < 3; ++p) {
    const int shift = p == 0 ? 0 : 1;
    const int width = part.width >> shift;
    const int height = part.height >> shift;
    const auto at = [&](int i, int count) {
      return uint8_t(std::lround(from[p] + (to[p] - from[p]) * (i + 0.5) / count));
    };
    for (int y = 0; y < height; ++y) {
      uint8_t* row = canvas.data[p] + ptrdiff_t(y + (part.y >> shift)) * canvas.linesize[p] + (part.x >> shift);
      if (upright)
        std::memset(row, at(y, height), size_t(width));
      else
        for (int x = 0; x < width; ++x) row[x] = at(x, width);
    }
  }
}

/// The mean of the first or last row (or column) of a small 4:4:4 picture.
Triple edgeMean(const AVFrame& small, bool upright, bool last) {
  Triple mean{};
  const int count = upright ? small.width : small.height;
  const int at = last ? (upright ? small.height : small.width) - 1 : 0;
  for (size_t p = 0; p < 3; ++p) {
    for (int i = 0; i < count; ++i)
      mean[p] += small.data[p][upright ? at * small.linesize[p] + i : i * small.linesize[p] + at];
    mean[p] /= count;
  }
  return mean;
}

void pasteDimmed(AVFrame& canvas, const AVFrame& picture, const PixelRect& at) {
  uint8_t table[2][256];
  for (int v = 0; v < 256; ++v) {
    table[0][v] = uint8_t(std::clamp(16 + (v - 16) * kBackdropLight + 0.5, 0.0, 255.0));
    table[1][v] = uint8_t(std::clamp(128 + (v - 128) * kBackdropColour + 0.5, 0.0, 255.0));
  }
  for (int p = 0; p < 3; ++p) {
    const int shift = p > 0 ? 1 : 0;
    for (int y = 0; y < at.height >> shift; ++y) {
      const uint8_t* in = picture.data[p] + ptrdiff_t(y) * picture.linesize[p];
      uint8_t* out = canvas.data[p] + ptrdiff_t(y + (at.y >> shift)) * canvas.linesize[p] + (at.x >> shift);
      for (int x = 0; x < at.width >> shift; ++x) out[x] = table[shift][in[x]];
    }
  }
}

} // namespace

Status Composer::prepare(Chain& chain, const Placement& at, const Frame& source) const {
  if (!chain.empty() && chain.front().fits(source)) return {};
  chain.clear();
  using Kind = Placement::Kind;
  const int rotation = m_shape.rotation();
  const bool swap = rotation == 90 || rotation == 270;
  Size upright{at.canvas.width, at.canvas.height};
  if (at.kind == Kind::Copy)
    upright = {std::max(16, upright.width / kBackdropShrink / 2 * 2),
               std::max(16, upright.height / kBackdropShrink / 2 * 2)};
  if (at.kind == Kind::Gradient) upright = {kEdgeSamples, kEdgeSamples};
  const Size stored = swap ? Size{upright.height, upright.width} : upright;
  const bool direct = rotation == 0 && !m_shape.mirrored() && at.kind == Kind::Picture;
  auto first =
      Scaler::build(source, m_shape.toStored(at.window), stored, direct ? PictureForm::Yuv420 : PictureForm::Yuv444);
  if (!first) return tl::unexpected(first.error());
  chain.push_back(std::move(*first));
  if (direct || at.kind == Kind::Gradient) return {};
  // Turned and blurred pictures pass through 4:4:4, so that chroma stays in its place.
  const Frame like = [&] {
    auto frame = newFrame(upright, AV_PIX_FMT_YUV444P);
    frame->colorspace = AVCOL_SPC_BT709;
    frame->color_range = AVCOL_RANGE_MPEG;
    return frame;
  }();
  auto second =
      Scaler::build(like, {0, 0, double(upright.width), double(upright.height)}, {at.canvas.width, at.canvas.height},
                    PictureForm::Yuv420, at.kind == Kind::Copy ? Kernel::Smooth : Kernel::Sharp);
  if (!second) return tl::unexpected(second.error());
  chain.push_back(std::move(*second));
  return {};
}

Result<Frame> Composer::drawn(Chain& chain, const Placement& at, const Frame& source) const {
  if (const Status ready = prepare(chain, at, source); !ready) return tl::unexpected(ready.error());
  auto picture = chain.front().run(source);
  if (picture && (m_shape.rotation() != 0 || m_shape.mirrored())) {
    const auto shown = turned(*picture, m_shape.rotation());
    if (m_shape.mirrored()) mirror(*shown);
    picture = shown;
  }
  return !picture || chain.size() == 1 ? picture : chain.back().run(*picture);
}

Status Composer::drawInto(AVFrame& canvas, Layer& layer, const Frame& source, const Frame& mask) const {
  const Placement& at = layer.placement;
  if (at.kind == Placement::Kind::Colour) {
    fill(canvas, at.canvas, fromRgb(at.colour), fromRgb(at.colour), true);
    return {};
  }
  if (at.kind == Placement::Kind::Still) {
    if (m_still)
      paste(canvas, *m_still, at.canvas);
    else
      fill(canvas, at.canvas, fromRgb({}), fromRgb({}), true);
    return {};
  }
  const auto picture = drawn(layer.chain, at, source);
  if (!picture) return tl::unexpected(picture.error());
  switch (at.kind) {
  case Placement::Kind::Gradient:
    fill(canvas, at.canvas, edgeMean(**picture, at.upright, false), edgeMean(**picture, at.upright, true), at.upright);
    break;
  case Placement::Kind::Copy:
    pasteDimmed(canvas, **picture, at.canvas);
    break;
  default:
    if (!mask) {
      paste(canvas, **picture, at.canvas);
      break;
    }
    const auto opaque = drawn(layer.mask, at, mask);
    if (!opaque) return tl::unexpected(opaque.error());
    layOver(canvas, **picture, **opaque, at.canvas);
  }
  return {};
}

Status Composer::setStill(const Frame& picture, const PictureShape& shape) {
  auto filled = Composer(shape, m_canvas).compose(picture, place(shape, m_canvas, Framing()));
  if (!filled) return tl::unexpected(filled.error());
  m_still = std::move(*filled);
  return {};
}

Result<Frame> Composer::compose(const Frame& source, const std::vector<Placement>& placements) {
  m_layers.resize(placements.size());
  for (size_t i = 0; i < placements.size(); ++i)
    if (m_layers[i].placement != placements[i]) m_layers[i] = {placements[i], {}, {}};
  const PixelRect whole{0, 0, m_canvas.width, m_canvas.height};
  Frame mask;
  if (m_shape.transparent()) {
    auto found = opacity(source);
    if (!found) return found;
    mask = std::move(*found);
  }
  if (!mask && !m_layers.empty() && m_layers.back().placement.canvas == whole && !m_layers.back().placement.isGround())
    return drawn(m_layers.back().chain, m_layers.back().placement, source); // nothing under it is seen

  const auto canvas = newCanvas(m_canvas, m_pool);
  if (m_layers.empty() || !m_layers.front().placement.isGround() || m_layers.front().placement.canvas != whole)
    fill(*canvas, whole, fromRgb({}), fromRgb({}), true);
  for (Layer& layer : m_layers)
    if (const Status done = drawInto(*canvas, layer, source, mask); !done) return tl::unexpected(done.error());
  return Frame(canvas);
}

} // namespace tromb
