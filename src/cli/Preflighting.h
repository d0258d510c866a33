// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "Command.h"
#include "preflight/Preflight.h"

namespace tromb::cli {

/// What preflight rests on beside the project: which files have become others, and, where it is asked for, what
/// measuring the sources shows, which reads all their sound. Sources that cannot be measured are left out.
[[nodiscard]] PreflightGrounds groundsFor(const Context& context, const Project& project, const Footage& footage,
                                          bool measure);

/// Says findings to people, a line each.
void sayFindings(std::ostream& to, const std::vector<Finding>& findings);

} // namespace tromb::cli
