// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "Error.h"
#include "time/Rational.h"

#include <string>
#include <string_view>
#include <vector>

namespace tromb {

/// Words that go along with what is said, and when. Times in seconds; out > in.
struct Caption {
  Rational in;
  Rational out;
  std::string text; ///< UTF-8, without marks; lines are parted by a line feed
  friend bool operator==(const Caption&, const Caption&) = default;
};

/// What a file of captions holds.
struct ReadCaptions {
  std::vector<Caption> captions; ///< in order of time
  size_t dropped = 0;            ///< parts of the file that no caption could be made of
  size_t firstDropped = 0;       ///< the line of the first of them, counted from 1; 0 where there is none
};

inline constexpr size_t kMostCaptionFile = 20'000'000; ///< bytes

/// Reads SubRip or WebVTT (W3C, "WebVTT: The Web Video Text Tracks Format", 4 and 6), whichever it is, with any ends of
/// lines; text that is neither UTF-8 nor marked as UTF-16 is taken for Windows-1252. Of marks within the text only the
/// words are kept; notes, styles and regions are passed over. What is broken is left out and counted. Errors: NotMedia
/// where no caption is found. Thread-safe.
[[nodiscard]] Result<ReadCaptions> parseCaptions(std::string_view bytes);
/// The same of a file. Errors: also Missing, Unreadable.
[[nodiscard]] Result<ReadCaptions> readCaptions(const std::string& path);

enum class CaptionFormat { SubRip, WebVtt };
/// A file of captions in UTF-8; times to the millisecond. Blank lines within a caption, which would end it, are left
/// out.
[[nodiscard]] std::string captionFile(const std::vector<Caption>& captions, CaptionFormat format);

} // namespace tromb
