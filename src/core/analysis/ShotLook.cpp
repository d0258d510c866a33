// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/ShotLook.h"

#include "analysis/CutFinder.h"
#include "io/BoundedQueue.h"
#include "picture/PictureSource.h"
#include "render/Pictures.h"

#include <algorithm>
#include <array>
#include <atomic>
#include <cmath>
#include <dlib/image_processing/frontal_face_detector.h>
#include <dlib/opencv/cv_image.h>
#include <iterator>
#include <numeric>
#include <opencv2/imgproc.hpp>
#include <opencv2/video/tracking.hpp>
#include <optional>
#include <system_error>
#include <thread>

namespace tromb {
namespace {

constexpr double kGlancesASecond = 5;
constexpr size_t kReadAhead = 2;      ///< pictures that are read before they are looked at: whole ones
constexpr size_t kAhead = 6;          ///< … and those that are looked at before they are searched for faces
constexpr double kPixels = 640 * 360; ///< of the pictures that are looked at
constexpr int kSmallSide = 240;       ///< … in which motion is seen
constexpr int kWordsSide = 480;       ///< … and lettering
constexpr double kSearchEvery = 2;    ///< seconds after which faces are searched in the whole picture
constexpr double kSearchSeldom = 8;   ///< … at the most: where nothing new is seen, it is twice as long each time
constexpr double kFollowEvery = 0.6;  ///< … and round where they were
constexpr double kWordsEvery = 1;
constexpr double kDetected = 80;      ///< pixels that a face must have for the detector
constexpr double kSearchTimes = 2;    ///< … so that pictures are searched so much larger
constexpr double kBesideTimes = 1.5;  ///< … but less beside a face that has them: what is much smaller is far behind
constexpr double kFaceSearched = 100; ///< pixels that a known face has where it is followed
constexpr unsigned long kFollowLevels = 4; ///< … in so many sizes, each 5/6 of the one before
constexpr double kRoundFace = 0.9;         ///< of its size, on all sides
constexpr double kFaceThere = -0.15;       ///< the detector's score, for a known face to be there still
constexpr double kFaceNew = 0.15;          ///< … for a new one
// Motion, in pixels of the small picture between two glances; tried on drawn scenes with noise and on real ones.
constexpr float kMoves = 0.5F;
constexpr double kNoise = 4;           ///< times the middle residual that is motion
constexpr float kDiffers = 9;          ///< of 255, from what the camera's motion explains
constexpr double kLeastArea = 0.0008;  ///< of the picture
constexpr double kMostArea = 0.5;      ///< what is larger is the scene
constexpr double kTogether = 0.03;     ///< of the picture's width, between parts of one thing
constexpr double kSameWay = 0.5;       ///< … and how far their ways may differ
constexpr size_t kMostMoving = 6;      ///< at one moment
constexpr double kChangesMuch = 0.055; ///< mean difference, of 1, beyond which there may be a cut
constexpr int64_t kCutRound = 14;      ///< frames beside, in which a cut is looked for
constexpr int kEdited = 2;             ///< so many cuts make an edit, in which more are to come
constexpr double kStandsOutShare = 0.28;
constexpr double kCommon = 2.5; ///< times the middle value of a map counts as nothing
constexpr double kSure = 6;     ///< times what an even map holds there
constexpr double kEmpty = 7;    ///< of 255, between the darkest and the lightest part of a picture with nothing in it

/// A picture as it is seen, in blue, green and red.
cv::Mat colourOf(const ScreenPicture& drawn) {
  const cv::Mat wrapped(drawn.size.height, drawn.size.width, CV_8UC4, const_cast<uint8_t*>(drawn.bytes.data()));
  cv::Mat colour;
  cv::cvtColor(wrapped, colour, cv::COLOR_BGRA2BGR);
  return colour;
}
cv::Mat greyOf(const cv::Mat& colour) {
  cv::Mat grey;
  cv::cvtColor(colour, grey, cv::COLOR_BGR2GRAY);
  return grey;
}

cv::Mat smaller(const cv::Mat& picture, int side) {
  const double scale = double(side) / std::max(picture.cols, picture.rows);
  if (scale >= 1) return picture;
  cv::Mat made;
  cv::resize(picture, made, {std::max(8, int(picture.cols * scale)), std::max(8, int(picture.rows * scale))}, 0, 0,
             cv::INTER_AREA);
  return made;
}

RectF shareOf(const cv::Rect2d& box, cv::Size of) {
  return {box.x / of.width, box.y / of.height, box.width / of.width, box.height / of.height};
}

cv::Rect2d pixelsOf(const RectF& share, cv::Size of) {
  return {share.x * of.width, share.y * of.height, share.width * of.width, share.height * of.height};
}

double overlap(const RectF& a, const RectF& b) {
  const double w = std::min(a.x + a.width, b.x + b.width) - std::max(a.x, b.x);
  const double h = std::min(a.y + a.height, b.y + b.height) - std::max(a.y, b.y);
  return w > 0 && h > 0 ? w * h / std::min(a.width * a.height, b.width * b.height) : 0;
}

// ---- faces

/// The detector keeps state while it looks, so that each search has its own.
class FaceSearch {
public:
  /// The faces of a picture of which nothing is known. Where there are large ones, small ones are not looked for, which
  /// takes four times as long.
  [[nodiscard]] std::vector<Sight> searchFirst(const cv::Mat& grey) {
    std::vector<Sight> found;
    add(found, m_detector, grey, {0, 0}, 1, grey.size(), kFaceNew);
    return found.empty() ? search(grey, {}) : found;
  }
  /// The faces of a picture in which some are known, large and small.
  [[nodiscard]] std::vector<Sight> search(const cv::Mat& grey, const std::vector<Sight>& known) {
    const bool large = std::ranges::any_of(known, [&](const Sight& face) {
      return face.kind == Sight::Kind::Face && face.box.height * grey.rows >= kDetected;
    });
    const double times = large ? kBesideTimes : kSearchTimes;
    cv::Mat larger;
    cv::resize(grey, larger, {}, times, times, cv::INTER_LINEAR);
    std::vector<Sight> found;
    add(found, m_detector, larger, {0, 0}, times, grey.size(), kFaceNew);
    return found;
  }
  /// Those that were seen, where they are now.
  [[nodiscard]] std::vector<Sight> follow(const cv::Mat& grey, const std::vector<Sight>& before) {
    std::vector<Sight> found;
    for (const Sight& face : before) {
      if (face.kind != Sight::Kind::Face) continue;
      const double width = face.box.width * grey.cols;
      const double height = face.box.height * grey.rows;
      const cv::Rect round =
          cv::Rect(int(face.box.x * grey.cols - width * kRoundFace), int(face.box.y * grey.rows - height * kRoundFace),
                   int(width * (1 + 2 * kRoundFace)), int(height * (1 + 2 * kRoundFace))) &
          cv::Rect({0, 0}, grey.size());
      if (round.width < 8 || round.height < 8) continue;
      const double times = kFaceSearched / std::max(1.0, std::max(width, height));
      cv::Mat part;
      cv::resize(grey(round), part, {}, times, times, times > 1 ? cv::INTER_LINEAR : cv::INTER_AREA);
      add(found, m_follower, part, round.tl(), times, grey.size(), kFaceThere);
    }
    return found;
  }

private:
  using Detector = dlib::frontal_face_detector;
  static void add(std::vector<Sight>& found, Detector& detector, const cv::Mat& picture, cv::Point from, double times,
                  cv::Size whole, double least) {
    std::vector<dlib::rect_detection> faces;
    detector(dlib::cv_image<unsigned char>(picture), faces, least);
    for (const dlib::rect_detection& each : faces) {
      const dlib::rectangle& r = each.rect;
      Sight sight{Sight::Kind::Face,
                  shareOf({double(r.left()) / times + from.x, double(r.top()) / times + from.y,
                           double(r.width()) / times, double(r.height()) / times},
                          whole),
                  std::clamp(0.5 + each.detection_confidence / 2, 0.0, 1.0), 0};
      // Its five parts look to the front, the left, the right, and to the front leaning either way.
      if (each.weight_index == 1) sight.towards = -1;
      if (each.weight_index == 2) sight.towards = 1;
      const auto same = std::find_if(found.begin(), found.end(),
                                     [&](const Sight& other) { return overlap(other.box, sight.box) > 0.4; });
      if (same == found.end())
        found.push_back(sight);
      else if (same->strength < sight.strength)
        *same = sight;
    }
  }
  /// Unpacking the detector takes a third of a second.
  static const Detector& unpacked() {
    static const Detector detector = dlib::get_frontal_face_detector();
    return detector;
  }
  /// One that looks for faces of about one size.
  static const Detector& ofOneSize() {
    static const Detector detector = [] {
      Detector::image_scanner_type scanner;
      scanner.copy_configuration(unpacked().get_scanner());
      scanner.set_max_pyramid_levels(kFollowLevels);
      std::vector<Detector::feature_vector_type> weights;
      for (unsigned long i = 0; i < unpacked().num_detectors(); ++i) weights.push_back(unpacked().get_w(i));
      return Detector(scanner, unpacked().get_overlap_tester(), weights);
    }();
    return detector;
  }
  Detector m_detector = unpacked();
  Detector m_follower = ofOneSize();
};

// ---- motion

/// How the camera moves a scene: a point goes from p to p + m·p + t.
struct CameraMotion {
  double turn = 0; ///< and zoom: the two parts of a similarity
  double zoom = 0;
  double x = 0;
  double y = 0;
  [[nodiscard]] cv::Point2f at(cv::Point2f p) const {
    return {float(zoom * p.x - turn * p.y + x), float(turn * p.x + zoom * p.y + y)};
  }
};

double middleOf(std::vector<float>& values) {
  if (values.empty()) return 0;
  std::nth_element(values.begin(), values.begin() + ptrdiff_t(values.size() / 2), values.end());
  return double(values[values.size() / 2]);
}

/// The motion of most of a scene, by least squares in which what goes another way counts ever less.
CameraMotion cameraOf(const cv::Mat2f& flow, const cv::Mat& texture) {
  struct Point {
    cv::Point2f at;
    cv::Point2f way;
    double weight;
  };
  std::vector<Point> points;
  std::vector<float> across;
  std::vector<float> down;
  const cv::Point2f middle(float(flow.cols) / 2, float(flow.rows) / 2);
  for (int y = 4; y < flow.rows - 4; y += 5)
    for (int x = 4; x < flow.cols - 4; x += 5) {
      if (texture.at<uint8_t>(y, x) == 0) continue;
      const cv::Vec2f& f = flow(y, x);
      points.push_back({cv::Point2f(float(x), float(y)) - middle, {f[0], f[1]}, 1});
      across.push_back(f[0]);
      down.push_back(f[1]);
    }
  CameraMotion motion;
  if (points.size() < 12) return motion;
  motion.x = middleOf(across); // what most points say is where it begins
  motion.y = middleOf(down);
  for (int turn = 0; turn < 8; ++turn) {
    std::vector<float> off;
    for (const Point& p : points) off.push_back(float(cv::norm(p.way - motion.at(p.at))));
    std::vector<float> sorted = off;
    const double usual = std::max(0.15, 1.5 * middleOf(sorted));
    for (size_t i = 0; i < points.size(); ++i) {
      const double away = double(off[i]) / (2 * usual);
      points[i].weight = away > 1 ? 0 : (1 - away * away) * (1 - away * away);
    }
    cv::Matx44d a = cv::Matx44d::zeros();
    cv::Vec4d b(0, 0, 0, 0);
    for (const Point& p : points) {
      const std::array<cv::Vec4d, 2> rows{
          {{double(p.at.x), -double(p.at.y), 1, 0}, {double(p.at.y), double(p.at.x), 0, 1}}};
      for (int k = 0; k < 2; ++k) {
        a += p.weight * rows[size_t(k)] * rows[size_t(k)].t();
        b += p.weight * double(k == 0 ? p.way.x : p.way.y) * rows[size_t(k)];
      }
    }
    bool solved = false;
    const cv::Vec4d found = a.inv(cv::DECOMP_CHOLESKY, &solved) * b;
    if (!solved) break;
    motion = {found[1], found[0], found[2], found[3]};
  }
  return motion;
}

/// What moves against the scene in the later of two small pictures, `seconds` apart.
class MotionSearch {
public:
  std::vector<Sight> look(const cv::Mat& before, const cv::Mat& now, double seconds) {
    cv::Mat2f flow; // from now to where it was
    m_flow->calc(now, before, flow);
    cv::Mat slopesX;
    cv::Mat slopesY;
    cv::Sobel(now, slopesX, CV_16S, 1, 0);
    cv::Sobel(now, slopesY, CV_16S, 0, 1);
    cv::Mat texture = (cv::abs(slopesX) + cv::abs(slopesY)) > 40;
    cv::dilate(texture, texture, cv::Mat(), {-1, -1}, 2);
    const CameraMotion camera = cameraOf(flow, texture);
    const cv::Point2f middle(float(flow.cols) / 2, float(flow.rows) / 2);

    cv::Mat2f from(flow.size());
    cv::Mat1f apart(flow.size());
    std::vector<float> usual;
    for (int y = 0; y < flow.rows; ++y)
      for (int x = 0; x < flow.cols; ++x) {
        const cv::Point2f at{float(x), float(y)};
        const cv::Point2f way = camera.at(at - middle);
        from(y, x) = {at.x + way.x, at.y + way.y};
        apart(y, x) = float(cv::norm(cv::Point2f(flow(y, x)[0], flow(y, x)[1]) - way));
        if (x % 3 == 0 && y % 3 == 0) usual.push_back(apart(y, x));
      }
    const float least = std::max(kMoves, float(kNoise * middleOf(usual)));
    cv::Mat laid;
    cv::remap(before, laid, from, cv::Mat(), cv::INTER_LINEAR, cv::BORDER_REPLICATE);
    cv::Mat differs;
    cv::absdiff(laid, now, differs);
    cv::GaussianBlur(differs, differs, {5, 5}, 0);
    cv::Mat moving = (apart > least) & (differs > kDiffers);
    // At the edges the camera brings in what was not there.
    const cv::Point2f shift = camera.at({0, 0});
    const int edge = 2 + int(std::ceil(std::max(std::abs(shift.x), std::abs(shift.y))));
    cv::rectangle(moving, {0, 0}, {moving.cols - 1, moving.rows - 1}, cv::Scalar(0), std::min(edge, moving.rows / 8));
    // Parts of one thing belong together.
    cv::Mat joined;
    cv::morphologyEx(moving, joined, cv::MORPH_CLOSE, cv::getStructuringElement(cv::MORPH_ELLIPSE, {9, 9}));
    cv::morphologyEx(joined, joined, cv::MORPH_OPEN, cv::Mat());
    cv::Mat labels;
    cv::Mat stats;
    cv::Mat centres;
    const int count = cv::connectedComponentsWithStats(joined, labels, stats, centres);
    std::vector<Blob> blobs;
    for (int i = 1; i < count; ++i) {
      const cv::Rect box(stats.at<int>(i, cv::CC_STAT_LEFT), stats.at<int>(i, cv::CC_STAT_TOP),
                         stats.at<int>(i, cv::CC_STAT_WIDTH), stats.at<int>(i, cv::CC_STAT_HEIGHT));
      const double area = double(stats.at<int>(i, cv::CC_STAT_AREA));
      if (area < kLeastArea * double(flow.total())) continue;
      const cv::Mat mask = labels(box) == i;
      const cv::Scalar way = cv::mean(flow(box), mask);
      const cv::Point2f there(float(box.x + box.width / 2.0), float(box.y + box.height / 2.0));
      const cv::Point2f scene = camera.at(there - middle);
      blobs.push_back(
          {box, {scene.x - float(way[0]), scene.y - float(way[1])}, area, area * cv::mean(apart(box), mask)[0]});
    }
    join(blobs, kTogether * flow.cols);
    std::vector<Sight> found;
    for (const Blob& blob : blobs) {
      if (blob.area > kMostArea * double(flow.total())) continue;
      found.push_back({Sight::Kind::Motion, shareOf(blob.box, flow.size()),
                       blob.motion / blob.area / flow.cols / seconds,
                       std::clamp(double(blob.way.x) / flow.cols / seconds * 8, -1.0, 1.0)});
    }
    std::sort(found.begin(), found.end(), [](const Sight& a, const Sight& b) {
      return a.strength * a.box.width * a.box.height > b.strength * b.box.width * b.box.height;
    });
    if (found.size() > kMostMoving) found.resize(kMostMoving);
    m_left = cv::mean(differs)[0] / 255;
    return found;
  }
  /// How much of the later picture neither the camera nor motion explains, of 1; a cut leaves much.
  [[nodiscard]] double left() const { return m_left; }

private:
  struct Blob {
    cv::Rect box;
    cv::Point2f way; ///< against the scene, pixels
    double area;
    double motion; ///< sum over its pixels
  };
  /// What lies together and goes the same way is one thing.
  static void join(std::vector<Blob>& blobs, double together) {
    const auto same = [&](const Blob& a, const Blob& b) {
      const double gapX = std::max(a.box.x, b.box.x) - std::min(a.box.x + a.box.width, b.box.x + b.box.width);
      const double gapY = std::max(a.box.y, b.box.y) - std::min(a.box.y + a.box.height, b.box.y + b.box.height);
      return std::max(gapX, gapY) < together &&
             cv::norm(a.way - b.way) < kSameWay * std::max({cv::norm(a.way), cv::norm(b.way), 1.0});
    };
    for (size_t i = 0; i < blobs.size(); ++i)
      for (size_t k = i + 1; k < blobs.size();) {
        Blob& a = blobs[i];
        const Blob& b = blobs[k];
        if (!same(a, b)) {
          ++k;
          continue;
        }
        a.way = (a.way * a.area + b.way * b.area) / (a.area + b.area);
        a.area += b.area;
        a.motion += b.motion;
        a.box |= b.box;
        blobs.erase(blobs.begin() + ptrdiff_t(k));
        k = i + 1; // it is larger now
      }
  }
  cv::Ptr<cv::DISOpticalFlow> m_flow = cv::DISOpticalFlow::create(cv::DISOpticalFlow::PRESET_ULTRAFAST);
  double m_left = 0;
};

// ---- what stands out

/// What a picture's spectrum has more of than its surroundings, with the sizes given by Hou and Zhang.
cv::Mat whatStandsOut(const cv::Mat& grey) {
  cv::Mat small;
  cv::resize(grey, small, {64, 64}, 0, 0, cv::INTER_AREA);
  small.convertTo(small, CV_32F, 1 / 255.0);
  cv::Mat spectrum;
  cv::dft(small, spectrum, cv::DFT_COMPLEX_OUTPUT);
  cv::Mat parts[2];
  cv::split(spectrum, parts);
  cv::Mat size;
  cv::Mat phase;
  cv::cartToPolar(parts[0], parts[1], size, phase);
  cv::Mat logarithm;
  cv::log(size + 1e-9, logarithm);
  cv::Mat usual;
  cv::blur(logarithm, usual, {3, 3}, {-1, -1}, cv::BORDER_REPLICATE);
  cv::exp(logarithm - usual, size);
  cv::polarToCart(size, phase, parts[0], parts[1]);
  cv::merge(parts, 2, spectrum);
  cv::dft(spectrum, spectrum, cv::DFT_INVERSE | cv::DFT_SCALE);
  cv::split(spectrum, parts);
  cv::Mat map = parts[0].mul(parts[0]) + parts[1].mul(parts[1]);
  cv::GaussianBlur(map, map, {}, 2.5);
  double most = 0;
  cv::minMaxLoc(map, nullptr, &most);
  if (most > 0) map /= most;
  return map;
}

/// The area with the most of a map, and how sure it is that something is there; nothing of an empty picture.
std::optional<Sight> standsOut(const cv::Mat& grey) {
  cv::Mat parts;
  cv::resize(grey, parts, {32, 18}, 0, 0, cv::INTER_AREA);
  double darkest = 0;
  double lightest = 0;
  cv::minMaxLoc(parts, &darkest, &lightest);
  if (lightest - darkest < kEmpty) return {};
  const cv::Mat whole = whatStandsOut(grey);
  std::vector<float> values(whole.begin<float>(), whole.end<float>());
  cv::Mat map = cv::max(whole - kCommon * middleOf(values), 0.0);
  if (const double sum = cv::sum(map)[0]; sum > 0) map /= sum;
  const cv::Size area(int(map.cols * kStandsOutShare) | 1, int(map.rows * kStandsOutShare) | 1);
  cv::Mat held;
  cv::boxFilter(map, held, CV_32F, area, {-1, -1}, false, cv::BORDER_CONSTANT);
  double most = 0;
  cv::Point peak;
  cv::minMaxLoc(held, nullptr, &most, nullptr, &peak);
  const cv::Rect box = cv::Rect(peak.x - area.width / 2, peak.y - area.height / 2, area.width, area.height) &
                       cv::Rect({0, 0}, map.size());
  Sight sight{Sight::Kind::Detail, shareOf(box, map.size()), 0, 0};
  const cv::Moments weights = cv::moments(cv::Mat(map, box));
  if (weights.m00 > 0) {
    sight.box.x = (box.x + weights.m10 / weights.m00 + 0.5) / map.cols - sight.box.width / 2;
    sight.box.y = (box.y + weights.m01 / weights.m00 + 0.5) / map.rows - sight.box.height / 2;
  }
  const double even = double(box.area()) / double(map.total());
  sight.strength = std::clamp((most / even - 1) / (kSure - 1), 0.0, 1.0);
  return sight;
}

// ---- lettering

/// Lines of lettering: many upright strokes of one height beside each other. Common practice, no published source.
std::vector<Sight> linesOfWords(const cv::Mat& grey) {
  cv::Mat slopes;
  cv::Sobel(grey, slopes, CV_16S, 1, 0);
  cv::Mat strokes = cv::abs(slopes) > 160;
  cv::Mat joined;
  cv::morphologyEx(strokes, joined, cv::MORPH_CLOSE, cv::getStructuringElement(cv::MORPH_RECT, {13, 3}));
  cv::morphologyEx(joined, joined, cv::MORPH_OPEN, cv::getStructuringElement(cv::MORPH_RECT, {5, 5}));
  cv::Mat labels;
  cv::Mat stats;
  cv::Mat centres;
  const int count = cv::connectedComponentsWithStats(joined, labels, stats, centres);
  std::vector<Sight> found;
  for (int i = 1; i < count; ++i) {
    const cv::Rect box(stats.at<int>(i, cv::CC_STAT_LEFT), stats.at<int>(i, cv::CC_STAT_TOP),
                       stats.at<int>(i, cv::CC_STAT_WIDTH), stats.at<int>(i, cv::CC_STAT_HEIGHT));
    const double filled = double(stats.at<int>(i, cv::CC_STAT_AREA)) / box.area();
    if (box.height < 6 || box.height > grey.rows / 5 || box.width < 2.2 * box.height || filled < 0.6) continue;
    // Along the middle of a line, light and dark change again and again; a fence or a window does so less evenly.
    int changes = 0;
    int rows = 0;
    for (int y = box.y + box.height / 4; y < box.y + box.height * 3 / 4; y += 2, ++rows)
      for (int x = box.x + 1; x < box.x + box.width; ++x)
        changes += (strokes.at<uint8_t>(y, x) != 0) != (strokes.at<uint8_t>(y, x - 1) != 0) ? 1 : 0;
    const double letters = rows > 0 ? double(changes) / rows / (2.0 * box.width / box.height) : 0;
    if (letters < 0.8 || letters > 8) continue;
    found.push_back({Sight::Kind::Words, shareOf(box, grey.size()), std::min(1.0, filled), 0});
  }
  return found;
}

/// The largest size at which a picture is looked at.
Size lookedAt(const PictureShape& shape) {
  const SizeF picture = shape.picture();
  const double scale = std::sqrt(kPixels / std::max(1.0, picture.width * picture.height));
  return {std::max(8, int(std::ceil(picture.width * scale))), std::max(8, int(std::ceil(picture.height * scale)))};
}

struct Read {
  int64_t frame = 0;
  Frame picture;
};

/// What was seen in a picture, but for faces.
struct Seen {
  Glance glance;
  cv::Mat grey;
  cv::Mat colour;
  int64_t changedSince = -1; ///< the frame before, from which it differs much; −1 where it does not
};

/// What is seen without looking for faces, picture by picture.
class Glancer {
public:
  /// `edited` becomes true where there are so many cuts that more are to come.
  Glancer(const PictureShape& shape, double rate, std::atomic<bool>& edited)
      : m_composer(shape, lookedAt(shape), Kernel::Quick), m_rate(rate), m_edited(edited) {}
  Result<Seen> look(const Read& picture) {
    const auto drawn = m_composer.draw(picture.picture);
    if (!drawn) return tl::unexpected(drawn.error());
    const cv::Mat colour = colourOf(*drawn);
    Seen seen{{picture.frame, {}}, greyOf(colour), colour};
    const cv::Mat small = smaller(seen.grey, kSmallSide);
    if (!m_before.empty()) {
      seen.glance.sights = m_motion.look(m_before, small, double(picture.frame - m_frame) / m_rate);
      if (m_motion.left() > kChangesMuch) {
        seen.changedSince = m_frame;
        if (++m_changes == kEdited) m_edited = true;
      }
    }
    if (const auto detail = standsOut(small)) seen.glance.sights.push_back(*detail);
    if (m_frame < 0 || double(picture.frame - m_worded) / m_rate >= kWordsEvery - 1e-6) {
      m_worded = picture.frame;
      const std::vector<Sight> words = linesOfWords(smaller(seen.grey, kWordsSide));
      seen.glance.sights.insert(seen.glance.sights.end(), words.begin(), words.end());
    }
    m_before = small;
    m_frame = picture.frame;
    return seen;
  }

private:
  ScreenComposer m_composer;
  double m_rate;
  std::atomic<bool>& m_edited;
  int m_changes = 0;
  MotionSearch m_motion;
  cv::Mat m_before;
  int64_t m_frame = -1;
  int64_t m_worded = 0;
};

/// Reads the pictures that are looked at, roughly. Of an edit every picture is read and measured for cuts on the way,
/// instead of being read once more.
class ShotReader {
public:
  ShotReader(const Reading& reading, int64_t first, int64_t end, BoundedQueue<Read>& pictures,
             const std::atomic<bool>& edited, std::stop_token over)
      : m_reading(reading), m_first(first), m_end(end), m_pictures(pictures), m_edited(edited), m_over(std::move(over)),
        m_measuredFrom(end) {}

