// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/SubjectTracker.h"

#include "picture/PictureSource.h"
#include "render/Pictures.h"

#include <algorithm>
#include <cmath>
#include <dlib/image_processing.h>
#include <dlib/opencv/cv_image.h>
#include <opencv2/imgproc.hpp>
#include <optional>

namespace tromb {
namespace {

constexpr int kUsualSide = 480; ///< of the picture that is searched; more where the subject is small
constexpr int kMostSide = 1440;
constexpr double kLeastPixels = 28;   ///< of the subject's shorter side in that picture
constexpr int64_t kBlock = 100;       ///< frames kept in memory to be run through backwards
constexpr double kLeastVisible = 0.5; ///< of the box, within the picture
constexpr double kClear = 0.92;       ///< correlation of colours with the subject's: all of it is seen
constexpr double kAlike = 0.7;        ///< … it is seen
constexpr double kUnlike = 0.4;       ///< … it is hidden, or something else is followed
constexpr double kLearn = 0.06;       ///< of its colours, a frame
constexpr double kFoundAgain = 0.62;  ///< correlation of the picture with that of the subject seen last
constexpr int kHiddenFrames = 40;     ///< so many after another, and it is lost
constexpr int kSteady = 10;           ///< frames by which its speed is taken

// Of the correlation filters (M. Danelljan and others, Accurate Scale Estimation for Robust Visual Tracking, 2014),
// tried on the ways of the tests and on people walking.
constexpr unsigned long kFilter = 7; ///< power of two of its side
constexpr unsigned long kScales = 4; ///< power of two of how many are compared
constexpr unsigned long kScaleSide = 23;
constexpr double kScaleStep = 1.02;
constexpr double kRegular = 0.001;
constexpr double kLearnPlace = 0.08;
constexpr double kLearnScale = 0.01;

cv::Mat pictureOf(const ScreenPicture& drawn) {
  const cv::Mat wrapped(drawn.size.height, drawn.size.width, CV_8UC4, const_cast<uint8_t*>(drawn.bytes.data()));
  cv::Mat picture;
  cv::cvtColor(wrapped, picture, cv::COLOR_BGRA2BGR);
  return picture;
}

cv::Mat coloursOf(const cv::Mat& picture, const cv::Rect& box) {
  // Only the middle of the box is used, so that the background counts little.
  const cv::Rect middle(box.x + box.width / 6, box.y + box.height / 6, std::max(1, box.width * 2 / 3),
                        std::max(1, box.height * 2 / 3));
  const cv::Rect inside = middle & cv::Rect(0, 0, picture.cols, picture.rows);
  if (inside.empty()) return {};
  const int channels[] = {0, 1, 2};
  const int bins[] = {8, 8, 8};
  const float range[] = {0, 256};
  const float* ranges[] = {range, range, range};
  const cv::Mat part(picture, inside);
  cv::Mat counts;
  cv::calcHist(&part, 1, channels, {}, counts, 3, bins, ranges);
  return counts;
}

/// Follows a subject in one direction of time, frame by frame, until it is lost. While it is hidden it is looked for
/// where it would be by then, and its path in between is taken as straight.
class OneWay {
public:
  OneWay(const cv::Mat& picture, const cv::Rect& box)
      : m_colours(coloursOf(picture, box)), m_patch(picture(box).clone()), m_ways{{box, 0}} {
    see(picture, box);
  }

  /// Returns false when the subject is lost; `points` then ends where it was last seen.
  bool go(const cv::Mat& picture, int64_t frame, std::vector<TrackPoint>& points) {
    ++m_frame;
    cv::Rect box;
    const cv::Rect whole(0, 0, picture.cols, picture.rows);
    bool seen = false;
    if (m_tracker) {
      // Looked for where it would be at the speed it has: far from there the tracker overshoots a little, at each
      // frame.
      const dlib::drectangle before = m_tracker->get_position();
      m_tracker->update(dlib::cv_image<dlib::bgr_pixel>(picture), dlib::translate_rect(before, m_speed));
      const dlib::drectangle there = m_tracker->get_position();
      m_speed = dlib::dcenter(there) - dlib::dcenter(before);
      box = cv::Rect(int(std::lround(there.left())), int(std::lround(there.top())), int(std::lround(there.width())),
                     int(std::lround(there.height())));
      seen = box.area() > 0;
      if (seen && double((box & whole).area()) < kLeastVisible * box.area()) return drop(points);
    } else {
      seen = foundAgain(picture, box);
    }
    const double alike = seen ? likeness(picture, box) : 0;
    const bool leaves = seen && (box & whole) != box; // so only a part of it is visible
    if (seen && alike > (leaves ? kUnlike : kAlike)) {
      if (!m_tracker) {
        fill(picture, box, points);
        see(picture, box);
      }
      m_hidden = 0;
    } else {
      ++m_hidden;
      if (alike < kUnlike) m_tracker.reset();
    }
    if (seen && !leaves && alike > kClear) {
      m_ways.push_back({box, m_frame});
      m_patch = picture(box).clone();
      cv::addWeighted(m_colours, 1 - kLearn, coloursOf(picture, box), kLearn, 0, m_colours);
    }
    points.push_back(pointOf(picture, seen ? box : m_ways.back().box, frame));
    return m_hidden < kHiddenFrames || drop(points);
  }

