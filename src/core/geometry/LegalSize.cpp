// SPDX-License-Identifier: GPL-3.0-or-later
#include "geometry/LegalSize.h"

#include <algorithm>
#include <cmath>

namespace tromb {
namespace {

int nearestLegal(double pixels) {
  return std::clamp(int(std::lround(pixels / 2)) * 2, kSmallestSide, kLargestSide);
}

int evenAtMost(double pixels) {
  return int(std::floor(pixels / 2 + 1e-9)) * 2;
}

} // namespace

bool isLegalSide(int pixels) {
  return pixels % 2 == 0 && pixels >= kSmallestSide && pixels <= kLargestSide;
}

std::pair<int, int> legalNeighbours(int pixels) {
  const int inside = std::clamp(pixels, kSmallestSide, kLargestSide);
  return {inside - inside % 2, inside + inside % 2};
}

int legalHeightFor(int width, double ratio) {
  return nearestLegal(width / ratio);
}

int legalWidthFor(int height, double ratio) {
  return nearestLegal(height * ratio);
}

Size largestSharpCanvas(const PictureShape& shape, double ratio) {
  const SizeF picture = shape.picture();
  const SizeF density = shape.recordedDensity();
  // The filling window in picture pixels, then the canvas that takes one stored pixel per canvas pixel on its
  // poorer axis.
  const double windowWidth = std::min(picture.width, picture.height * ratio);
  const double poorer = std::min({density.width, density.height, 1.0});
  const int height = evenAtMost(windowWidth / ratio * poorer);
  const int width = evenAtMost(windowWidth * poorer);
  if (width < kSmallestSide || height < kSmallestSide) return {};
  return {std::min(width, kLargestSide), std::min(height, kLargestSide)};
}

} // namespace tromb
