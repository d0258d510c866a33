// SPDX-License-Identifier: GPL-3.0-or-later
#include "picture/Composer.h"

#include "colour/Light.h"
#include "media/Av.h"
#include "media/CanvasFrame.h"
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

/// Calls `work` with a sample of the type that a format is stored in.
template <typename Work> void withSamples(const CanvasFormat& format, Work work) {
  if (format.depth > 8)
    work(uint16_t());
  else
    work(uint8_t());
}

template <typename Sample> Sample* rowOf(const AVFrame& picture, int plane, int y) {
  return reinterpret_cast<Sample*>(picture.data[plane] + ptrdiff_t(y) * picture.linesize[plane]);
}

/// A rectangle of the canvas in the samples of a plane.
struct PlaneRect {
  int x, y, width, height;
  PlaneRect(const PixelRect& r, const CanvasFormat& format, int plane) {
    const int right = plane > 0 ? format.shiftX() : 0;
    const int down = plane > 0 ? format.shiftY() : 0;
    x = r.x >> right;
    y = r.y >> down;
    width = r.width >> right;
    height = r.height >> down;
  }
};

/// Turns a 4:4:4 picture left for right.
template <typename Sample> void mirror(AVFrame& picture) {
  for (int p = 0; p < 3; ++p)
    for (int y = 0; y < picture.height; ++y) {
      auto* row = rowOf<Sample>(picture, p, y);
      std::reverse(row, row + picture.width);
    }
}

