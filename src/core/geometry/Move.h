// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "time/Rational.h"

#include <string>
#include <vector>

namespace tromb {

/// How a place goes from one key to the next.
enum class Ease {
  Hold,   ///< it stays until the next key
  Linear, ///< at one speed
  Eased,  ///< starting and ending at rest: 3u² − 2u³
  Smooth, ///< on through the keys without a halt: monotone cubic, so that it never swings past a key
};

/// Where a window or a subject is at a moment.
struct MoveKey {
  Rational time;  ///< seconds of the source, from its first frame
  double x = 0.5; ///< 0 to 1 across the picture
  double y = 0.5;
  double zoom = 1; ///< ≥ 1; means nothing for a subject
  Ease ease = Ease::Eased;
  std::string unknown; ///< see Project.h
  friend bool operator==(const MoveKey&, const MoveKey&) = default;
};

/// Keys in order of time, no two at one time. One key is a place that stays; without keys there is no place.
using Move = std::vector<MoveKey>;

struct MovePlace {
  double x = 0.5;
  double y = 0.5;
  double zoom = 1;
  friend bool operator==(const MovePlace&, const MovePlace&) = default;
};

/// The place at a moment, in seconds of the source; before the first key and after the last it stays. Zoom goes in
/// equal ratios, so that a push looks even. Every value lies between those of the keys round it. Smooth parts follow
/// F. N. Fritsch and J. Butland, "A method for constructing local monotone piecewise cubic interpolants", SIAM J. Sci.
/// Stat. Comput. 5 (1984), with slope 0 where the smooth part begins and ends. The move must not be empty.
[[nodiscard]] MovePlace placeAt(const Move& move, double seconds);

/// Returns true if it is somewhere else at some time.
[[nodiscard]] bool moves(const Move& move);

/// Puts a key in, or over the one at its time.
void setKey(Move& move, const MoveKey& key);

/// The same path, run through backwards between `from` and `to`; keys outside are left out.
[[nodiscard]] Move reversed(const Move& move, const Rational& from, const Rational& to);
/// All keys later by `by`, and stretched round `round` by `factor` > 0.
[[nodiscard]] Move retimed(const Move& move, const Rational& round, const Rational& factor, const Rational& by);

/// All keys later by `by`, as for another shot. Keys that would come before the source begins are left out, and one at
/// its beginning takes their place.
[[nodiscard]] Move shifted(const Move& move, const Rational& by);

[[nodiscard]] const char* easeWord(Ease ease); ///< "hold", "linear", "eased", "smooth"

} // namespace tromb
