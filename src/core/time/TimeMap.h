// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "time/Ticks.h"

#include <array>
#include <optional>
#include <vector>

namespace tromb {

/// How the speed of a shot goes from one key to the next.
enum class SpeedEase {
  Step,  ///< keeps its key's speed, and is another at the next
  Even,  ///< changes by as much in every second
  Smooth ///< sets out and arrives without a jerk: 3u² − 2u³ of the way
};

inline constexpr std::array<const char*, 3> kSpeedEaseWords{"step", "even", "smooth"}; ///< in files, by SpeedEase

/// A speed that is reached at a moment of the source.
struct SpeedKey {
  Rational time;                      ///< seconds of the source, so that it stays on its picture
  Rational speed{1};                  ///< seconds of source a second; > 0
  SpeedEase ease = SpeedEase::Smooth; ///< from here to the next key, in the order of the source
  friend bool operator==(const SpeedKey&, const SpeedKey&) = default;
};

/// How time passes in a shot.
struct Pace {
  Rational speed{1};               ///< seconds of source a second; > 0. Where there are keys, theirs are used instead.
  bool reversed = false;           ///< from its out point back to its in point
  Rational held{0};                ///< seconds for which the picture at its in point stands still; 0: it goes on
  std::vector<SpeedKey> keys = {}; ///< ascending in time; before the first and after the last the speed stays
  friend bool operator==(const Pace&, const Pace&) = default;

  /// True if source and shot pass alike: nothing is changed.
  [[nodiscard]] bool asShot() const { return speed == Rational(1) && !reversed && held == Rational(0) && keys.empty(); }
};

/// Which moment of a source is shown when, in one shot. Moments of the shot count from its beginning; all are seconds,
/// rounded to ticks once, never summed from rounded parts. Moments before and after the shot go on at the speed of its
/// ends. Immutable value, thread-safe.
class TimeMap {
public:
  /// The source from `in` to before `out`; in < out, both on ticks; the speeds of `pace` > 0 and its keys ascending.
  TimeMap(const Rational& in, const Rational& out, const Pace& pace);

  [[nodiscard]] int64_t length() const { return m_length; } ///< ticks of running order, at least 1
  /// The moment of the source that is shown so long after the shot's beginning.
  [[nodiscard]] Rational sourceTime(const Rational& sinceBegin) const;
  /// When a moment of the source is shown: the inverse of sourceTime to the nearest tick. Of a held picture 0.
  [[nodiscard]] Rational sinceBegin(const Rational& sourceTime) const;
  /// Seconds of source that have passed since the shot's beginning, in whichever direction it goes.
  [[nodiscard]] Rational passed(const Rational& sinceBegin) const;
  /// Seconds of source a second at a moment, in whichever direction it goes; 0 while a picture is held. Rounded to
  /// millionths where it changes.
  [[nodiscard]] Rational speedAt(const Rational& sinceBegin) const;

  /// The least and the most of speedAt in the whole shot.
  struct Speeds {
    Rational least;
    Rational most;
    friend bool operator==(const Speeds&, const Speeds&) = default;
  };
  [[nodiscard]] Speeds speeds() const;
  /// The one speed of the whole shot, 0 of a held picture; empty where it changes.
  [[nodiscard]] std::optional<Rational> speed() const;
  [[nodiscard]] bool reversed() const { return m_reversed; }
  [[nodiscard]] bool held() const { return m_held; }
  [[nodiscard]] Rational in() const { return secondsOf(m_in); }
  [[nodiscard]] Rational out() const { return secondsOf(m_out); }

private:
  /// From one key to the next, along the curve of the keys: it runs through the whole source and does not know where a
  /// shot begins or ends, so that trimming one changes no speed. Ticks; the curve's own time is 0 at the first key.
  struct Stretch {
    int64_t begin = 0; ///< on the curve
    int64_t length = 1;
    int64_t from = 0; ///< in the source
    int64_t passes = 1;
    Rational first; ///< speed
    Rational last;
    SpeedEase ease = SpeedEase::Step;
  };
  void layKeys(const std::vector<SpeedKey>& keys);
  [[nodiscard]] static int64_t passedIn(const Stretch& stretch, int64_t since);
  [[nodiscard]] int64_t sourceOf(int64_t onCurve) const;
  [[nodiscard]] int64_t curveOf(int64_t ofSource) const;

  int64_t m_in;
  int64_t m_out;
  Rational m_speed; ///< where there are no keys
  bool m_reversed;
  bool m_held;
  int64_t m_length = 1;
  bool m_keyed = false;
  Rational m_before; ///< speed before the first key
  Rational m_after;  ///< and after the last
  int64_t m_firstKey = 0;
  int64_t m_lastKey = 0; ///< ticks of the source
  std::vector<Stretch> m_stretches;
  int64_t m_begin = 0; ///< on the curve, of the shot: of its in point, or of its out point if it is reversed
};

} // namespace tromb