/// Turns a 4:4:4 picture clockwise by 0, 90, 180 or 270 degrees.
template <typename Sample> std::shared_ptr<AVFrame> turned(const Frame& source, int degrees) {
  const int w = source->width;
  const int h = source->height;
  const bool swap = degrees == 90 || degrees == 270;
  const auto target = newFrame(swap ? Size{h, w} : Size{w, h}, source->format);
  for (int p = 0; p < 3; ++p) {
    const auto* in = rowOf<const Sample>(*source, p, 0);
    const auto inStride = source->linesize[p] / ptrdiff_t(sizeof(Sample));
    for (int y = 0; y < target->height; ++y) {
      auto* out = rowOf<Sample>(*target, p, y);
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

void paste(AVFrame& canvas, const AVFrame& picture, const PixelRect& at, const CanvasFormat& format) {
  const size_t bytes = format.depth > 8 ? 2 : 1;
  for (int p = 0; p < 3; ++p) {
    const PlaneRect r(at, format, p);
    for (int y = 0; y < r.height; ++y)
      std::memcpy(rowOf<uint8_t>(canvas, p, y + r.y) + size_t(r.x) * bytes, rowOf<uint8_t>(picture, p, y),
                  size_t(r.width) * bytes);
  }
}

/// Lays a picture that is times its own opacity already on the canvas. `mask` tells that opacity by its luma, in a
/// depth of its own.
template <typename Sample>
void layOver(AVFrame& canvas, const AVFrame& picture, const AVFrame& mask, const PixelRect& at,
             const CanvasFormat& format, const CanvasFormat& maskFormat) {
  for (int p = 0; p < 3; ++p) {
    const PlaneRect r(at, format, p);
    const int right = p > 0 ? format.shiftX() : 0;
    const int down = p > 0 ? format.shiftY() : 0;
    const double none = p > 0 ? format.chromaNone() : format.lumaBlack();
    for (int y = 0; y < r.height; ++y) {
      const auto* in = rowOf<const Sample>(picture, p, y);
      auto* out = rowOf<Sample>(canvas, p, y + r.y) + r.x;
      const auto* opaque = rowOf<const Sample>(mask, 0, y << down);
      const auto* below = rowOf<const Sample>(mask, 0, (y << down) + down);
      for (int x = 0; x < r.width; ++x) {
        // Subsampled chroma lies between two lines, on the left of two columns.
        const double between = (double(opaque[x << right]) + below[x << right]) / 2;
        const double share = std::clamp((between - maskFormat.lumaBlack()) / maskFormat.lumaSpan(), 0.0, 1.0);
        out[x] = Sample(
            std::clamp<long>(std::lround(in[x] + (double(out[x]) - none) * (1 - share)), 0, long(format.mostCode())));
      }
    }
  }
}

/// A colour of the project, which is one of Rec. ITU-R BT.709, in the codes of a canvas.
Codes codesOfColour(const Colour& c, const CanvasFormat& format) {
  return codesOf(Rgb{c.red / 255.0, c.green / 255.0, c.blue / 255.0}, format);
}

/// Fills part of the canvas from one colour to another, along its height or its width.
template <typename Sample>
void fillSamples(AVFrame& canvas, const PixelRect& part, const CanvasFormat& format, const Codes& from, const Codes& to,
                 bool upright) {
  for (int p = 0; p < 3; ++p) {
    const PlaneRect r(part, format, p);
    const double first = from[size_t(p)];
    const double way = to[size_t(p)] - first;
    const auto at = [&](int i, int count) { return Sample(std::lround(first + way * (i + 0.5) / count)); };
    for (int y = 0; y < r.height; ++y) {
      auto* row = rowOf<Sample>(canvas, p, y + r.y) + r.x;
      if (upright)
        std::fill_n(row, r.width, at(y, r.height));
      else
        for (int x = 0; x < r.width; ++x) row[x] = at(x, r.width);
    }
  }
}

void fill(AVFrame& canvas, const PixelRect& part, const CanvasFormat& format, const Codes& from, const Codes& to,
          bool upright) {
  withSamples(format, [&](auto sample) { fillSamples<decltype(sample)>(canvas, part, format, from, to, upright); });
}

void fill(AVFrame& canvas, const PixelRect& part, const CanvasFormat& format, const Colour& colour) {
  const Codes codes = codesOfColour(colour, format);
  fill(canvas, part, format, codes, codes, true);
}

/// The mean of the first or last row (or column) of a small 4:4:4 picture whose depth is `small`, in codes of `format`.
Codes edgeMean(const AVFrame& picture, const CanvasFormat& small, const CanvasFormat& format, bool upright, bool last) {
  Codes mean{};
  const int count = upright ? picture.width : picture.height;
  const int at = last ? (upright ? picture.height : picture.width) - 1 : 0;
  withSamples(small, [&](auto sample) {
    for (int p = 0; p < 3; ++p)
      for (int i = 0; i < count; ++i)
        mean[size_t(p)] += rowOf<const decltype(sample)>(picture, p, upright ? at : i)[upright ? i : at];
  });
  for (double& m : mean) m = m / count * format.step() / small.step();
  return mean;
}

template <typename Sample>
void pasteDimmed(AVFrame& canvas, const AVFrame& picture, const PixelRect& at, const CanvasFormat& format) {
  std::vector<Sample> table(size_t(format.mostCode()) + 1);
  for (int p = 0; p < 3; ++p) {
    const double none = p > 0 ? format.chromaNone() : format.lumaBlack();
    const double keep = p > 0 ? kBackdropColour : kBackdropLight;
    for (size_t v = 0; v < table.size(); ++v)
      table[v] = Sample(std::clamp(none + (double(v) - none) * keep + 0.5, 0.0, double(format.mostCode())));
    const PlaneRect r(at, format, p);
    for (int y = 0; y < r.height; ++y) {
      const auto* in = rowOf<const Sample>(picture, p, y);
      auto* out = rowOf<Sample>(canvas, p, y + r.y) + r.x;
      for (int x = 0; x < r.width; ++x) out[x] = table[in[x]];
    }
  }
}

} // namespace

CanvasFormat Composer::maskFormat() const {
  return onTheWay({m_format.depth, m_format.chroma, kRec709});
}

Status Composer::prepare(Chain& chain, const Placement& at, const Frame& source, const CanvasFormat& format) const {
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
  // Turned and blurred pictures pass through 4:4:4, so that chroma stays in its place.
  const CanvasFormat between = onTheWay(format).withChroma(Chroma::C444);
  auto first = Scaler::build(source, m_shape.toStored(at.window), stored, direct ? format : between, m_kernel);
  if (!first) return tl::unexpected(first.error());
  chain.push_back(std::move(*first));
  if (direct || at.kind == Kind::Gradient) return {};
  auto second =
      Scaler::build(described(upright, between), {0, 0, double(upright.width), double(upright.height)},
                    {at.canvas.width, at.canvas.height}, format, at.kind == Kind::Copy ? Kernel::Smooth : m_kernel);
  if (!second) return tl::unexpected(second.error());
  chain.push_back(std::move(*second));
  return {};
}

Result<Frame> Composer::drawn(Chain& chain, const Placement& at, const Frame& source,
                              const CanvasFormat& format) const {
  if (const Status ready = prepare(chain, at, source, format); !ready) return tl::unexpected(ready.error());
  auto picture = chain.front().run(source);
  if (picture && (m_shape.rotation() != 0 || m_shape.mirrored())) {
    withSamples(onTheWay(format), [&](auto sample) {
      const auto shown = turned<decltype(sample)>(*picture, m_shape.rotation());
      if (m_shape.mirrored()) mirror<decltype(sample)>(*shown);
      picture = shown;
    });
  }
  return !picture || chain.size() == 1 ? picture : chain.back().run(*picture);
}

Status Composer::drawInto(AVFrame& canvas, Layer& layer, const Frame& source, const Frame& mask) const {
  const Placement& at = layer.placement;
  if (at.kind == Placement::Kind::Colour) {
    fill(canvas, at.canvas, m_format, at.colour);
    return {};
  }
  if (at.kind == Placement::Kind::Still) {
    if (m_still)
      paste(canvas, *m_still, at.canvas, m_format);
    else
      fill(canvas, at.canvas, m_format, {});
    return {};
  }
  const auto picture = drawn(layer.chain, at, source, m_format);
  if (!picture) return tl::unexpected(picture.error());
  switch (at.kind) {
  case Placement::Kind::Gradient: {
    const CanvasFormat small = onTheWay(m_format).withChroma(Chroma::C444);
    fill(canvas, at.canvas, m_format, edgeMean(**picture, small, m_format, at.upright, false),
         edgeMean(**picture, small, m_format, at.upright, true), at.upright);
    break;
  }
  case Placement::Kind::Copy:
    withSamples(m_format, [&](auto sample) { pasteDimmed<decltype(sample)>(canvas, **picture, at.canvas, m_format); });
    break;
  default:
    if (!mask) {
      paste(canvas, **picture, at.canvas, m_format);
      break;
    }
    const auto opaque = drawn(layer.mask, at, mask, maskFormat());
    if (!opaque) return tl::unexpected(opaque.error());
    withSamples(m_format, [&](auto sample) {
      layOver<decltype(sample)>(canvas, **picture, **opaque, at.canvas, m_format, maskFormat());
    });
  }
  return {};
}

Status Composer::setStill(const Frame& picture, const PictureShape& shape) {
  auto filled = Composer(shape, m_canvas, m_format, m_kernel).compose(picture, place(shape, m_canvas, Framing()));
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
    auto found = opacity(source, m_format.depth > 8);
    if (!found) return found;
    mask = std::move(*found);
  }
  if (!mask && !m_layers.empty() && m_layers.back().placement.canvas == whole && !m_layers.back().placement.isGround())
    return drawn(m_layers.back().chain, m_layers.back().placement, source, m_format); // nothing under it is seen

  const auto canvas = newCanvas(m_canvas, m_format, m_pool);
  if (m_layers.empty() || !m_layers.front().placement.isGround() || m_layers.front().placement.canvas != whole)
    fill(*canvas, whole, m_format, {});
  for (Layer& layer : m_layers)
    if (const Status done = drawInto(*canvas, layer, source, mask); !done) return tl::unexpected(done.error());
  return Frame(canvas);
}

} // namespace tromb
