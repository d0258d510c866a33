// SPDX-License-Identifier: GPL-3.0-or-later
#include "picture/Between.h"

#include "media/Av.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <opencv2/imgproc.hpp>
#include <opencv2/video/tracking.hpp>

extern "C" {
#include <libavutil/imgutils.h>
#include <libavutil/pixdesc.h>
}

namespace tromb {
namespace {

constexpr int kWhole = 1 << 15;  ///< shares of a mixture are counted in these
constexpr int kMotionSide = 960; ///< the longer side of the pictures in which motion is looked for
// Tried on the demo's clips and on cuts between them.
constexpr float kRests = 0.1F;        ///< pixels there: less is no motion, so that what rests stays as it is
constexpr float kAgree = 1.5F;        ///< pixels by which both directions may differ, and still mean the same point
constexpr float kAgreeShare = 0.1F;   ///< … of the way, where that is more
constexpr double kMostAstray = 0.5;   ///< share of points that are not found again: beyond it is a cut
constexpr double kMostUnlike = 32;    ///< mean difference of points and where they went, of 255: beyond it is a cut
constexpr float kUnsure = 1000;       ///< added to the difference of a point that is not found again
constexpr float kLeastWeight = 1e-3F; ///< of what is not seen in a picture, beside what is

using Flow = cv::Mat2f; ///< pixels to the right and down

/// One line of samples: out = a + (b − a)·share, rounded to the nearest.
template <typename Sample> void mixLine(const uint8_t* a, const uint8_t* b, uint8_t* out, int bytes, int share) {
  const auto* first = reinterpret_cast<const Sample*>(a);
  const auto* second = reinterpret_cast<const Sample*>(b);
  auto* to = reinterpret_cast<Sample*>(out);
  const int count = bytes / int(sizeof(Sample));
  for (int i = 0; i < count; ++i)
    to[i] = Sample((int64_t(first[i]) * (kWhole - share) + int64_t(second[i]) * share + kWhole / 2) / kWhole);
}

/// Bytes of a sample, 1 or 2; 0 where samples are no plain numbers of this machine.
int sampleBytes(const AVPixFmtDescriptor& kind) {
  constexpr auto kOther = AV_PIX_FMT_FLAG_PAL | AV_PIX_FMT_FLAG_BITSTREAM | AV_PIX_FMT_FLAG_HWACCEL |
                          AV_PIX_FMT_FLAG_FLOAT | AV_PIX_FMT_FLAG_BAYER;
  int bits = 0;
  for (int c = 0; c < kind.nb_components; ++c) bits = std::max(bits, kind.comp[c].depth + kind.comp[c].shift);
  if ((kind.flags & kOther) || bits > 16) return 0;
  if (bits > 8) return (kind.flags & AV_PIX_FMT_FLAG_BE) ? 0 : 2;
  for (int c = 0; c < kind.nb_components; ++c)
    if (kind.comp[c].depth != 8) return 0; // several samples in one byte
  return 1;
}

/// `share` of the second and the rest of the first.
Frame mixed(const Frame& first, const Frame& second, double share) {
  const auto kind = AVPixelFormat(first->format);
  const int sample = sampleBytes(*av_pix_fmt_desc_get(kind));
  const auto made = newFrame({first->width, first->height}, kind);
  av_frame_copy_props(made.get(), first.get());
  const int part = int(std::lround(share * kWhole));
  for (int plane = 0; plane < 4 && made->data[plane]; ++plane) {
    const int bytes = av_image_get_linesize(kind, first->width, plane);
    const bool chroma = plane == 1 || plane == 2;
    const int shift = chroma ? av_pix_fmt_desc_get(kind)->log2_chroma_h : 0;
    const int lines = -((-first->height) >> shift);
    for (int y = 0; y < lines; ++y) {
      const auto line = [&](const AVFrame& frame) { return frame.data[plane] + ptrdiff_t(y) * frame.linesize[plane]; };
      (sample == 1 ? mixLine<uint8_t> : mixLine<uint16_t>)(line(*first), line(*second), line(*made), bytes, part);
    }
  }
  return made;
}

/// A plane of a picture, as a matrix over its samples.
cv::Mat planeOf(const AVFrame& frame, int plane) {
  const auto kind = AVPixelFormat(frame.format);
  const AVPixFmtDescriptor& about = *av_pix_fmt_desc_get(kind);
  const int sample = sampleBytes(about);
  const bool chroma = plane == 1 || plane == 2;
  const int lines = chroma ? AV_CEIL_RSHIFT(frame.height, about.log2_chroma_h) : frame.height;
  int channels = 1;
  for (int c = 0; c < about.nb_components; ++c)
    if (about.comp[c].plane == plane) channels = std::max(channels, about.comp[c].step / sample);
  const int across = av_image_get_linesize(kind, frame.width, plane) / sample / channels;
  return {lines, across, CV_MAKETYPE(sample == 1 ? CV_8U : CV_16U, channels), frame.data[plane],
          size_t(frame.linesize[plane])};
}

/// The brightness of a picture in 8 bits, small enough to look for motion.
cv::Mat1b brightness(const AVFrame& frame) {
  const AVComponentDescriptor& luma = av_pix_fmt_desc_get(AVPixelFormat(frame.format))->comp[0];
  cv::Mat plane = planeOf(frame, luma.plane);
  const double scale = std::min(1.0, double(kMotionSide) / std::max(plane.cols, plane.rows));
  const cv::Size size(std::max(1, int(std::lround(plane.cols * scale))),
                      std::max(1, int(std::lround(plane.rows * scale))));
  cv::Mat small;
  if (size == plane.size())
    small = plane;
  else
    cv::resize(plane, small, size, 0, 0, cv::INTER_AREA);
  if (small.channels() > 1) cv::extractChannel(small, small, std::min(1, small.channels() - 1)); // green of RGB
  cv::Mat1b bytes;
  small.convertTo(bytes, CV_8U, 1.0 / double(1 << (luma.depth + luma.shift - 8)));
  return bytes;
}

float length(const cv::Vec2f& way) {
  return std::sqrt(way[0] * way[0] + way[1] * way[1]);
}

/// The value at a place between points; the nearest one outside.
template <typename Value> Value sampled(const cv::Mat_<Value>& of, float x, float y) {
  const int column = int(std::clamp(x, 0.0F, float(of.cols - 1)) + 0.5F);
  const int row = int(std::clamp(y, 0.0F, float(of.rows - 1)) + 0.5F);
  return of(row, column);
}

/// How good each point of `from` is found again in `to`: its difference in brightness, and kUnsure where the way back
/// leads elsewhere.
cv::Mat1f faultsOf(const cv::Mat1b& from, const cv::Mat1b& to, const Flow& there, const Flow& back, double& astray,
                   double& unlike) {
  cv::Mat1f faults(from.size());
  int64_t lost = 0;
  double sum = 0;
  for (int y = 0; y < from.rows; ++y)
    for (int x = 0; x < from.cols; ++x) {
      const cv::Vec2f& way = there(y, x);
      const float toX = float(x) + way[0];
      const float toY = float(y) + way[1];
      const float apart = length(way + sampled(back, toX, toY));
      const float fault = std::abs(float(from(y, x)) - float(sampled(to, toX, toY)));
      const bool found = apart <= std::max(kAgree, kAgreeShare * length(way));
      lost += !found;
      sum += double(fault);
      faults(y, x) = fault + (found ? 0 : kUnsure);
    }
  astray = double(lost) / double(from.total());
  unlike = sum / double(from.total());
  return faults;
}

} // namespace

struct Between::Motion {
  Frame first;
  Frame second;
  Flow there; ///< from each point of the first to where it is in the second
  Flow back;
  cv::Mat1f faultsThere;
  cv::Mat1f faultsBack;
  bool cut = false;

