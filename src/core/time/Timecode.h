// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "time/FrameRate.h"

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

/// "0:12:10" or "1:04": hours only when there are any, whole seconds rounded down. For people.
[[nodiscard]] std::string clockText(const Rational& seconds);

} // namespace tromb
