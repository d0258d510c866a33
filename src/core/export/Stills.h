// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "render/PictureFile.h"
#include "render/Plan.h"

#include <functional>
#include <optional>
#include <stop_token>
#include <string>
#include <vector>

namespace tromb {

/// Pictures of deliverables: at one time of the running order, or of every shot, of which the frame in its middle is
/// taken.
struct StillRequest {
  std::vector<Plan> plans;
  std::string projectName;
  std::string folder;         ///< made when it is not there
  std::optional<Rational> at; ///< seconds of the running order; empty: every shot
  PictureKind kind = PictureKind::Png;
  bool overwrite = false;
};

/// Writes them and returns their paths, in order; `onFile` is told each. What was written before an error stays.
/// Errors: InvalidArgument (a time behind the end), Exists, CannotWrite, Cancelled, and those of the sources.
[[nodiscard]] Result<std::vector<std::string>> exportStills(const StillRequest& request, const std::stop_token& stop,
                                                            const std::function<void(const std::string& path)>& onFile);

} // namespace tromb
