// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "analysis/ShotLook.h"
#include "analysis/SubjectTracker.h"
#include "geometry/WaysToFill.h"

#include <optional>

namespace tromb {

/// One thing that was seen through a shot or a part of it between cuts.
struct Way {
  Sight::Kind by = Sight::Kind::Detail;
  Track track;         ///< One point a glance; between cuts without gaps. Of a face the point is where its eyes are.
  double towards = 0;  ///< as Sight::towards, where it is mostly the same; else 0
  double there = 0;    ///< share of the part in which it was seen, 0 to 1
  double strength = 0; ///< how much it matters beside others that were found in the same way
  std::vector<Appearance> appearances = {}; ///< of a face, at some moments
};

/// What a shot shows between two cuts.
struct CoursePart {
  int64_t first = 0;
  int64_t end = 1;         ///< exclusive
  std::vector<Way> ways;   ///< The subject, or two that matter alike, from left to right; none in an empty picture.
  std::vector<Way> others; ///< what else it might be, the likeliest first
  double confidence = 0;   ///< 0 to 1
};

/// What the subject of a shot does.
struct Course {
  enum class Kind {
    Rests,  ///< it stays where it is
    Moves,  ///< it travels, or each part has another place
    Two,    ///< two matter alike in some part
    Unsure, ///< nothing was found that is likely enough
  };
  Kind kind = Kind::Unsure;
  double confidence = 0;         ///< 0 to 1: the least of its parts
  std::vector<CoursePart> parts; ///< in order; never empty
};

/// Makes out the subject of a shot from what was seen: faces before what moves, what moves before what stands out. No
/// way goes across a cut. Thread-safe.
[[nodiscard]] Course courseOf(const ShotLook& look);

/// Where the subjects lie, a few dozen times at most; empty of a shot in which nothing was found. `clock` is the
/// source's.
[[nodiscard]] std::vector<SeenBox> seenBoxes(const Course& course, const FrameClock& clock);

/// Returns true if it stays where it is, but for swaying to and fro.
[[nodiscard]] bool rests(const Way& way);
/// Its middle box: the median of all places and sizes.
[[nodiscard]] TrackPoint middlePoint(const Track& track);

[[nodiscard]] const char* courseWord(Course::Kind kind); ///< "rests", "moves", "two", "unsure"
[[nodiscard]] const char* sightWord(Sight::Kind kind);   ///< "face", "motion", "detail", "words"

} // namespace tromb
