// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <cstddef>
#include <optional>
#include <vector>

namespace tromb {

/// How long it takes yet to go through parts that are not equally hard, by what has been gone through so far: each part
/// by its own pace once there is one, else by that of its kind, else by a guess beforehand. One thread at a time.
class TimeLeft {
public:
  struct Part {
    double length = 0; ///< in any unit that is the same for all
    double guess = 1;  ///< how hard a unit of it is, in any unit that is the same for all; over 0
    size_t kind = 0;   ///< parts of one kind are hard alike, such as those of one source
  };
  explicit TimeLeft(std::vector<Part> parts);
  /// `seconds` have gone by while `length` of a part was gone through.
  void add(size_t part, double length, double seconds);
  /// What was there already, and took no time.
  void skip(size_t part, double length) { m_known[part].skipped += length; }
  /// Seconds for all that has not been gone through; nothing before a fiftieth of it has been.
  [[nodiscard]] std::optional<double> remaining() const;
  [[nodiscard]] double elapsed() const { return m_elapsed; } ///< seconds that were added

private:
  struct Known {
    double length = 0;
    double seconds = 0;
    double skipped = 0;
  };
  std::vector<Part> m_parts;
  std::vector<Known> m_known;
  double m_all = 0;
  double m_elapsed = 0;
};

} // namespace tromb
