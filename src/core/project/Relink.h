// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "project/Project.h"

#include <functional>
#include <stop_token>

namespace tromb {

/// A missing source and the file that it was found to be.
struct FoundFile {
  std::string sourceId;
  std::string path;
  bool certain = false; ///< the fingerprint is the same; else only the file's name is
};

/// Looks for missing sources in a folder and all below it: by fingerprint, whatever the file is called now, else by
/// name for sources whose fingerprint was never taken. Files are only read where their length fits. `onFolder` is
/// told where it looks. Stopping returns what was found so far. Thread-safe.
[[nodiscard]] std::vector<FoundFile> findMissing(const std::vector<Source>& missing, const std::string& folder,
                                                 std::stop_token stop = {},
                                                 const std::function<void(const std::string&)>& onFolder = {});

} // namespace tromb
