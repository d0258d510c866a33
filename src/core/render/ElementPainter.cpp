// SPDX-License-Identifier: GPL-3.0-or-later
#include "render/ElementPainter.h"

#include "geometry/LegalSize.h"
#include "media/Av.h"
#include "picture/PictureSource.h"

#include <algorithm>
#include <cmath>
#include <opencv2/imgproc.hpp>

namespace tromb {
namespace {

/// A picture in four bytes a pixel, colours times how opaque they are.
Result<cv::Mat> pixelsOf(const Frame& frame, const std::string& path) {
  const av::Handle<SwsContext> context(sws_getContext(
      frame->width, frame->height, AVPixelFormat(frame->format), frame->width, frame->height, AV_PIX_FMT_BGRA,
      SWS_BICUBIC | SWS_ACCURATE_RND | SWS_FULL_CHR_H_INT | SWS_FULL_CHR_H_INP, nullptr, nullptr, nullptr));
  if (!context)
    return fail(ErrorCode::Unsupported, say("its pixels cannot be laid over others"), path, say("Save it as PNG"));
  cv::Mat pixels(frame->height, frame->width, CV_8UC4);
  uint8_t* const to[4] = {pixels.data, nullptr, nullptr, nullptr};
  const int strides[4] = {int(pixels.step), 0, 0, 0};
  sws_scale(context.get(), frame->data, frame->linesize, 0, frame->height, to, strides);
  for (int y = 0; y < pixels.rows; ++y)
    for (auto* p = pixels.ptr<cv::Vec4b>(y); p < pixels.ptr<cv::Vec4b>(y) + pixels.cols; ++p)
      for (int c = 0; c < 3; ++c) (*p)[c] = uint8_t(((*p)[c] * (*p)[3] + 127) / 255);
  return pixels;
}

} // namespace

Result<DrawnElement> drawElement(const Element& element, const std::optional<Reading>& picture,
                                 const std::string& deliverable, const ElementCanvas& canvas, Size drawn,
                                 std::stop_token stop) {
  if (!picture) return drawText(element, deliverable, canvas, drawn);
  auto source = PictureSource::open(*picture, {.threads = 1, .stop = std::move(stop)});
  if (!source) return tl::unexpected(source.error());
  const auto frame = source->frameAt(0);
  if (!frame) return tl::unexpected(frame.error());
  const auto pixels = pixelsOf(*frame, picture->file.path);
  if (!pixels) return tl::unexpected(pixels.error());
  const RectF lies = placedPicture({double(pixels->cols), double(pixels->rows)}, element, deliverable, canvas);
  const double scaleX = double(drawn.width) / canvas.shown.width;
  const double scaleY = double(drawn.height) / canvas.shown.height;
  const auto at = [](double edge, double scale) { return int(std::lround(edge * scale)); };
  DrawnElement made;
  made.at = {at(lies.x, scaleX), at(lies.y, scaleY), 0, 0};
  made.at.width = std::max(1, at(lies.right(), scaleX) - made.at.x);
  made.at.height = std::max(1, at(lies.bottom(), scaleY) - made.at.y);
  if (made.at.width > kLargestSide || made.at.height > kLargestSide)
    return fail(ErrorCode::InvalidArgument, say("a picture that lies over the shots is larger than any canvas"),
                picture->file.path, say("Make it smaller"));
  made.bytes.resize(size_t(made.at.width) * size_t(made.at.height) * 4);
  cv::Mat scaled(made.at.height, made.at.width, CV_8UC4, made.bytes.data());
  cv::resize(*pixels, scaled, scaled.size(), 0, 0, made.at.width < pixels->cols ? cv::INTER_AREA : cv::INTER_CUBIC);
  return made;
}

Result<Frame> ElementPainter::paint(int64_t n, Frame canvas) {
  std::map<const PlanElement*, std::shared_ptr<const Overlay>> seen;
  std::shared_ptr<AVFrame> own;
  for (const PlanElement& element : m_plan.elements()) {
    const double opacity = element.opacity(n, m_plan.rate());
    if (opacity <= 0) continue;
    const auto known = m_drawn.find(&element);
    std::shared_ptr<const Overlay> overlay;
    if (known != m_drawn.end()) {
      overlay = known->second;
    } else {
      const auto made =
          drawElement(element.element, element.picture, m_plan.framedAs(), m_plan.elementCanvas(), m_canvas, m_stop);
      if (!made) return tl::unexpected(made.error());
      if (!made->bytes.empty())
        overlay = std::make_shared<const Overlay>(made->bytes.data(), made->at, m_canvas, m_plan.format());
    }
    seen[&element] = overlay;
    if (!overlay) continue;
    if (!own) {
      if (canvas.use_count() == 1 && av_frame_is_writable(const_cast<AVFrame*>(canvas.get())) > 0) {
        own = std::const_pointer_cast<AVFrame>(std::move(canvas));
      } else {
        own = newFrame({canvas->width, canvas->height}, canvas->format);
        av_frame_copy(own.get(), canvas.get());
        av_frame_copy_props(own.get(), canvas.get());
      }
    }
    overlay->layOn(*own, opacity);
  }
  m_drawn = std::move(seen);
  return own ? Frame(std::move(own)) : canvas;
}

} // namespace tromb