  /// Drops the places that were guessed since the subject was last seen.
  bool drop(std::vector<TrackPoint>& points) {
    points.resize(points.size() - std::min(points.size(), size_t(m_hidden)));
    m_hidden = 0;
    return false;
  }

private:
  struct Seen { ///< clearly
    cv::Rect box;
    int frame = 0;
  };

  void see(const cv::Mat& picture, const cv::Rect& box) {
    m_speed = {};
    m_tracker.emplace(kFilter, kScales, kScaleSide, kRegular, kLearnPlace, kRegular, kLearnScale, kScaleStep);
    m_tracker->start_track(dlib::cv_image<dlib::bgr_pixel>(picture),
                           dlib::drectangle(box.x, box.y, box.x + box.width - 1, box.y + box.height - 1));
  }

  [[nodiscard]] double likeness(const cv::Mat& picture, const cv::Rect& box) const {
    const cv::Mat colours = coloursOf(picture, box);
    return colours.empty() ? 0 : cv::compareHist(m_colours, colours, cv::HISTCMP_CORREL);
  }

  static TrackPoint pointOf(const cv::Mat& picture, const cv::Rect& box, int64_t frame) {
    return {frame,
            {double(box.x) / picture.cols, double(box.y) / picture.rows, double(box.width) / picture.cols,
             double(box.height) / picture.rows}};
  }

  /// Searches for the best match around the place that its last speed predicts.
  [[nodiscard]] bool foundAgain(const cv::Mat& picture, cv::Rect& box) const {
    // Takes the speed from before it began to disappear, because the visible part lags behind then.
    const auto ago = [this](size_t count) -> const Seen& {
      return m_ways[m_ways.size() - std::min(m_ways.size(), count)];
    };
    const Seen& last = ago(kSteady / 2);
    const Seen& before = ago(kSteady * 2);
    const int frames = std::max(1, last.frame - before.frame);
    const cv::Point2d speed = cv::Point2d(last.box.tl() - before.box.tl()) / frames;
    const cv::Point2d now = cv::Point2d(last.box.tl()) + speed * (m_frame - last.frame);
    const double reach = (std::abs(speed.x) + std::abs(speed.y)) * (m_frame - last.frame) * 0.5;
    const int x = int(last.box.width * 0.7 + reach);
    const int y = int(last.box.height * 0.7 + reach);
    const cv::Rect area = cv::Rect(int(now.x) - x, int(now.y) - y, m_patch.cols + 2 * x, m_patch.rows + 2 * y) &
                          cv::Rect(0, 0, picture.cols, picture.rows);
    if (area.width < m_patch.cols || area.height < m_patch.rows) return false;
    // Compares coarse pictures only, because the subject may have turned meanwhile.
    const auto soft = [&](const cv::Mat& sharp) {
      cv::Mat blurred;
      cv::GaussianBlur(sharp, blurred, {}, std::max(1.0, std::min(m_patch.cols, m_patch.rows) / 5.0));
      return blurred;
    };
    cv::Mat scores;
    cv::matchTemplate(soft(picture(area)), soft(m_patch), scores, cv::TM_CCOEFF_NORMED);
    double best = 0;
    cv::Point at;
    cv::minMaxLoc(scores, nullptr, &best, nullptr, &at);
    box = {area.tl() + at, m_patch.size()};
    return best > kFoundAgain;
  }

  /// Replaces the places that were guessed while it was hidden by a straight line between the two sightings.
  void fill(const cv::Mat& picture, const cv::Rect& box, std::vector<TrackPoint>& points) const {
    const auto hidden = std::min(size_t(m_frame - m_ways.back().frame - 1), points.size());
    const RectF from = pointOf(picture, m_ways.back().box, 0).box;
    const RectF to = pointOf(picture, box, 0).box;
    for (size_t i = 0; i < hidden; ++i) {
      const double u = double(i + 1) / double(hidden + 1);
      const auto mix = [u](double a, double b) { return a + (b - a) * u; };
      points[points.size() - hidden + i].box = {mix(from.x, to.x), mix(from.y, to.y), mix(from.width, to.width),
                                                mix(from.height, to.height)};
    }
  }

