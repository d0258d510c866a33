// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "preflight/SpecLine.h"
#include "project/Footage.h"

namespace tromb {

/// The lines of the limits of a destination alone; none where the deliverable has no destination. Thread-safe.
[[nodiscard]] std::vector<SpecLine> limitLines(const Project& project, const Footage& footage,
                                               const Deliverable& deliverable, const SpecGrounds& grounds = {});

} // namespace tromb
