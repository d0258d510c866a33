// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "media/read/Probe.h"

#include <optional>
#include <stop_token>
#include <utility>
#include <vector>

namespace tromb {

/// A part of a file that is to be kept, and how much of it can be copied as it is: whole groups of pictures, and of the
/// last group as much as nothing behind it is needed for. Frames are those of the file.
struct CopyPart {
  int64_t first = 0; ///< frames [first, end)
  int64_t end = 0;
  int64_t copied = 0;    ///< the first frame that is copied; `end` where none is
  int64_t copiedEnd = 0; ///< … and the one behind the last
  bool open = false;     ///< pictures are left out that are decoded after the first that is copied and shown before it
  /// Where its cuts would be free: the nearest frames before and behind at which a part can begin.
  std::optional<int64_t> freeBefore;
  std::optional<int64_t> freeBehind;
  [[nodiscard]] int64_t frames() const { return end - first; }
  [[nodiscard]] int64_t encodedBefore() const { return copied - first; }
  [[nodiscard]] int64_t encodedBehind() const { return end - copiedEnd; }
};

/// When a frame begins; of the one behind the last, when that ends.
[[nodiscard]] Rational cutTime(const FrameClock& clock, int64_t frame);

/// What a file is made of that keeps parts of another.
struct CopyPlan {
  MediaInfo media;
  std::vector<CopyPart> parts;
  /// Why pictures at cut edges cannot be encoded so that they fit what is copied; empty where they can.
  Message noEdges;
  [[nodiscard]] int64_t frames() const;
  [[nodiscard]] int64_t encoded() const; ///< frames that are not copied
};

/// Looks which pictures of parts of a film can be copied. `keep` are times in seconds, the second of each exclusive;
/// each goes to the nearest frame. Reads the file round the cuts alone. Errors: InvalidArgument (a part is empty, or
/// lies behind the end), NotMedia (no moving picture), Unsupported (its packets tell no times, or its clock jumps),
/// those of InputFile. Thread-safe.
[[nodiscard]] Result<CopyPlan> planCopy(const MediaInfo& media, const std::vector<std::pair<Rational, Rational>>& keep,
                                        std::stop_token stop = {});

/// The same of frames [first, second) of the film, where they are known.
[[nodiscard]] Result<std::vector<CopyPart>>
copyPartsOf(const MediaInfo& media, const std::vector<std::pair<int64_t, int64_t>>& keep, std::stop_token stop = {});

} // namespace tromb
