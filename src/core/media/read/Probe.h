// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "Error.h"
#include "media/MediaInfo.h"

#include <stop_token>
#include <string>

namespace tromb {

struct ProbeOptions {
  std::stop_token stop;
  std::string indexFolder; ///< where indexes of files are kept, see IndexStore; empty: they are made each time
};

/// Reads a file's facts. No more pictures are decoded than it takes to count them: none or the first one, all of them
/// in files that tell no times. Files whose container has no complete index are read whole, once; see FileIndex.
/// Errors: Missing, Unreadable (also where reading asks for more memory than there is), NotMedia, Unsupported,
/// Cancelled. Thread-safe.
[[nodiscard]] Result<MediaInfo> probe(const std::string& path, const ProbeOptions& options = {});

} // namespace tromb
