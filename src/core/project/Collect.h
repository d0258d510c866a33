// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "project/Project.h"

#include <functional>
#include <stop_token>

namespace tromb {

struct CollectProgress {
  std::string file;  ///< name of the one being copied
  int64_t bytes = 0; ///< written and read back so far: each file counts twice
  int64_t total = 0;
};

/// Copies a project with all its footage into `folder`: NAME.tromb and the files in "footage" beside it. Every copy
/// is read back and compared with its original. Returns the path of the copied project. On an error or a stop
/// everything that was copied is removed again.
/// Errors: Missing and Unreadable (a source), CannotWrite, Exists (the folder holds that project or a "footage"
/// already), Cancelled. Thread-safe for different folders.
[[nodiscard]] Result<std::string> collectProject(const Project& project, const std::string& folder,
                                                 std::stop_token stop = {},
                                                 const std::function<void(const CollectProgress&)>& onProgress = {});

} // namespace tromb
