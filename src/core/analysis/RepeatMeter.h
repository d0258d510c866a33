// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "time/Repeats.h"

#include <map>
#include <optional>
#include <vector>

namespace tromb {

/// Tells whether pictures are repeated, by how much each differs from the one before it. One thread at a time.
class RepeatMeter {
public:
  /// Of the next picture of a stretch of neighbours: its number, and how much it differs from the one before, in 8-bit
  /// code values (temporal information, Rec. ITU-T P.910).
  void add(int64_t number, double change);
  /// True if something moves in the stretch so far, and some of its pictures are the one before.
  [[nodiscard]] bool repeats() const;
  /// What comes next does not follow what came before. What was seen already, in a stretch that reached as far, counts
  /// once.
  void endStretch();
  /// The cycle in which pictures are repeated, the shortest that nearly all of them keep to; empty where there is none.
  [[nodiscard]] std::optional<Repeats> cycle() const;
  /// The share of pictures that are repeated, of those that were seen where something moves.
  [[nodiscard]] double share() const;

private:
  [[nodiscard]] double liveliest() const;
  std::vector<std::pair<int64_t, double>> m_stretch;
  std::map<int64_t, bool> m_fresh; ///< by number
};

} // namespace tromb
