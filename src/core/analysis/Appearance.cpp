// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/Appearance.h"

#include <algorithm>
#include <array>
#include <bit>
#include <cmath>
#include <opencv2/imgproc.hpp>

namespace tromb {
namespace {

constexpr int kFaceSide = 66; ///< pixels to which a face is brought: a border of one, and …
constexpr int kBlocks = 4;    ///< … so many blocks across and down
constexpr int kPatterns = 59; ///< uniform ones of eight neighbours, and one for all others
constexpr double kLeastFace = 8;
// What is worn, in widths and heights of the face from its middle and its chin.
constexpr double kClothesAside = 1.1;
constexpr double kClothesFrom = 0.55;
constexpr double kClothesTo = 1.7;
constexpr double kClothesSeen = 0.4; ///< share of that, that has to be in the picture
// Colours in CIE L*a*b*.
constexpr std::array<int, 3> kColours{4, 8, 8};
constexpr float kChroma = 56; ///< of a* and b*, on both sides of grey

/// The place of each pattern of eight neighbours among the uniform ones, which change at most twice round the circle.
const std::array<uint8_t, 256>& places() {
  static const std::array<uint8_t, 256> all = [] {
    std::array<uint8_t, 256> made{};
    uint8_t next = 0;
    for (unsigned pattern = 0; pattern < 256; ++pattern) {
      const auto turned = std::rotl(uint8_t(pattern), 1);
      const bool uniform = std::popcount(unsigned(pattern ^ turned)) <= 2;
      made[pattern] = uniform ? next++ : uint8_t(kPatterns - 1);
    }
    return made;
  }();
  return all;
}

std::vector<float> patternsOf(const cv::Mat& face) {
  std::vector<float> all(size_t(kBlocks * kBlocks * kPatterns), 0);
  constexpr int kSide = (kFaceSide - 2) / kBlocks;
  for (int y = 1; y + 1 < kFaceSide; ++y)
    for (int x = 1; x + 1 < kFaceSide; ++x) {
      constexpr std::array<std::array<int, 2>, 8> kRound{
          {{-1, -1}, {-1, 0}, {-1, 1}, {0, 1}, {1, 1}, {1, 0}, {1, -1}, {0, -1}}};
      const uint8_t middle = face.at<uint8_t>(y, x);
      unsigned pattern = 0;
      for (const auto& [down, across] : kRound)
        pattern = pattern << 1U | unsigned(face.at<uint8_t>(y + down, x + across) >= middle);
      const int block = (y - 1) / kSide * kBlocks + (x - 1) / kSide;
      all[size_t(block * kPatterns) + places()[pattern]] += 1.0F / (kSide * kSide);
    }
  return all;
}

std::vector<float> coloursOf(const cv::Mat& part, const cv::Scalar& mean) {
  const double grey = (mean[0] + mean[1] + mean[2]) / 3;
  cv::Mat even;
  part.convertTo(even, CV_32F, 1 / 255.0);
  cv::multiply(even,
               cv::Scalar(grey / std::max(1.0, mean[0]), grey / std::max(1.0, mean[1]), grey / std::max(1.0, mean[2])),
               even);
  cv::Mat lab;
  cv::cvtColor(even, lab, cv::COLOR_BGR2Lab);
  std::vector<float> all(size_t(kColours[0] * kColours[1] * kColours[2]), 0);
  // Each pixel counts for the colours beside its own, too, so that a little more light is no other colour.
  for (int y = 0; y < lab.rows; ++y)
    for (int x = 0; x < lab.cols; ++x) {
      const auto& pixel = lab.at<cv::Vec3f>(y, x);
      std::array<int, 3> low{};
      std::array<float, 3> share{};
      for (size_t i = 0; i < 3; ++i) {
        const float unit = i == 0 ? pixel[0] / 100 : (pixel[int(i)] + kChroma) / (2 * kChroma);
        const float place = std::clamp(unit, 0.0F, 1.0F) * float(kColours[i] - 1);
        low[i] = std::min(int(place), kColours[i] - 2);
        share[i] = place - float(low[i]);
      }
      for (unsigned corner = 0; corner < 8; ++corner) {
        float weight = 1;
        int at = 0;
        for (size_t i = 0; i < 3; ++i) {
          const bool upper = (corner >> i & 1U) != 0;
          weight *= upper ? share[i] : 1 - share[i];
          at = at * kColours[i] + low[i] + (upper ? 1 : 0);
        }
        all[size_t(at)] += weight / float(lab.total());
      }
    }
  return all;
}

/// How alike two moments are, 0 to 1.
double likeness(const Appearance& a, const Appearance& b) {
  if (!a.known() || !b.known()) return 0;
  double apart = 0; // by χ², 0 to 2 for each block
  for (size_t i = 0; i < a.face.size(); ++i)
    if (const double sum = double(a.face[i]) + double(b.face[i]); sum > 0)
      apart += std::pow(double(a.face[i]) - double(b.face[i]), 2) / sum;
  const double faces = 1 - apart / 2 / (kBlocks * kBlocks);
  if (a.clothes.empty() || b.clothes.empty()) return faces;
  double clothes = 0; // A. Bhattacharyya's coefficient
  for (size_t i = 0; i < a.clothes.size(); ++i) clothes += std::sqrt(double(a.clothes[i]) * double(b.clothes[i]));
  return (faces + clothes) / 2;
}

} // namespace

Appearance appearanceOf(const cv::Mat& picture, const cv::Rect2d& face) {
  const cv::Rect whole({0, 0}, picture.size());
  const cv::Rect seen = cv::Rect(face) & whole;
  if (seen.width < kLeastFace || seen.height < kLeastFace) return {};
  Appearance made;
  cv::Mat grey;
  cv::cvtColor(picture(seen), grey, cv::COLOR_BGR2GRAY);
  cv::resize(grey, grey, {kFaceSide, kFaceSide}, 0, 0, seen.width > kFaceSide ? cv::INTER_AREA : cv::INTER_LINEAR);
  cv::GaussianBlur(grey, grey, {3, 3}, 0); // noise makes patterns of its own
  made.face = patternsOf(grey);
  const double middle = face.x + face.width / 2;
  const double chin = face.y + face.height;
  const cv::Rect2d worn(middle - kClothesAside * face.width, chin + kClothesFrom * face.height,
                        2 * kClothesAside * face.width, (kClothesTo - kClothesFrom) * face.height);
  const cv::Rect there = cv::Rect(worn) & whole;
  if (double(there.area()) >= kClothesSeen * worn.area() && there.area() > 0)
    made.clothes = coloursOf(picture(there), cv::mean(picture));
  return made;
}

double likeness(const std::vector<Appearance>& a, const std::vector<Appearance>& b) {
  double most = 0;
  for (const Appearance& one : a)
    for (const Appearance& other : b) most = std::max(most, likeness(one, other));
  return most;
}

} // namespace tromb
