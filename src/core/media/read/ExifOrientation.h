// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <cstdint>
#include <span>
#include <string>

namespace tromb {

/// How a still is to be turned to stand upright: by `rotation` degrees clockwise, and then left for right where it is
/// `mirrored`.
struct StillOrientation {
  int rotation = 0;
  bool mirrored = false;
  friend bool operator==(const StillOrientation&, const StillOrientation&) = default;
};

/// The orientation that a JPEG, PNG, WebP or TIFF file gives of itself (tag 274 of TIFF 6.0 and of Exif, CIPA DC-008);
/// upright where it gives none or cannot be read. Thread-safe.
[[nodiscard]] StillOrientation stillOrientation(const std::string& path);

/// The value of the orientation tag in the first directory of TIFF-structured bytes: 1 to 8; 1 where there is none.
[[nodiscard]] int orientationTag(std::span<const uint8_t> tiff);

} // namespace tromb