  Status readAll(int64_t every) {
    auto source = PictureSource::open(m_reading, {.roughly = true, .stop = m_over});
    if (!source) return tl::unexpected(source.error());
    std::optional<CutSampler> sampler;
    bool any = false;
    for (int64_t next = m_first; next < m_end;) {
      const bool measures = m_edited && !sampler;
      if (measures) {
        source = PictureSource::open(m_reading, {.stop = m_over});
        if (!source) return tl::unexpected(source.error());
      }
      if (!sampler)
        if (const Status there = source->goTo(next); !there) return there;
      if (measures) {
        sampler.emplace();
        m_measuredFrom = next;
      }
      const auto got = source->read();
      if (!got) return tl::unexpected(got.error());
      if (!got->frame || got->number >= m_end) break;
      if (sampler)
        if (const Status added = sampler->add(got->number, got->frame); !added) return added;
      if (got->number < next) continue;
      if (!m_pictures.push({got->number, got->frame}, m_over)) return {};
      any = true;
      next = std::max(next + every, got->number + 1);
    }
    if (sampler) m_measured = sampler->end();
    if (any) return {};
    // A shot of a few pictures, all of which were left out.
    const auto nearest = source->frameAt(m_first);
    if (!nearest) return tl::unexpected(nearest.error());
    (void)m_pictures.push({m_first, *nearest}, m_over);
    return {};
  }

