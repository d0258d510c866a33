// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "time/FrameClock.h"
#include "time/TimeMap.h"

namespace tromb {

/// What a deliverable's frame shows of a shot's source.
struct ShownFrames {
  int64_t frame = 0;         ///< of the source
  int64_t next = 0;          ///< the one towards which it lies; `frame` itself where it is shown alone
  double nextShare = 0;      ///< how much of `next`, or how far on the way to it, in [0, 1)
  bool interpolated = false; ///< what moves is moved on, instead of mixing the two
  friend bool operator==(const ShownFrames&, const ShownFrames&) = default;
};

/// What a shot shows between the frames of its source.
enum class Treatment {
  KeepTime,     ///< the nearest frame, never mixed
  EveryFrame,   ///< each frame once, so that the shot takes as long as its frames do: see project/Timing.h
  Mixed,        ///< the two neighbours, each by how near it is
  Interpolated, ///< what moves is moved on from one neighbour to the other: see picture/Between.h
};

inline constexpr std::array<const char*, 4> kTreatmentWords{"keep-time", "every-frame", "mixed",
                                                            "interpolated"}; ///< in files, by Treatment

/// Which frames of a source the frames of a deliverable show, in one shot. Of a constant rate it is the frame nearest
/// in time, ties to the earlier: of one speed k = ⌈n·Rs·v/R − ½⌉ in integers, exact over hours. Of a variable rate it
/// is the picture on screen at the frame's time, where one that begins less than half a deliverable frame later counts
/// as on screen already. Backwards the same holds, counted from the shot's end. Never outside the shot. Immutable
/// value, thread-safe.
class FrameMap {
public:
  FrameMap() : FrameMap(TimeMap(Rational(0), Rational(1), {}), FrameClock(FrameRate(), 1), FrameRate()) {}
  /// `clock` holds at least one frame; a still's holds one, which is shown throughout.
  FrameMap(const TimeMap& time, const FrameClock& clock, const FrameRate& rate,
           Treatment treatment = Treatment::KeepTime);

  [[nodiscard]] const TimeMap& time() const { return m_time; }
  [[nodiscard]] int64_t first() const { return m_first; } ///< source frame of the in point
  [[nodiscard]] int64_t end() const { return m_end; }     ///< one past the last source frame of the shot; > first
  /// What frame n of the shot shows, by its treatment; n ≥ 0.
  [[nodiscard]] ShownFrames shown(int64_t n) const;
  /// The source frame that is nearest to frame n of the shot.
  [[nodiscard]] int64_t nearest(int64_t n) const;
  /// The two source frames between which frame n of the shot lies in time, and how far it has come from one to the
  /// other.
  [[nodiscard]] ShownFrames between(int64_t n) const;

private:
  [[nodiscard]] int64_t within(int64_t frame) const;
  TimeMap m_time;
  FrameClock m_clock;
  FrameRate m_rate;
  Treatment m_treatment;
  int64_t m_first = 0;
  int64_t m_end = 1;
};

} // namespace tromb
