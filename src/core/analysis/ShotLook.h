// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "analysis/Appearance.h"
#include "media/Reading.h"

#include <functional>
#include <stop_token>
#include <vector>

namespace tromb {

/// Something that was seen at one moment of a shot.
struct Sight {
  enum class Kind {
    Face,   ///< in front or half from the side
    Motion, ///< it goes another way than the scene
    Detail, ///< it stands out of the scene
    Words,  ///< lettering in the scene
  };
  Kind kind = Kind::Detail;
  RectF box;                  ///< in shares of the upright picture without its bars
  double strength = 0;        ///< 0 to 1; of motion: pictures a second
  double towards = 0;         ///< where a face looks, or what moves goes: −1 to the left, 1 to the right
  Appearance appearance = {}; ///< of a face; not known of most
  friend bool operator==(const Sight&, const Sight&) = default;
};

/// One moment of a shot.
struct Glance {
  int64_t frame = 0; ///< of the source
  std::vector<Sight> sights;
};

/// What a shot shows, looked at over its whole length at a low rate.
struct ShotLook {
  int64_t first = 0; ///< frames of the source
  int64_t end = 1;   ///< exclusive
  std::vector<Glance> glances;
  std::vector<int64_t> cuts; ///< first frames after cuts inside; in the middle of a dissolve
};

/// Looks at frames [first, end) of a source, about five times a second, or seldomer where that would be more than
/// kMostGlances. Faces are told by their edges (N. Dalal, B. Triggs, "Histograms of Oriented Gradients for Human
/// Detection", CVPR 2005); motion by dense flow (T. Kroeger et al., "Fast Optical Flow Using Dense Inverse Search",
/// ECCV 2016) against that of the camera; what stands out by its spectrum (X. Hou, L. Zhang, "Saliency Detection: A
/// Spectral Residual Approach", CVPR 2007). `onFraction` is told how far it is, 0 to 1. Errors: those of PictureSource,
/// Cancelled. Thread-safe.
[[nodiscard]] Result<ShotLook> lookAtShot(const Reading& reading, int64_t first, int64_t end, std::stop_token stop = {},
                                          const std::function<void(double)>& onFraction = {});

inline constexpr int kMostGlances = 1500;

} // namespace tromb
