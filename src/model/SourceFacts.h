// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/Document.h"
#include "project/Timing.h"

#include <QString>
#include <optional>
#include <vector>

namespace tromb {

/// What a source is, in the words of the trade: "3840×2160 · 25 · progressive · 8 bit · Rec. 709 · stereo 48 kHz".
/// Its length is not part of it.
[[nodiscard]] QString factsLine(const Reading& source);
/// "1920×1080 · 25": the two that matter most.
[[nodiscard]] QString shortFacts(const Reading& source);

/// "stereo 48 kHz"
[[nodiscard]] QString streamWords(const AudioInfo& sound);

/// One thing that follows from what a source is, and what will be done about it.
struct Consequence {
  enum class Kind {
    Deliverable,
    Bars,
    Interlaced,
    NotSquare,
    Variable,
    Repeats,
    Hdr,
    Colour,
    Turned,
    Transparent,
    Silent,
    Sound,
    SlowMotion,
    Loudness
  };
  Kind kind;
  Cell::State state; ///< Good where nothing falls short
  QString about;     ///< "Story", "Bars"
  QString text;
  bool measured = false;                   ///< rather than taken from what the file says
  std::optional<ShotCadence> cadence = {}; ///< which frames are shown, where that is uneven
  Treatment treatment = Treatment::KeepTime;
};

/// What follows from a source for the project's deliverables (filling each canvas) and in itself.
[[nodiscard]] std::vector<Consequence> consequencesOf(const Document& document, const Source& source);

} // namespace tromb
