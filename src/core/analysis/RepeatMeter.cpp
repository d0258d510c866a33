// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/RepeatMeter.h"

#include <algorithm>
#include <array>

namespace tromb {
namespace {

// Measured on repeated pictures that were coded well and badly, and on footage that repeats none.
constexpr double kMoves = 1.5;    ///< change of the liveliest picture of a stretch; below, nothing moves
constexpr double kRepeated = 0.2; ///< share of the liveliest change, below which a picture is the one before
constexpr double kAgree = 0.85;   ///< of the pictures at one place of a cycle
constexpr int kLeastSeen = 4;     ///< at each place of a cycle

} // namespace

void RepeatMeter::add(int64_t number, double change) {
  m_stretch.emplace_back(number, change);
}

/// The change of its liveliest picture; 0 where nothing moves.
double RepeatMeter::liveliest() const {
  double most = 0;
  for (const auto& [number, change] : m_stretch) most = std::max(most, change);
  return most >= kMoves ? most : 0;
}

bool RepeatMeter::repeats() const {
  const double most = liveliest();
  return most > 0 && std::any_of(m_stretch.begin(), m_stretch.end(),
                                 [&](const auto& each) { return each.second < kRepeated * most; });
}

void RepeatMeter::endStretch() {
  if (const double most = liveliest(); most > 0)
    for (const auto& [number, change] : m_stretch) m_fresh.emplace(number, change >= kRepeated * most);
  m_stretch.clear();
}

std::optional<Repeats> RepeatMeter::cycle() const {
  for (int length = 2; length <= 6; ++length) {
    std::array<int, Repeats::kMostCycle> fresh{};
    std::array<int, Repeats::kMostCycle> all{};
    for (const auto& [number, isFresh] : m_fresh) {
      const auto place = size_t(number % length);
      ++all[place];
      fresh[place] += isFresh;
    }
    Repeats found{length, 0};
    bool keeps = true;
    for (int place = 0; place < length && keeps; ++place) {
      const double share = all[size_t(place)] > 0 ? double(fresh[size_t(place)]) / all[size_t(place)] : 0;
      keeps = all[size_t(place)] >= kLeastSeen && (share >= kAgree || share <= 1 - kAgree);
      if (share >= kAgree) found.fresh |= 1U << place;
    }
    if (keeps && found.valid()) return found;
  }
  return {};
}

double RepeatMeter::share() const {
  const auto repeated = std::count_if(m_fresh.begin(), m_fresh.end(), [](const auto& each) { return !each.second; });
  return m_fresh.empty() ? 0 : double(repeated) / double(m_fresh.size());
}

} // namespace tromb
