// SPDX-License-Identifier: GPL-3.0-or-later
#include "picture/Composer.h"

#include "media/Av.h"
#include "picture/PlanarFrame.h"

#include <algorithm>
#include <cstring>

namespace tromb {
namespace {

constexpr int kBackdropShrink = 24; ///< a backdrop keeps 1 in 24 pixels: blurred beyond recognition of detail
constexpr double kBackdropLight = 0.5;
constexpr double kBackdropColour = 0.75;

/// Turns an 8-bit 4:4:4 picture clockwise by 90, 180 or 270 degrees.
Frame turned(const Frame& source, int degrees) {
  const int w = source->width;
  const int h = source->height;
  const bool swap = degrees != 180;
  const auto target = newFrame(swap ? Size{h, w} : Size{w, h}, source->format);
  for (int p = 0; p < 3; ++p) {
    const uint8_t* in = source->data[p];
    const ptrdiff_t inStride = source->linesize[p];
    for (int y = 0; y < target->height; ++y) {
      uint8_t* out = target->data[p] + ptrdiff_t(y) * target->linesize[p];
      for (int x = 0; x < target->width; ++x)
        out[x] = degrees == 90    ? in[(h - 1 - x) * inStride + y]
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

void fillBlack(AVFrame& canvas) {
  for (int p = 0; p < 3; ++p)
    std::memset(canvas.data[p], p == 0 ? 16 : 128,
                size_t(canvas.linesize[p]) * size_t(p == 0 ? canvas.height : canvas.height / 2));
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

Composer::Composer(const PictureShape& shape, Size canvas, std::vector<Placement> placements)
    : m_shape(shape), m_canvas(canvas) {
  for (Placement& p : placements) m_layers.push_back({p, {}});
}

Status Composer::prepare(const Frame& source) {
  const int rotation = m_shape.rotation();
  for (Layer& layer : m_layers) {
    if (!layer.chain.empty() && layer.chain.front().fits(source)) continue;
    layer.chain.clear();
    const Placement& at = layer.placement;
    const bool swap = rotation == 90 || rotation == 270;
    Size upright{at.canvas.width, at.canvas.height};
    if (at.backdrop)
      upright = {std::max(16, upright.width / kBackdropShrink / 2 * 2),
                 std::max(16, upright.height / kBackdropShrink / 2 * 2)};
    const Size stored = swap ? Size{upright.height, upright.width} : upright;
    const bool direct = rotation == 0 && !at.backdrop;
    auto first =
        Scaler::build(source, m_shape.toStored(at.window), stored, direct ? PictureForm::Yuv420 : PictureForm::Yuv444);
    if (!first) return tl::unexpected(first.error());
    layer.chain.push_back(std::move(*first));
    if (direct) continue;
    // Turned and blurred pictures pass through 4:4:4, so that chroma stays in its place.
    const Frame like = [&] {
      auto frame = newFrame(upright, AV_PIX_FMT_YUV444P);
      frame->colorspace = AVCOL_SPC_BT709;
      frame->color_range = AVCOL_RANGE_MPEG;
      return frame;
    }();
    auto second =
        Scaler::build(like, {0, 0, double(upright.width), double(upright.height)}, {at.canvas.width, at.canvas.height},
                      PictureForm::Yuv420, at.backdrop ? Kernel::Smooth : Kernel::Sharp);
    if (!second) return tl::unexpected(second.error());
    layer.chain.push_back(std::move(*second));
  }
  return {};
}

Result<Frame> Composer::drawn(Layer& layer, const Frame& source) const {
  auto picture = layer.chain.front().run(source);
  if (!picture || layer.chain.size() == 1) return picture;
  const Frame upright = m_shape.rotation() == 0 ? *picture : turned(*picture, m_shape.rotation());
  return layer.chain.back().run(upright);
}

Result<Frame> Composer::compose(const Frame& source) {
  if (const Status ready = prepare(source); !ready) return tl::unexpected(ready.error());
  const PixelRect whole{0, 0, m_canvas.width, m_canvas.height};
  if (m_layers.size() == 1 && m_layers.front().placement.canvas == whole) return drawn(m_layers.front(), source);

  const auto canvas = newCanvas(m_canvas);
  fillBlack(*canvas);
  for (Layer& layer : m_layers) {
    const auto picture = drawn(layer, source);
    if (!picture) return picture;
    if (layer.placement.backdrop)
      pasteDimmed(*canvas, **picture, layer.placement.canvas);
    else
      paste(*canvas, **picture, layer.placement.canvas);
  }
  return Frame(canvas);
}

} // namespace tromb
