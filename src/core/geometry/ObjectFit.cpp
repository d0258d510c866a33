// SPDX-License-Identifier: GPL-3.0-or-later
#include "geometry/ObjectFit.h"

#include <algorithm>

namespace tromb {

RectF objectFit(SizeF picture, SizeF box, ObjectFit fit, double positionX, double positionY) {
  const double sx = box.width / picture.width;
  const double sy = box.height / picture.height;
  const double scale = fit == ObjectFit::Contain ? std::min(sx, sy) : std::max(sx, sy);
  const double width = picture.width * scale;
  const double height = picture.height * scale;
  return {positionX * (box.width - width), positionY * (box.height - height), width, height};
}

} // namespace tromb