  Motion(Frame a, Frame b) : first(std::move(a)), second(std::move(b)) {
    const cv::Mat1b small = brightness(*first);
    const cv::Mat1b next = brightness(*second);
    const auto search = cv::DISOpticalFlow::create(cv::DISOpticalFlow::PRESET_MEDIUM);
    // It needs some pixels to find anything.
    if (std::min(small.cols, small.rows) < 32) {
      cut = true;
      return;
    }
    search->calc(small, next, there);
    search->calc(next, small, back);
    std::array<double, 2> astray{};
    std::array<double, 2> unlike{};
    faultsThere = faultsOf(small, next, there, back, astray[0], unlike[0]);
    faultsBack = faultsOf(next, small, back, there, astray[1], unlike[1]);
    cut = std::min(astray[0], astray[1]) > kMostAstray || std::max(unlike[0], unlike[1]) > kMostUnlike;
  }

  /// The way that each point of the picture between goes from the first to the second.
  [[nodiscard]] Flow at(float share) const {
    Flow way(there.size(), cv::Vec2f(0, 0));
    cv::Mat1f fault(there.size(), 3 * kUnsure);
    const auto lay = [&](const Flow& flow, const cv::Mat1f& faults, float part, float sign) {
      for (int y = 0; y < flow.rows; ++y)
        for (int x = 0; x < flow.cols; ++x) {
          const cv::Vec2f& goes = flow(y, x);
          const int left = int(std::floor(float(x) + part * goes[0]));
          const int top = int(std::floor(float(y) + part * goes[1]));
          for (int row = std::max(0, top); row <= std::min(flow.rows - 1, top + 1); ++row)
            for (int column = std::max(0, left); column <= std::min(flow.cols - 1, left + 1); ++column)
              if (faults(y, x) < fault(row, column)) {
                fault(row, column) = faults(y, x);
                way(row, column) = sign * goes;
              }
        }
    };
    lay(there, faultsThere, share, 1);
    lay(back, faultsBack, 1 - share, -1);
    // Where nothing came to lie, as what lies around it, from the outside in.
    cv::Mat1f known(way.size());
    for (int y = 0; y < way.rows; ++y)
      for (int x = 0; x < way.cols; ++x) {
        known(y, x) = fault(y, x) < 3 * kUnsure ? 1.0F : 0.0F;
        if (length(way(y, x)) < kRests) way(y, x) = {0, 0};
      }
    while (cv::countNonZero(known) < int(known.total())) {
      cv::Mat2f sums;
      cv::Mat1f counts;
      cv::Mat2f laid = way.clone();
      for (int y = 0; y < way.rows; ++y)
        for (int x = 0; x < way.cols; ++x) laid(y, x) *= known(y, x);
      cv::blur(laid, sums, {3, 3});
      cv::blur(known, counts, {3, 3});
      for (int y = 0; y < way.rows; ++y)
        for (int x = 0; x < way.cols; ++x)
          if (known(y, x) == 0 && counts(y, x) > 0.05F) {
            way(y, x) = sums(y, x) / counts(y, x);
            known(y, x) = 1;
          }
    }
    return way;
  }

