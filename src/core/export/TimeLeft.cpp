// SPDX-License-Identifier: GPL-3.0-or-later
#include "export/TimeLeft.h"

#include <algorithm>
#include <map>

namespace tromb {
namespace {

// Common practice, no published source.
constexpr double kTellsFrom = 0.02;   ///< of the length
constexpr double kOwnPaceFrom = 0.25; ///< of a part, from which on it is known by its own pace alone

} // namespace

TimeLeft::TimeLeft(std::vector<Part> parts) : m_parts(std::move(parts)), m_known(m_parts.size()) {
  for (const Part& part : m_parts) m_all += part.length;
}

void TimeLeft::add(size_t part, double length, double seconds) {
  m_known[part].length += length;
  m_known[part].seconds += seconds;
  m_elapsed += seconds;
}

std::optional<double> TimeLeft::remaining() const {
  double made = 0;
  double skipped = 0;
  double guessed = 0; // what all that was made was guessed at
  struct Kind {
    double seconds = 0;
    double guessed = 0;
  };
  std::map<size_t, Kind> kinds;
  for (size_t i = 0; i < m_parts.size(); ++i) {
    const double guess = m_known[i].length * m_parts[i].guess;
    made += m_known[i].length;
    skipped += m_known[i].skipped;
    guessed += guess;
    Kind& kind = kinds[m_parts[i].kind];
    kind.seconds += m_known[i].seconds;
    kind.guessed += guess;
  }
  if (made <= 0 || made < kTellsFrom * (m_all - skipped) || guessed <= 0) return std::nullopt;
  double left = 0;
  for (size_t i = 0; i < m_parts.size(); ++i) {
    const Part& part = m_parts[i];
    const Known& known = m_known[i];
    const double rest = part.length - known.length - known.skipped;
    if (rest <= 0) continue;
    const Kind& kind = kinds[part.kind];
    const double others =
        kind.guessed > 0 ? part.guess * kind.seconds / kind.guessed : part.guess * m_elapsed / guessed;
    const double own = known.length > 0 ? known.seconds / known.length : others;
    const double share = std::min(1.0, known.length / (kOwnPaceFrom * part.length));
    left += rest * (share * own + (1 - share) * others);
  }
  return left;
}

} // namespace tromb
