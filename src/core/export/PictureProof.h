// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "export/Judge.h"
#include "geometry/Rect.h"
#include "media/MediaInfo.h"
#include "render/Plan.h"

#include <functional>
#include <map>
#include <stop_token>
#include <string>

namespace tromb {

/// What decoding every picture of a finished file has shown.
struct SeenPictures {
  int64_t frames = 0;
  int64_t outOfStep = 0; ///< pictures whose time stamp is not that of their place
  int64_t damaged = 0;
  double firstDamaged = 0; ///< seconds
  Bars bars;               ///< the worst of all shots
  bool compared = false;   ///< with what was composed
  int64_t judged = 0;      ///< How many of them could be told from others.
  std::map<std::string, Fault> faults;
  std::vector<float> likeness; ///< PictureTrace::likeness of each, where it was compared
};

/// Decodes every picture of `media`. The file is divided at key frames into stretches that are read at the same time.
/// With a `plan` the bars of each shot are measured by themselves; with its `traces` as well every picture is held
/// against the one that was composed. `onFrame` is told how many pictures are done: by several threads, but never by
/// two at a time. Errors: Unreadable, Decoder, Unsupported, those of TraceFile, Cancelled. Thread-safe.
[[nodiscard]] Result<SeenPictures> seePictures(const MediaInfo& media, const Plan* plan, const TraceFile* traces,
                                               const std::stop_token& stop,
                                               const std::function<void(int64_t)>& onFrame = {});

/// What is a bar in either, side by side.
[[nodiscard]] Bars widest(const Bars& a, const Bars& b);

} // namespace tromb