  [[nodiscard]] Frame picture(float share) const {
    const Flow way = at(share);
    // A point that is seen in a picture goes the same way there.
    cv::Mat1f ofSecond(way.size());
    Flow fromFirst(way.size());
    Flow fromSecond(way.size());
    for (int y = 0; y < way.rows; ++y)
      for (int x = 0; x < way.cols; ++x) {
        const cv::Vec2f& goes = way(y, x);
        fromFirst(y, x) = -share * goes;
        fromSecond(y, x) = (1 - share) * goes;
        const auto seen = [&](const Flow& flow, const cv::Vec2f& off, float sign) {
          const float toX = float(x) + off[0];
          const float toY = float(y) + off[1];
          if (toX < -0.5F || toY < -0.5F || toX > float(way.cols) - 0.5F || toY > float(way.rows) - 0.5F)
            return kLeastWeight;
          const float apart = length(sign * sampled(flow, toX, toY) - goes) / kAgree;
          const float unlike = apart * apart;
          return 1 / (1 + unlike + unlike * unlike / 2) + kLeastWeight;
        };
        const float a = (1 - share) * seen(there, fromFirst(y, x), 1);
        const float b = share * seen(back, fromSecond(y, x), -1);
        ofSecond(y, x) = b / (a + b);
      }
    const auto kind = AVPixelFormat(first->format);
    const auto made = newFrame({first->width, first->height}, kind);
    av_frame_copy_props(made.get(), first.get());
    const AVPixFmtDescriptor& about = *av_pix_fmt_desc_get(kind);
    const int most = (1 << (about.comp[0].depth + about.comp[0].shift)) - 1;
    for (int plane = 0; plane < 4 && made->data[plane]; ++plane) {
      cv::Mat to = planeOf(*made, plane);
      const cv::Mat a = moved(planeOf(*first, plane), fromFirst);
      const cv::Mat b = moved(planeOf(*second, plane), fromSecond);
      cv::Mat1f weight;
      cv::resize(ofSecond, weight, to.size(), 0, 0, cv::INTER_LINEAR);
      if (to.depth() == CV_8U)
        blend<uint8_t>(a, b, weight, to, most);
      else
        blend<uint16_t>(a, b, weight, to, most);
    }
    return made;
  }

private:
  /// The samples of a plane, each from the place that lies `off` its own.
  static cv::Mat moved(const cv::Mat& plane, const Flow& off) {
    Flow from;
    cv::resize(off, from, plane.size(), 0, 0, cv::INTER_LINEAR);
    const float across = float(plane.cols) / float(off.cols);
    const float down = float(plane.rows) / float(off.rows);
    for (int y = 0; y < from.rows; ++y)
      for (int x = 0; x < from.cols; ++x) {
        cv::Vec2f& place = from(y, x);
        place = {float(x) + across * place[0], float(y) + down * place[1]};
      }
    cv::Mat samples;
    cv::remap(plane, samples, from, {}, cv::INTER_CUBIC, cv::BORDER_REPLICATE);
    return samples;
  }

