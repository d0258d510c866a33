// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "export/PictureProof.h"
#include "picture/Trace.h"
#include "render/Plan.h"

namespace tromb {

/// What reading a finished loop has shown.
struct SeenLoop {
  Size size;
  int times = 0;         ///< that it is shown; 0 for ever
  Rational duration;     ///< seconds
  SeenPictures pictures; ///< its frames are those of the plan that something is shown in
};

/// Reads a loop that was made by a plan and holds every picture against the one that was composed. A picture may stand
/// for several frames that are equal. Errors: those of LoopReader and TraceFile, Unsupported. Thread-safe.
[[nodiscard]] Result<SeenLoop> seeLoop(const std::string& path, const Plan& plan, const TraceFile* traces,
                                       const std::stop_token& stop, const std::function<void(int64_t)>& onFrame = {});

} // namespace tromb
