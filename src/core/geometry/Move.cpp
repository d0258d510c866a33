// SPDX-License-Identifier: GPL-3.0-or-later
#include "geometry/Move.h"

#include <algorithm>
#include <cmath>

namespace tromb {
namespace {

double value(const MoveKey& key, int axis) {
  return axis == 0 ? key.x : axis == 1 ? key.y : std::log(key.zoom);
}

/// Slope at a key from those on both sides: their harmonic mean, weighted by the lengths; 0 at a turning point.
double slopeAt(const Move& move, size_t at, int axis) {
  // A smooth part begins and ends at rest.
  if (at == 0 || at + 1 == move.size() || move[at - 1].ease != Ease::Smooth || move[at].ease != Ease::Smooth) return 0;
  const double before = (move[at].time - move[at - 1].time).toDouble();
  const double after = (move[at + 1].time - move[at].time).toDouble();
  const double left = (value(move[at], axis) - value(move[at - 1], axis)) / before;
  const double right = (value(move[at + 1], axis) - value(move[at], axis)) / after;
  if (left * right <= 0) return 0;
  const double share = (before + 2 * after) / (3 * (before + after));
  return left * right / (share * right + (1 - share) * left);
}

} // namespace

MovePlace placeAt(const Move& move, double seconds) {
  const auto next = std::upper_bound(move.begin(), move.end(), seconds,
                                     [](double time, const MoveKey& key) { return time < key.time.toDouble(); });
  const MoveKey& a = next == move.begin() ? move.front() : *(next - 1);
  if (next == move.begin() || next == move.end() || a.ease == Ease::Hold) return {a.x, a.y, a.zoom};
  const auto at = size_t(next - move.begin()) - 1;
  const double length = (next->time - a.time).toDouble();
  const double u = (seconds - a.time.toDouble()) / length;
  const auto between = [&](int axis) {
    const double from = value(a, axis);
    const double to = value(*next, axis);
    if (a.ease == Ease::Linear) return from + (to - from) * u;
    const double eased = u * u * (3 - 2 * u);
    if (a.ease == Ease::Eased) return from + (to - from) * eased;
    const double leave = slopeAt(move, at, axis) * length;
    const double arrive = slopeAt(move, at + 1, axis) * length;
    return from + (to - from) * eased + leave * u * (1 - u) * (1 - u) - arrive * u * u * (1 - u);
  };
  return {between(0), between(1), std::exp(between(2))};
}

bool moves(const Move& move) {
  return std::any_of(move.begin(), move.end(), [&](const MoveKey& key) {
    return key.x != move.front().x || key.y != move.front().y || key.zoom != move.front().zoom;
  });
}

void setKey(Move& move, const MoveKey& key) {
  const auto at = std::lower_bound(move.begin(), move.end(), key.time,
                                   [](const MoveKey& each, const Rational& time) { return each.time < time; });
  if (at != move.end() && at->time == key.time)
    *at = key;
  else
    move.insert(at, key);
}

Move reversed(const Move& move, const Rational& from, const Rational& to) {
  Move back;
  for (auto key = move.rbegin(); key != move.rend(); ++key) {
    if (key->time < from || key->time > to) continue;
    MoveKey turned = *key;
    turned.time = from + to - key->time;
    // The way between two keys is that of the earlier one, which is now the later.
    if (key + 1 != move.rend()) turned.ease = (key + 1)->ease;
    back.push_back(turned);
  }
  return back;
}

Move retimed(const Move& move, const Rational& round, const Rational& factor, const Rational& by) {
  Move changed = move;
  for (MoveKey& key : changed) key.time = round + (key.time - round) * factor + by;
  return changed;
}

Move shifted(const Move& move, const Rational& by) {
  Move later = retimed(move, Rational(0), Rational(1), by);
  const auto first =
      std::find_if(later.begin(), later.end(), [](const MoveKey& key) { return !(key.time < Rational(0)); });
  if (first == later.begin()) return later;
  MoveKey begin = *(first - 1);
  const MovePlace place = placeAt(later, 0);
  begin.time = Rational(0);
  begin.x = place.x;
  begin.y = place.y;
  begin.zoom = place.zoom;
  const bool there = first != later.end() && first->time == Rational(0);
  later.erase(later.begin(), first);
  if (!there) later.insert(later.begin(), begin);
  return later;
}

const char* easeWord(Ease ease) {
  static const char* const kWords[] = {"hold", "linear", "eased", "smooth"};
  return kWords[int(ease)];
}

} // namespace tromb