  template <typename Sample>
  static void blend(const cv::Mat& a, const cv::Mat& b, const cv::Mat1f& second, cv::Mat& to, int most) {
    const int channels = to.channels();
    for (int y = 0; y < to.rows; ++y) {
      const auto* one = a.ptr<Sample>(y);
      const auto* other = b.ptr<Sample>(y);
      auto* out = to.ptr<Sample>(y);
      for (int x = 0; x < to.cols; ++x) {
        const int share = int(second(y, x) * kWhole + 0.5F);
        for (int c = 0; c < channels; ++c, ++one, ++other, ++out)
          *out = Sample(
              std::min(most, int((int64_t(*one) * (kWhole - share) + int64_t(*other) * share + kWhole / 2) / kWhole)));
      }
    }
  }
};

Between::Between() = default;
Between::Between(Between&&) noexcept = default;
Between& Between::operator=(Between&&) noexcept = default;
Between::~Between() = default;

Result<Frame> Between::picture(const Frame& first, const Frame& second, const ShownFrames& shown) {
  if (shown.nextShare <= 0 || first == second) return first;
  const auto kind = AVPixelFormat(first->format);
  const AVPixFmtDescriptor& about = *av_pix_fmt_desc_get(kind);
  bool plain = sampleBytes(about) != 0;
  // Where channels lie between each other in other steps, they have no common place.
  for (int c = 0; shown.interpolated && c < about.nb_components; ++c)
    for (int other = 0; other < c; ++other)
      plain = plain && (about.comp[c].plane != about.comp[other].plane || about.comp[c].step == about.comp[other].step);
  if (!plain || second->format != first->format || second->width != first->width || second->height != first->height)
    return fail(ErrorCode::Unsupported,
                shown.interpolated
                    ? say("between pictures of this kind none can be made (%1)", av_get_pix_fmt_name(kind))
                    : say("pictures of this kind cannot be mixed (%1)", av_get_pix_fmt_name(kind)),
                {}, say("Let the shot keep its time instead"));
  if (!shown.interpolated) return mixed(first, second, shown.nextShare);
  if (!m_motion || m_motion->first != first || m_motion->second != second)
    m_motion = std::make_unique<Motion>(first, second);
  if (m_motion->cut) return shown.nextShare > 0.5 ? second : first;
  return m_motion->picture(float(shown.nextShare));
}

} // namespace tromb