  std::optional<dlib::correlation_tracker> m_tracker; ///< empty while it is hidden
  dlib::dpoint m_speed;                               ///< pixels a frame
  cv::Mat m_colours;
  cv::Mat m_patch; ///< what it looked like when it was seen clearly last
  std::vector<Seen> m_ways;
  int m_frame = 0;
  int m_hidden = 0;
};

} // namespace

Result<Track> followSubject(const Reading& reading, int64_t first, int64_t end, int64_t at, const RectF& box,
                            std::stop_token stop, const std::function<void(double)>& onFraction) try {
  const MediaInfo& media = reading.file;
  const PictureShape shape = reading.shape();
  const SizeF whole = shape.picture();
  const double longer = std::max(whole.width, whole.height);
  const double shorterSide = std::min(box.width * whole.width, box.height * whole.height) / longer;
  if (at < first || at >= end || shorterSide < kLeastBox || box.x < 0 || box.y < 0 || box.right() > 1 + 1e-9 ||
      box.bottom() > 1 + 1e-9)
    return fail(ErrorCode::InvalidArgument, say("the box to follow is too small or lies outside of the picture"),
                media.path, say("Draw it round the whole subject."));
  auto reader = PictureSource::open(reading);
  if (!reader) return tl::unexpected(reader.error());
  const int side = std::clamp(int(kLeastPixels / shorterSide), kUsualSide, kMostSide);
  ScreenComposer composer(shape, {side, side});
  const auto read = [&]() -> Result<std::pair<int64_t, cv::Mat>> {
    if (stop.stop_requested()) return fail(ErrorCode::Cancelled, say("following was stopped"), media.path);
    const auto next = reader->read();
    if (!next) return tl::unexpected(next.error());
    if (!next->frame) return std::pair(int64_t(-1), cv::Mat());
    const auto drawn = composer.draw(next->frame);
    if (!drawn) return tl::unexpected(drawn.error());
    return std::pair(next->number, pictureOf(*drawn));
  };
  const auto tell = [&](int64_t done) {
    if (onFraction) onFraction(double(done) / double(end - first));
  };

  if (const auto gone = reader->goTo(at); !gone) return tl::unexpected(gone.error());
  const auto start = read();
  if (!start) return tl::unexpected(start.error());
  const cv::Mat& picture = start->second;
  if (picture.empty()) return Track();
  // Both its corner and its size are rounded: it may reach a pixel over the edge.
  const cv::Rect cells =
      cv::Rect(int(std::lround(box.x * picture.cols)), int(std::lround(box.y * picture.rows)),
               int(std::lround(box.width * picture.cols)), int(std::lround(box.height * picture.rows))) &
      cv::Rect(0, 0, picture.cols, picture.rows);
  Track track;
  track.points.push_back({start->first, box});

  OneWay onwards(picture, cells);
  for (int64_t frame = start->first + 1; frame < end;) {
    const auto next = read();
    if (!next) return tl::unexpected(next.error());
    frame = next->first + 1;
    if (next->first < 0 || next->first >= end || !onwards.go(next->second, next->first, track.points)) break;
    tell(next->first - at);
  }
  onwards.drop(track.points);

  OneWay back(picture, cells);
  std::vector<TrackPoint> earlier;
  bool seen = true;
  for (int64_t until = start->first; seen && until > first;) {
    const int64_t from = std::max(first, until - kBlock);
    if (const auto gone = reader->goTo(from); !gone) return tl::unexpected(gone.error());
    std::vector<std::pair<int64_t, cv::Mat>> block;
    for (;;) {
      auto next = read();
      if (!next) return tl::unexpected(next.error());
      if (next->first < 0 || next->first >= until) break;
      block.push_back(std::move(*next));
    }
    for (auto each = block.rbegin(); seen && each != block.rend(); ++each) {
      if (stop.stop_requested()) return fail(ErrorCode::Cancelled, say("following was stopped"), media.path);
      seen = back.go(each->second, each->first, earlier);
      tell(end - each->first);
    }
    until = from;
  }
  back.drop(earlier);
  track.points.insert(track.points.begin(), earlier.rbegin(), earlier.rend());
  tell(end - first);
  return track;
} catch (const cv::Exception& fault) {
  return fail(ErrorCode::Decoder, say("its pictures cannot be searched (%1)", fault.what()), reading.file.path,
              say("Set the subject point by hand."));
}

} // namespace tromb
