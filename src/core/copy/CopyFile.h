// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "copy/CopyPlan.h"

#include <functional>
#include <string>

namespace tromb {

struct CopyRequest {
  CopyPlan plan;
  std::string target; ///< its ending chooses the container
  bool overwrite = false;
  std::function<void(double)> onFraction = {}; ///< told how far it is, 0 to 1, by the calling thread
};

/// What was made.
struct CopiedFile {
  std::string path;
  int64_t frames = 0;
  int64_t encoded = 0; ///< of them
  int64_t bytes = 0;
};

/// Joins the parts of a plan into a new file: whole groups of pictures are copied to the bit, and the few at cut edges
/// are encoded. All streams of sound are copied. The pictures round every cut are read back
/// before the file gets its name. Errors: Unsupported where an edge would have to be encoded and cannot be,
/// InvalidArgument (an ending that is no container's), Exists, CannotWrite, Encoder, Decoder, those of reading,
/// Cancelled. Thread-safe.
[[nodiscard]] Result<CopiedFile> copyParts(const CopyRequest& request, std::stop_token stop = {});

} // namespace tromb
