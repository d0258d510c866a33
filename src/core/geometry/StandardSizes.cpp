// SPDX-License-Identifier: GPL-3.0-or-later
#include "geometry/StandardSizes.h"

#include <algorithm>
#include <cmath>

namespace tromb {

const std::vector<StandardShape>& standardShapes() {
  static const std::vector<StandardShape> shapes{
      {"9:16", {{720, 1280}, {1080, 1920}, {1440, 2560}, {2160, 3840}}},
      {"3:4", {{810, 1080}, {1080, 1440}, {1536, 2048}}},
      {"4:5", {{864, 1080}, {1080, 1350}, {1728, 2160}}},
      {"1:1", {{720, 720}, {1080, 1080}, {2160, 2160}}},
      {"4:3", {{1024, 768}, {1440, 1080}, {2048, 1536}}},
      {"16:9", {{1280, 720}, {1920, 1080}, {2560, 1440}, {3840, 2160}}},
      {"21:9", {{1920, 810}, {2560, 1080}, {3440, 1440}}},
      {"2.39", {{1920, 804}, {2048, 858}, {3840, 1608}, {4096, 1716}}},
  };
  return shapes;
}

const StandardShape* standardShapeOf(Size canvas) {
  constexpr double kRounding = 0.006; // two pixels of 360
  const auto& all = standardShapes();
  // A size that is listed counts before a ratio: 21:9 and 2.39 lie close together.
  for (const StandardShape& shape : all)
    if (std::find(shape.sizes.begin(), shape.sizes.end(), canvas) != shape.sizes.end()) return &shape;
  for (const StandardShape& shape : all)
    if (std::abs(shape.sizes.back().ratio() / canvas.ratio() - 1) < kRounding) return &shape;
  return nullptr;
}

Size sizeLike(const StandardShape& shape, Size canvas) {
  const auto apart = [&canvas](Size size) {
    return std::abs(std::log(double(size.width) * size.height / (double(canvas.width) * canvas.height)));
  };
  return *std::min_element(shape.sizes.begin(), shape.sizes.end(), [&](Size a, Size b) { return apart(a) < apart(b); });
}

} // namespace tromb
