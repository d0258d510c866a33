// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "Error.h"
#include "project/Project.h"

#include <string>

namespace tromb::cli {

/// "WHAT;key=value;…": an element as `--text` and `--overlay` say it, in `element.text`: the words, in which \n begins
/// another line and semicolons may stand, or a file. What is not said has the window's defaults; without `out` it stays
/// to the end of the running order. Times at the rate of the first deliverable. Errors: InvalidArgument, with what
/// could be said instead.
[[nodiscard]] Result<Element> elementFromWords(const Project& project, ElementKind kind, const std::string& words);

/// The keys with their values, for the help of the command line.
[[nodiscard]] std::string elementKeysHelp(ElementKind kind);

} // namespace tromb::cli
