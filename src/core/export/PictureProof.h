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
  int64_t judged = 0;      ///< of these, how many could be told from others
  std::map<std::string, Fault> faults;
};

/// Decodes every picture of `media`, several stretches of the file at once, each from a key frame on. With a `plan`
/// each shot's bars are told apart; with its `traces` as well each picture is held against the composed one. `onFrame`
/// is told how many are done, from any of several threads, one at a time. Errors: Unreadable, Decoder, Unsupported,
/// those of TraceFile, Cancelled. Thread-safe.
[[nodiscard]] Result<SeenPictures> seePictures(const MediaInfo& media, const Plan* plan, const TraceFile* traces,
                                               const std::stop_token& stop,
                                               const std::function<void(int64_t)>& onFrame = {});

} // namespace tromb
