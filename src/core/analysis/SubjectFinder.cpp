// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/SubjectFinder.h"

#include "picture/PictureSource.h"
#include "render/Pictures.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <dlib/image_processing/frontal_face_detector.h>
#include <dlib/opencv/cv_image.h>
#include <opencv2/imgproc.hpp>

namespace tromb {
namespace {

constexpr int kSamples = 7;
constexpr int64_t kApart = 3; ///< frames between the two pictures that motion is seen in
constexpr int kFaceSide = 480;
const cv::Size kMap(96, 54);
constexpr double kSubjectShare = 0.28; ///< of the map's sides: the area that is looked for
constexpr double kFacesSeen = 0.4;     ///< of the samples, and it is a face
constexpr double kMotionSeen = 0.06;   ///< of full range, on the map's strongest place, and it is motion
constexpr double kStillShare = 0.25;   ///< of what stands out, beside motion
constexpr double kCommon = 2.5;        ///< times the middle value of a map counts as nothing
constexpr double kSure = 6;            ///< times what an even map holds there

cv::Mat greyOf(const ScreenPicture& drawn) {
  const cv::Mat wrapped(drawn.size.height, drawn.size.width, CV_8UC4, const_cast<uint8_t*>(drawn.bytes.data()));
  cv::Mat grey;
  cv::cvtColor(wrapped, grey, cv::COLOR_BGRA2GRAY);
  return grey;
}

/// Faces in front and half from the side. The detector keeps state while it looks, so that each search has its own.
class Faces {
public:
  /// Returns the centre of the largest face, in shares of the picture.
  [[nodiscard]] bool largest(const cv::Mat& grey, cv::Point2d& centre) {
    cv::Mat twice; // the detector finds faces of 80 pixels and more
    cv::resize(grey, twice, {}, 2, 2, cv::INTER_LINEAR);
    const auto found = m_detector(dlib::cv_image<unsigned char>(twice));
    const auto face =
        std::max_element(found.begin(), found.end(), [](const auto& a, const auto& b) { return a.area() < b.area(); });
    if (face == found.end()) return false;
    const auto middle = dlib::dcenter(*face);
    centre = {(middle.x() + 0.5) / twice.cols, (middle.y() + 0.5) / twice.rows};
    return true;
  }

private:
  dlib::frontal_face_detector m_detector = dlib::get_frontal_face_detector();
};

/// What stands out of a picture: what its spectrum has more of than its surroundings. After X. Hou and L. Zhang,
/// Saliency Detection: A Spectral Residual Approach (2007), with the sizes given there.
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

double middleOf(std::vector<double> values) {
  std::sort(values.begin(), values.end());
  return values[values.size() / 2];
}

/// Estimates how the whole scene has moved in a later picture. The median of its parts counts, so that a moving subject
/// does not.
cv::Point2d shiftBetween(const cv::Mat& before, const cv::Mat& after) {
  constexpr int kParts = 4;
  const cv::Size part(before.cols / kParts, before.rows / kParts);
  cv::Mat window;
  cv::createHanningWindow(window, part, CV_32F);
  std::vector<double> across;
  std::vector<double> down;
  for (int y = 0; y < kParts; ++y)
    for (int x = 0; x < kParts; ++x) {
      const cv::Rect at({x * part.width, y * part.height}, part);
      const cv::Point2d shift = cv::phaseCorrelate(before(at), after(at), window);
      across.push_back(shift.x);
      down.push_back(shift.y);
    }
  return {middleOf(across), middleOf(down)};
}

/// What differs between two pictures when the one is laid over the other, so that a camera that pans sees no motion in
/// the scene.
cv::Mat motionBetween(const cv::Mat& before, const cv::Mat& after) {
  cv::Mat a;
  cv::Mat b;
  before.convertTo(a, CV_32F, 1 / 255.0);
  after.convertTo(b, CV_32F, 1 / 255.0);
  const cv::Point2d shift = shiftBetween(a, b);
  const cv::Mat move = (cv::Mat_<double>(2, 3) << 1, 0, shift.x, 0, 1, shift.y);
  cv::Mat laid;
  cv::warpAffine(a, laid, move, a.size(), cv::INTER_LINEAR, cv::BORDER_REPLICATE);
  cv::Mat apart;
  cv::absdiff(laid, b, apart);
  const int edge = int(std::ceil(std::max(std::abs(shift.x), std::abs(shift.y)))) + 1;
  cv::rectangle(apart, {0, 0}, {apart.cols - 1, apart.rows - 1}, cv::Scalar(0), edge);
  cv::Mat map;
  cv::resize(apart, map, kMap, 0, 0, cv::INTER_AREA);
  return map;
}

} // namespace

Result<FoundSubject> findSubject(const Reading& reading, int64_t first, int64_t end, std::stop_token stop) try {
  auto reader = PictureSource::open(reading);
  if (!reader) return tl::unexpected(reader.error());
  Faces faces;
  ScreenComposer composer(reading.shape(), {kFaceSide, kFaceSide});
  const auto read = [&](int64_t frame) -> Result<cv::Mat> {
    if (stop.stop_requested())
      return fail(ErrorCode::Cancelled, say("looking for subjects was stopped"), reading.file.path);
    const auto decoded = reader->frameAt(frame);
    if (!decoded) return tl::unexpected(decoded.error());
    const auto drawn = composer.draw(*decoded);
    if (!drawn) return tl::unexpected(drawn.error());
    return greyOf(*drawn);
  };

  const int64_t length = end - first;
  const int samples = int(std::clamp<int64_t>(length, 1, kSamples));
  cv::Mat motion = cv::Mat::zeros(kMap, CV_32F);
  cv::Mat still = cv::Mat::zeros(kMap, CV_32F);
  std::array<std::vector<double>, 2> faceAt;
  for (int n = 0; n < samples; ++n) {
    const int64_t frame = first + (2 * n + 1) * length / (2 * samples);
    const auto picture = read(frame);
    if (!picture) return tl::unexpected(picture.error());
    if (cv::Point2d centre; faces.largest(*picture, centre)) {
      faceAt[0].push_back(centre.x);
      faceAt[1].push_back(centre.y);
    }
    cv::Mat map;
    cv::resize(whatStandsOut(*picture), map, kMap, 0, 0, cv::INTER_AREA);
    still += map;
    if (frame + kApart < end) {
      const auto later = read(frame + kApart);
      if (!later) return tl::unexpected(later.error());
      motion += motionBetween(*picture, *later);
    }
  }

  FoundSubject found;
  if (double(faceAt[0].size()) >= kFacesSeen * samples) {
    found.kind = FoundSubject::Kind::Face;
    found.x = middleOf(faceAt[0]);
    found.y = middleOf(faceAt[1]);
    found.confidence = double(faceAt[0].size()) / samples;
    return found;
  }
  double strongest = 0;
  cv::minMaxLoc(motion / samples, nullptr, &strongest);
  // Something that is spread over the whole picture, such as noise, is no subject.
  const auto shares = [](cv::Mat& map) {
    map = cv::max(map - kCommon * middleOf({map.begin<float>(), map.end<float>()}), 0.0);
    if (const double sum = cv::sum(map)[0]; sum > 0) map /= sum;
  };
  shares(motion);
  shares(still);
  cv::Mat map = still;
  if (strongest > kMotionSeen) {
    found.kind = FoundSubject::Kind::Motion;
    map = motion * (1 - kStillShare) + still * kStillShare;
  }
  // Finds the area with the largest sum, and the centre of gravity inside it.
  const cv::Size area(int(kMap.width * kSubjectShare) | 1, int(kMap.height * kSubjectShare) | 1);
  cv::Mat held;
  cv::boxFilter(map, held, CV_32F, area, {-1, -1}, false, cv::BORDER_CONSTANT);
  double most = 0;
  cv::Point peak;
  cv::minMaxLoc(held, nullptr, &most, nullptr, &peak);
  const cv::Rect box =
      cv::Rect(peak.x - area.width / 2, peak.y - area.height / 2, area.width, area.height) & cv::Rect({0, 0}, kMap);
  const cv::Moments weights = cv::moments(cv::Mat(map, box));
  if (weights.m00 > 0) {
    found.x = (box.x + weights.m10 / weights.m00 + 0.5) / kMap.width;
    found.y = (box.y + weights.m01 / weights.m00 + 0.5) / kMap.height;
  }
  const double even = double(box.area()) / kMap.area();
  found.confidence = std::clamp((most / even - 1) / (kSure - 1), 0.0, 1.0);
  return found;
} catch (const cv::Exception& fault) {
  return fail(ErrorCode::Decoder, say("its pictures cannot be searched (%1)", fault.what()), reading.file.path,
              say("Set the subject point by hand."));
}

} // namespace tromb
