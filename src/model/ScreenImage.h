// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "render/Pictures.h"

#include <QImage>

namespace tromb {

/// A picture for screens as Qt draws it; a copy of its own.
[[nodiscard]] inline QImage imageOf(const ScreenPicture& picture) {
  return QImage(picture.bytes.data(), picture.size.width, picture.size.height, picture.size.width * 4,
                picture.transparent ? QImage::Format_ARGB32_Premultiplied : QImage::Format_RGB32)
      .copy();
}

} // namespace tromb
