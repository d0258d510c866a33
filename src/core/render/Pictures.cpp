// SPDX-License-Identifier: GPL-3.0-or-later
#include "render/Pictures.h"

#include "io/AtomicFile.h"
#include "media/Av.h"
#include "media/Frame.h"
#include "picture/PlanarFrame.h"

#include <algorithm>
#include <cmath>
#include <filesystem>

namespace tromb {
namespace {

/// Planar G, B, R to bytes in the order `order` (indices into R, G, B; −1 = 255).
std::vector<uint8_t> interleaved(const AVFrame& gbr, std::initializer_list<int> order) {
  constexpr int kPlaneOf[3] = {2, 0, 1};
  std::vector<uint8_t> bytes(size_t(gbr.width) * size_t(gbr.height) * order.size());
  uint8_t* out = bytes.data();
  for (int y = 0; y < gbr.height; ++y)
    for (int x = 0; x < gbr.width; ++x)
      for (const int c : order)
        *out++ = c < 0 ? 255 : gbr.data[kPlaneOf[c]][ptrdiff_t(y) * gbr.linesize[kPlaneOf[c]] + x];
  return bytes;
}

Result<Frame> toRgb(const Frame& picture, const RectF& region, Size size, int depth = 8,
                    Kernel kernel = Kernel::Sharp) {
  auto scaler = Scaler::build(picture, region, size, rgbFormat(depth), kernel);
  if (!scaler) return tl::unexpected(scaler.error());
  return scaler->run(picture);
}

Size screenSize(const PictureShape& shape, Size most) {
  const SizeF whole = shape.picture();
  const double scale = std::min({1.0, most.width / whole.width, most.height / whole.height});
  const auto even = [scale](double length) { return std::max(2, int(std::lround(length * scale / 2)) * 2); };
  return {even(whole.width), even(whole.height)};
}

} // namespace

Status giveStill(Composer& composer, const PlanPiece& piece) {
  if (!piece.still) return {};
  auto reader = PictureSource::open(piece.still->reading);
  if (!reader) return tl::unexpected(reader.error());
  const auto picture = reader->frameAt(0);
  if (!picture) return tl::unexpected(picture.error());
  Status given = composer.setStill(*picture, piece.still->shape);
  if (!given) given.error().path = piece.still->reading.file.path;
  return given;
}

Result<Composer> composerFor(const PlanPiece& piece) {
  Composer composer(piece.shape, piece.canvas, piece.format);
  if (const Status given = giveStill(composer, piece); !given) return tl::unexpected(given.error());
  return composer;
}

Result<PictureSource> sourceFor(const PlanPiece& piece, std::stop_token stop) {
  return PictureSource::open(piece.reading, {.stop = std::move(stop)}, piece.frames.time().reversed());
}

Result<Frame> PlanPictures::at(int64_t n) {
  const Plan::At at = m_plan.at(n);
  if (at.piece != m_piece) {
    m_piece = nullptr;
    auto source = sourceFor(*at.piece, m_stop);
    if (!source) return tl::unexpected(source.error());
    auto composer = composerFor(*at.piece);
    if (!composer) return tl::unexpected(composer.error());
    m_source.emplace(std::move(*source));
    m_composer.emplace(std::move(*composer));
    m_piece = at.piece;
  }
  const auto picture = m_source->shown(at.shown);
  if (!picture) return tl::unexpected(picture.error());
  auto canvas = m_composer->compose(picture->frame, at.piece->placements(at.frame, m_plan.rate()));
  return canvas ? m_painter.paint(n, std::move(*canvas)) : canvas;
}

Result<Frame> renderFrame(const Plan& plan, int64_t n) {
  return PlanPictures(plan).at(n);
}

Result<ScreenPicture> toScreen(const Frame& picture, Size most) {
  const double scale = std::min(double(most.width) / picture->width, double(most.height) / picture->height);
  const auto side = [scale](int pixels) { return std::max(2, int(std::lround(pixels * scale))); };
  const Size size{side(picture->width), side(picture->height)};
  const auto rgb = toRgb(picture, {0, 0, double(picture->width), double(picture->height)}, size);
  if (!rgb) return tl::unexpected(rgb.error());
  return ScreenPicture{size, interleaved(**rgb, {2, 1, 0, -1}), false};
}

Result<ScreenPicture> toScreen(const Frame& picture) {
  return toScreen(picture, {picture->width, picture->height});
}

Result<ScreenPicture> resampled(const uint8_t* bytes, ptrdiff_t stride, Size size, const RectF& part, Size to,
                                Kernel kernel) {
  constexpr int kPlaneOf[3] = {1, 0, 2}; // blue, green, red
  const auto planar = newFrame(size, AV_PIX_FMT_GBRP);
  for (int y = 0; y < size.height; ++y)
    for (int c = 0; c < 3; ++c) {
      const uint8_t* in = bytes + y * stride + c;
      uint8_t* out = planar->data[kPlaneOf[c]] + ptrdiff_t(y) * planar->linesize[kPlaneOf[c]];
      for (int x = 0; x < size.width; ++x) out[x] = in[4 * x];
    }
  const auto rgb = toRgb(planar, part, to, 8, kernel);
  if (!rgb) return tl::unexpected(rgb.error());
  return ScreenPicture{to, interleaved(**rgb, {2, 1, 0, -1}), false};
}

/// What swscale needs to turn ordinary video into bytes for the screen.
struct ScreenConverter::Quick {
  av::Handle<SwsContext> context;
  Size size;
  int matrix = 0;
};

ScreenConverter::ScreenConverter() = default;
ScreenConverter::ScreenConverter(ScreenConverter&&) noexcept = default;
ScreenConverter& ScreenConverter::operator=(ScreenConverter&&) noexcept = default;
ScreenConverter::~ScreenConverter() = default;

Result<ScreenPicture> ScreenConverter::convert(const Frame& canvas) {
  const AVFrame& f = *canvas;
  const bool ordinary = f.format == AV_PIX_FMT_YUV420P && f.color_range != AVCOL_RANGE_JPEG &&
                        (f.colorspace == AVCOL_SPC_BT709 || f.colorspace == AVCOL_SPC_SMPTE170M) &&
                        f.color_trc != AVCOL_TRC_SMPTE2084 && f.color_trc != AVCOL_TRC_ARIB_STD_B67 &&
                        f.color_primaries != AVCOL_PRI_BT2020;
  if (!ordinary) return toScreen(canvas);
  const Size size{f.width, f.height};
  if (!m_quick || m_quick->size != size || m_quick->matrix != f.colorspace) {
    auto quick = std::make_unique<Quick>();
    quick->size = size;
    quick->matrix = f.colorspace;
    quick->context.reset(sws_getContext(f.width, f.height, AV_PIX_FMT_YUV420P, f.width, f.height, AV_PIX_FMT_BGR0,
                                        SWS_BILINEAR | SWS_ACCURATE_RND, nullptr, nullptr, nullptr));
    constexpr int kWhole = 1 << 16;
    // Assumes BT.601 unless it is told.
    if (!quick->context ||
        sws_setColorspaceDetails(quick->context.get(),
                                 sws_getCoefficients(f.colorspace == AVCOL_SPC_BT709 ? SWS_CS_ITU709 : SWS_CS_ITU601),
                                 0, sws_getCoefficients(SWS_CS_DEFAULT), 1, 0, kWhole, kWhole) < 0)
      return toScreen(canvas);
    m_quick = std::move(quick);
  }
  ScreenPicture picture{size, std::vector<uint8_t>(size_t(size.width) * size_t(size.height) * 4), false};
  uint8_t* const to[4] = {picture.bytes.data(), nullptr, nullptr, nullptr};
  const int strides[4] = {size.width * 4, 0, 0, 0};
  sws_scale(m_quick->context.get(), f.data, f.linesize, 0, f.height, to, strides);
  return picture;
}

ScreenComposer::ScreenComposer(const PictureShape& shape, Size most, Kernel kernel)
    : m_size(screenSize(shape, most)), m_transparent(shape.transparent()), m_quick(kernel == Kernel::Quick),
      m_composer(shape, m_size, {}, kernel),
      m_opacity(shape.opaque(), m_size, {}), m_whole{{{0, 0, shape.picture().width, shape.picture().height},
                                                      {0, 0, m_size.width, m_size.height},
                                                      Placement::Kind::Picture,
                                                      {},
                                                      true}} {}

Result<ScreenPicture> ScreenComposer::draw(const Frame& picture) {
  const auto canvas = m_composer.compose(picture, m_whole);
  if (!canvas) return tl::unexpected(canvas.error());
  auto drawn = m_quick ? m_converter.convert(*canvas) : toScreen(*canvas, m_size);
  const auto mask = m_transparent ? opacity(picture) : Result<Frame>(Frame());
  if (!drawn || !mask || !*mask) return mask ? drawn : tl::unexpected(mask.error());
  const auto opaque = m_opacity.compose(*mask, m_whole);
  if (!opaque) return tl::unexpected(opaque.error());
  drawn->transparent = true;
  const Size size{std::min(drawn->size.width, (*opaque)->width), std::min(drawn->size.height, (*opaque)->height)};
  for (int y = 0; y < size.height; ++y)
    for (int x = 0; x < size.width; ++x) {
      uint8_t* pixel = drawn->bytes.data() + 4 * (size_t(y) * size_t(drawn->size.width) + size_t(x));
      const int luma = (*opaque)->data[0][ptrdiff_t(y) * (*opaque)->linesize[0] + x];
      pixel[3] = uint8_t(std::clamp((luma - 16) * 255 / 219, 0, 255));
      for (int c = 0; c < 3; ++c) pixel[c] = std::min(pixel[c], pixel[3]);
    }
  return drawn;
}

Result<ScreenPicture> sourcePicture(const Reading& reading, int64_t frame, Size most, bool near) {
  auto reader = PictureSource::open(reading);
  if (!reader) return tl::unexpected(reader.error());
  const auto picture = near ? reader->near(frame) : reader->frameAt(frame);
  if (!picture) return tl::unexpected(picture.error());
  return ScreenComposer(reading.shape(), most).draw(*picture);
}

Result<std::vector<ScreenPicture>> sourceStrip(const Reading& reading, int count, Size most, std::stop_token stop) {
  auto reader = PictureSource::open(reading, {.threads = 1, .stop = stop});
  if (!reader) return tl::unexpected(reader.error());
  ScreenComposer composer(reading.shape(), most);
  std::vector<ScreenPicture> strip;
  const int pictures = reading.file.kind == MediaKind::Still ? 1 : count;
  for (int i = 0; i < pictures && !stop.stop_requested(); ++i) {
    const int64_t frame = reading.file.video->clock.frameCount() * (2 * i + 1) / (2 * pictures);
    const auto picture = reader->near(frame);
    if (!picture) return tl::unexpected(picture.error());
    auto drawn = composer.draw(*picture);
    if (!drawn) return tl::unexpected(drawn.error());
    strip.push_back(std::move(*drawn));
  }
  return strip;
}

} // namespace tromb
