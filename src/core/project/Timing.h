// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "project/Footage.h"
#include "time/Cadence.h"
#include "time/FrameMap.h"

namespace tromb {

/// The rate that a source was shot at: its file's, or that of its pictures where they are repeated and somebody says
/// so. It must have a picture. Thread-safe.
[[nodiscard]] FrameRate shotRate(const Source& source, const MediaInfo& media);

/// How time passes in a shot as a deliverable shows it. Where every frame of the source is shown once
/// (Treatment::EveryFrame), its speed is the deliverable's rate by the source's, whatever speed the shot has; it goes
/// backwards if the shot does. Stills, held pictures and sources of a variable rate keep the shot's own pace, as all
/// other treatments do. Thread-safe.
[[nodiscard]] TimeMap timeIn(const Deliverable& deliverable, const Shot& shot, const Source& source,
                             const MediaInfo& media);

/// True if a deliverable takes its pictures of a shot from single fields: where the source is interlaced and its frames
/// do not go evenly into the deliverable's rate at the shot's speed, as 50 and 60 fields a second at rates above 30.
/// Thread-safe.
[[nodiscard]] bool readsFields(const Deliverable& deliverable, const Shot& shot, const Source& source,
                               const MediaInfo& media);
/// The clock of the pictures that it takes: that of the source's frames, or of its fields, which are twice as many, or
/// of what was repeated in it.
/// Thread-safe.
[[nodiscard]] FrameClock clockIn(const Deliverable& deliverable, const Shot& shot, const Source& source,
                                 const MediaInfo& media);

/// Which pictures a deliverable shows of a shot, and when. Immutable value, thread-safe.
struct ShotCadence {
  FrameMap frames;       ///< by the deliverable's own way between frames, or the shot's
  FrameClock clock;      ///< of the pictures that they are taken from
  FrameRate rate;        ///< the deliverable's
  bool byFields = false; ///< the pictures are single fields: see readsFields
  /// What cadenceText says of it.
  [[nodiscard]] Message words() const { return cadenceText(clock, rate, frames.time(), byFields); }
};
/// The media must have a moving picture. Thread-safe.
[[nodiscard]] ShotCadence cadenceIn(const Deliverable& deliverable, const Shot& shot, const Source& source,
                                    const MediaInfo& media);

/// A shot of a whole source, as a deliverable would show it: at its own speed, slowed where it is slow motion material.
[[nodiscard]] Shot wholeShot(const Deliverable& deliverable, const Source& source, const MediaInfo& media);

/// When the shots of the running order begin in one deliverable. That is where they begin in the project, but for a
/// deliverable in which some show every frame of their source once: those take as long as their frames do, and what
/// comes after them begins earlier or later. Immutable value, thread-safe.
class Timing {
public:
  /// Shots whose source cannot be used take as long as they do in the project.
  Timing(const Project& project, const Footage& footage, const Deliverable& deliverable);

  /// Where each shot begins, and one more: its end. Seconds of the deliverable's running order, on ticks.
  [[nodiscard]] const std::vector<Rational>& starts() const { return m_starts; }
  [[nodiscard]] const Rational& duration() const { return m_starts.back(); } ///< seconds
  /// True where it is the project's own: both directions below change nothing.
  [[nodiscard]] bool asProject() const { return m_shots.empty(); }
  /// The moment of the deliverable at which it shows what the project has at `moment`; both in seconds. Moments before
  /// and after the running order keep their distance from its ends.
  [[nodiscard]] Rational fromProject(const Rational& moment) const;
  /// The other way, to the tick.
  [[nodiscard]] Rational toProject(const Rational& moment) const;
  /// True of two deliverables of one project that show the same moments at the same times.
  [[nodiscard]] bool same(const Timing& other) const;

private:
  struct Times {
    TimeMap project;
    TimeMap here;
  };
  std::vector<Rational> m_projectStarts;
  std::vector<Rational> m_starts;
  std::vector<Times> m_shots; ///< empty where nothing differs
};

/// The seconds that the running order takes in a deliverable. Thread-safe.
[[nodiscard]] Rational durationIn(const Project& project, const Footage& footage, const Deliverable& deliverable);

} // namespace tromb
