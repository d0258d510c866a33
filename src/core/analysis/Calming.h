// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "analysis/SubjectTracker.h"
#include "geometry/Framing.h"

namespace tromb {

/// How far windows that follow a subject reach from where it is wanted in them, in shares of the picture; the least of
/// several windows.
struct Reach {
  double left = 1;
  double right = 1;
  double up = 1;
  double down = 1;
  friend bool operator==(const Reach&, const Reach&) = default;
};

/// The reach of those windows of a framing that follow subject number `subject`, between two moments (seconds of the
/// source).
[[nodiscard]] Reach reachOf(const PictureShape& shape, Size canvas, const Framing& framing, const Subjects& subjects,
                            size_t subject, double from, double to);
[[nodiscard]] Reach lesser(const Reach& a, const Reach& b);

struct CalmOptions {
  double strength = 0.6; ///< 0: where the subject is; 1: as far from it as the windows' reach allows
  double fastest = 0.6;  ///< pictures a second
  double hardest = 1.2;  ///< pictures a second in a second
};

/// Turns a track into a calm move for a subject: it rests where it can, goes at one speed or changes it evenly, and the
/// subject stays in all windows that follow. Solves for the path whose first three differences are least in sum, within
/// the bounds that the windows set: M. Grundmann, V. Kwatra, I. Essa, "Auto-Directed Video Stabilization with Robust L1
/// Optimal Camera Paths", CVPR 2011; then lays as few smooth keys as keep to it. The limits of speed and acceleration
/// give way where the subject would be lost otherwise. Empty for an empty track. Thread-safe.
[[nodiscard]] Move calmMove(const Track& track, const FrameClock& clock, const Reach& reach,
                            const CalmOptions& options = {});

} // namespace tromb
