// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <vector>

namespace cv {
class Mat;
template <typename T> class Rect_;
} // namespace cv

namespace tromb {

/// What somebody looks like, so that the same person can be told in another shot. A value.
struct Appearance {
  /// Patterns of light and dark in the face, block by block (T. Ahonen, A. Hadid, M. Pietikäinen, "Face Description
  /// with Local Binary Patterns", PAMI 2006); each block sums to 1. Empty: not known.
  std::vector<float> face;
  /// Colours of what is worn below it, against the picture's own mean; sums to 1. Empty where too little of it is seen.
  std::vector<float> clothes;
  [[nodiscard]] bool known() const { return !face.empty(); }
  friend bool operator==(const Appearance&, const Appearance&) = default;
};

/// What a face and the clothes below it look like in a picture of 8-bit blue, green and red. `face`: the box from brow
/// to chin, in pixels; nothing is known of one that is smaller than eight. Thread-safe.
[[nodiscard]] Appearance appearanceOf(const cv::Mat& picture, const cv::Rect_<double>& face);

/// How alike two are that were seen at several moments, 0 to 1: as much as the most alike of their moments, since faces
/// turn and change. 0 where one of them was never seen.
[[nodiscard]] double likeness(const std::vector<Appearance>& a, const std::vector<Appearance>& b);
/// From here on they are taken for the same person: tried on drawn people and on footage that nobody here drew.
inline constexpr double kSamePerson = 0.8;

} // namespace tromb
