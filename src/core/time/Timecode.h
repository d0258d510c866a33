// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "time/FrameRate.h"

#include <optional>

namespace tromb {

/// Timecode labels after SMPTE ST 12-1. Drop-frame exists for 30000/1001 and 60000/1001 only.

/// Returns true if drop-frame labels exist for the rate.
[[nodiscard]] bool hasDropFrame(const FrameRate& rate);

/// The label of frame `frame` (≥ 0): "HH:MM:SS:FF", or "HH:MM:SS;FF" when `dropFrame` (needs hasDropFrame).
/// Hours run on past 24. Below one frame a second labels are whole seconds, those in which a frame begins.
[[nodiscard]] std::string timecode(int64_t frame, const FrameRate& rate, bool dropFrame = false);

/// The frame a label names. Refuses labels that do not exist, such as 00:01:00;00.
[[nodiscard]] Result<int64_t> frameOfTimecode(std::string_view label, const FrameRate& rate);

/// Reads a time as the command line does: "HH:MM:SS.mmm", seconds ("12.5") or timecode at `rate`. Seconds.
[[nodiscard]] Result<Rational> parseTime(std::string_view text, const FrameRate& rate);

/// The labels of a source whose file says which its first frame has (SMPTE ST 12-1). They begin anew after 24 hours.
struct SourceTimecode {
  int64_t first = 0;      ///< frames that the first label counts from 00:00:00:00, in [0, a day)
  bool dropFrame = false; ///< needs hasDropFrame
  friend bool operator==(const SourceTimecode&, const SourceTimecode&) = default;

  /// Reads the first label as a file has it, with ';' or '.' before the frames for drop-frame. Empty where it is none.
  [[nodiscard]] static std::optional<SourceTimecode> parse(std::string_view label, const FrameRate& rate);
  [[nodiscard]] std::string labelOf(int64_t frame, const FrameRate& rate) const; ///< frame ≥ 0
  /// The frame of a label, of a source with so many frames; either separator before the frames will do. Errors:
  /// InvalidArgument, also for a label that is not in the source.
  [[nodiscard]] Result<int64_t> frameOf(std::string_view label, const FrameRate& rate, int64_t frames) const;
};

/// How positions are written for people.
enum class PositionStyle { Timecode, Frames, Seconds };

/// "00:00:05:03", "128" or "5.12": a time on a frame of `rate`. Seconds have as many digits as tell frames apart, two
/// or three. The time is ≥ 0.
[[nodiscard]] std::string positionText(const Rational& seconds, const FrameRate& rate, PositionStyle style);

/// A time that somebody has typed.
struct TypedTime {
  Rational seconds;       ///< on a frame of the rate
  bool nextLabel = false; ///< the label is one that drop-frame leaves out: this is the next that exists
};
/// Reads what somebody types where the position is `now`: what parseTime reads; "128f", a frame; "+10" and "-10",
/// frames from now; "++1:00" and "--1:00", seconds and frames from now, with minutes and hours before them, or seconds
/// alone
/// ("++1.5"). A bare number is what `style` writes. Errors: InvalidArgument, also for what lies before 0.
[[nodiscard]] Result<TypedTime> typedTime(std::string_view text, const Rational& now, const FrameRate& rate,
                                          PositionStyle style = PositionStyle::Timecode);

/// "0:12:10" or "1:04": hours only when there are any, whole seconds rounded down. For people.
[[nodiscard]] std::string clockText(const Rational& seconds);

} // namespace tromb
