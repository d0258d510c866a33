// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "Command.h"
#include "analysis/ShotFraming.h"
#include "preflight/Filling.h"
#include "project/Footage.h"

#include <nlohmann/json_fwd.hpp>

namespace tromb::cli {

/// What was found in a shot that nobody had framed.
struct FoundInShot {
  std::string shot; ///< its name
  Course course;
  std::vector<FillProposal> fills; ///< ways that lose less, where a plain fill falls short
};

/// Looks at all shots whose subject nobody has placed, and frames their cells that nobody has framed. `say`: a line for
/// each to the words, and for each cell that could be filled better. Shots whose source is not there are left out.
/// Errors: those of lookAtShot.
[[nodiscard]] Result<std::vector<FoundInShot>> frameSubjects(Project& project, const Footage& footage,
                                                             const Context& context, bool say);
[[nodiscard]] nlohmann::ordered_json toJson(const std::vector<FoundInShot>& found);
[[nodiscard]] bool anyUnsure(const std::vector<FoundInShot>& found);

} // namespace tromb::cli
