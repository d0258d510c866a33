// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "analysis/Course.h"
#include "project/Project.h"

namespace tromb {

/// How what was found is framed: rules of the trade (common practice, no published source), each a setting.
struct FramingRules {
  double eyesAt = 1.0 / 3;  ///< where eyes are wanted, of the canvas's height from its top
  double headroom = 0.06;   ///< of the canvas's height, that is left above a head at least
  double room = 0.06;       ///< of the canvas's width, that somebody has more before him than behind
  double leastMove = 2;     ///< seconds that a move takes at least
  double crossing = 7;      ///< seconds that a window takes at least to travel its own width
  double bothWithin = 0.92; ///< of a window's width, that two subjects may take to be held in it together
  bool stacks = true;       ///< two that no window holds lie one above the other
  friend bool operator==(const FramingRules&, const FramingRules&) = default;
};

/// What a shot's course makes of it.
struct FramedShot {
  Subjects subjects; ///< with the course's confidence as their guess; empty where nothing is found
  std::map<std::string, Framing> framings; ///< by Deliverable::id, where following the subject is not enough
};

/// Frames a shot by its course: one point where the subject rests, a calm move where it travels, and for two that
/// matter a window that holds both, one for each, or the whole picture where these would show the same. Cells that
/// somebody has framed (`Deliverable::framings`) are left out. Where a window's edge would cut through a face or a word
/// that rests, and can go beside it, it does. `video` is the shot's source's. Thread-safe.
[[nodiscard]] FramedShot frameShot(const Course& course, const ShotLook& look, const Project& project, const Shot& shot,
                                   const VideoInfo& video, const FramingRules& rules = {});

/// The same for one of the other things that a course has found, by its place in the `others` of each part (the last
/// there is, where a part has fewer).
[[nodiscard]] Course courseWith(const Course& course, size_t other);
/// The same for the middle of the picture.
[[nodiscard]] Course courseInMiddle(const Course& course);

/// Where somebody has put a subject, against what was found in the shot.
struct Correction {
  std::vector<Appearance> face; ///< of whom it lies on
  double right = 0; ///< how far beside where he was found, in widths and heights of the head; down is positive
  double down = 0;
};
/// What was put right by placing a subject at a point, in shares of the picture; nothing where it lies on nobody.
[[nodiscard]] std::optional<Correction> correctionOf(const Course& course, double x, double y);
/// The same put right in another course, in which somebody is who looks alike: his way is the subject then, and lies as
/// far beside where he was found. Nothing where nobody looks alike, or it would change nothing.
[[nodiscard]] std::optional<Course> corrected(const Course& course, const Correction& correction);

/// Puts what a shot is framed by into a project: subjects, and framings in the cells that nobody has framed.
void lay(const FramedShot& framed, const std::string& shotId, Project& project);

} // namespace tromb
