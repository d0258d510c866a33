// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "Error.h"
#include "geometry/Rect.h"
#include "project/Project.h"

#include <string>
#include <string_view>
#include <utility>
#include <vector>

namespace tromb::cli {

/// "key=value;key=value" as ordered pairs. A first part without "=" gets the key "". A value may be drop-frame
/// timecode, whose own semicolon parts nothing. Errors: InvalidArgument.
[[nodiscard]] Result<std::vector<std::pair<std::string, std::string>>> parsePairs(std::string_view text);
/// "1080x1920".
[[nodiscard]] Result<Size> parseSize(std::string_view text);
/// A whole number in [least, most].
[[nodiscard]] Result<int64_t> parseInteger(std::string_view text, int64_t least, int64_t most);
/// Deliverables by name, all when none are named, as ids. Errors: InvalidArgument names the ones there are.
[[nodiscard]] Result<std::vector<std::string>> deliverableIds(const Project& project,
                                                              const std::vector<std::string>& names);

/// Errors: InvalidArgument names the ones there are.
[[nodiscard]] Result<Region> regionNamed(const Project& project, const std::string& name);

} // namespace tromb::cli