  /// Frames [from, to), measured for cuts: on the way, or by reading them once more. Once all has been read.
  [[nodiscard]] Result<std::vector<CutSample>> measured(int64_t from, int64_t to, const std::stop_token& stop) const {
    if (from < m_measuredFrom) return readCutSamples(m_reading, from, to, stop);
    std::vector<CutSample> some;
    std::copy_if(m_measured.begin(), m_measured.end(), std::back_inserter(some),
                 [&](const CutSample& each) { return each.frame >= from && each.frame < to; });
    return some;
  }

private:
  const Reading& m_reading;
  int64_t m_first;
  int64_t m_end;
  BoundedQueue<Read>& m_pictures;
  const std::atomic<bool>& m_edited;
  std::stop_token m_over;
  int64_t m_measuredFrom;
  std::vector<CutSample> m_measured;
};

} // namespace

Result<ShotLook> lookAtShot(const Reading& reading, int64_t first, int64_t end, std::stop_token stop,
                            const std::function<void(double)>& onFraction) try {
  ShotLook look{first, end, {}, {}};
  const auto cancelled = [&] {
    return fail(ErrorCode::Cancelled, say("looking for subjects was stopped"), reading.file.path);
  };
  const double rate = reading.file.kind == MediaKind::Video ? reading.file.video->clock.rate().toDouble() : 1;
  const int64_t every =
      std::max({int64_t(1), int64_t(std::lround(rate / kGlancesASecond)), (end - first) / kMostGlances + 1});

  // Read, looked at, and searched for faces beside each other.
  BoundedQueue<Read> pictures(kReadAhead);
  BoundedQueue<Seen> seen(kAhead);
  Status reads;
  Status sees;
  std::atomic<bool> edited = false;
  std::stop_source over;
  const std::stop_callback asked(stop, [&over] { over.request_stop(); });
  ShotReader pass(reading, first, end, pictures, edited, over.get_token());
  std::jthread reader([&] {
    try {
      reads = pass.readAll(every);
    } catch (const std::exception& fault) {
      reads = fail(ErrorCode::Decoder, say("its pictures cannot be searched (%1)", fault.what()), reading.file.path);
    }
    pictures.close();
  });
  struct End {
    std::stop_source& over;
    std::jthread& thread;
    ~End() {
      over.request_stop();
      thread.join();
    }
  };

  {
    const End readingEnds{over, reader};
    std::jthread glancer([&] {
      try {
        Glancer glances(reading.shape(), rate, edited);
        for (auto got = pictures.pop(over.get_token()); got; got = pictures.pop(over.get_token())) {
          auto glance = glances.look(*got);
          if (!glance) {
            sees = tl::unexpected(glance.error());
            over.request_stop();
            break;
          }
          if (!seen.push(std::move(*glance), over.get_token())) break;
        }
      } catch (const std::exception& fault) {
        sees = fail(ErrorCode::Decoder, say("its pictures cannot be searched (%1)", fault.what()), reading.file.path);
      }
      seen.close();
    });
    const End glancingEnds{over, glancer};
    FaceSearch faces;
    double searched = -1e9;
    double searchAfter = 0;
    double followed = -1e9;
    std::vector<Sight> known;
    std::vector<std::pair<int64_t, int64_t>> perhapsCut;
    for (auto got = seen.pop(stop); got; got = seen.pop(stop)) {
      Glance& glance = got->glance;
      const double now = double(glance.frame - first) / rate;
      if (got->changedSince >= 0) {
        perhapsCut.emplace_back(got->changedSince, glance.frame);
        known.clear();
        searchAfter = 0;
      }
      if (now - searched >= searchAfter - 1e-6) {
        const bool nothingKnown = searchAfter <= 0;
        std::vector<Sight> found = nothingKnown ? faces.searchFirst(got->grey) : faces.search(got->grey, known);
        const size_t before = known.size();
        for (const Sight& each : faces.follow(got->grey, known))
          if (std::none_of(found.begin(), found.end(),
                           [&](const Sight& other) { return overlap(other.box, each.box) > 0.4; }))
            found.push_back(each);
        known = found;
        searched = followed = now;
        // Where nothing new is seen, it is looked for ever seldomer.
        searchAfter = nothingKnown || known.size() > before ? kSearchEvery
                                                            : std::clamp(2 * searchAfter, kSearchEvery, kSearchSeldom);
        glance.sights.insert(glance.sights.end(), known.begin(), known.end());
      } else if (!known.empty() && now - followed >= kFollowEvery - 1e-6) {
        const std::vector<Sight> found = faces.follow(got->grey, known);
        if (found.empty()) searchAfter = 0; // lost: looked for everywhere, next time
        known = found;
        followed = now;
        glance.sights.insert(glance.sights.end(), known.begin(), known.end());
      }
      for (Sight& each : glance.sights)
        if (each.kind == Sight::Kind::Face)
          each.appearance = appearanceOf(got->colour, pixelsOf(each.box, got->colour.size()));
      if (onFraction) onFraction(double(glance.frame - first) / double(end - first));
      look.glances.push_back(std::move(glance));
    }
    if (stop.stop_requested()) return cancelled();
    for (size_t i = 0; i < perhapsCut.size(); ++i) {
      const int64_t from = std::max(first, perhapsCut[i].first - kCutRound);
      while (i + 1 < perhapsCut.size() && perhapsCut[i + 1].first <= perhapsCut[i].second + 2 * kCutRound) ++i;
      const int64_t to = std::min(end, perhapsCut[i].second + kCutRound);
      const auto samples = pass.measured(from, to, stop);
      if (!samples) return tl::unexpected(samples.error());
      for (const FoundCut& cut : findCuts(*samples))
        if (cut.frame > first) look.cuts.push_back(cut.frame);
    }
  }
  if (!sees) return tl::unexpected(sees.error());
  if (!reads) return tl::unexpected(reads.error());
  return look;
} catch (const cv::Exception& fault) {
  return fail(ErrorCode::Decoder, say("its pictures cannot be searched (%1)", fault.what()), reading.file.path,
              say("Set the subject point by hand."));
} catch (const std::system_error& refused) {
  return fail(ErrorCode::Decoder, say("no thread can be started (%1)", refused.what()), reading.file.path,
              say("Close other programs"));
}

} // namespace tromb
