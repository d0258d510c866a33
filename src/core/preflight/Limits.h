// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "preflight/SpecLine.h"

#include <optional>

namespace tromb {

/// The lines of the limits of a destination alone; none where the deliverable has no destination. Thread-safe.
[[nodiscard]] std::vector<SpecLine> limitLines(const Project& project, const Deliverable& deliverable,
                                               const SpecGrounds& grounds = {});

/// Bytes of the whole file, as far as that can be known before it is made: from the bit rates, or from a sample.
[[nodiscard]] std::optional<int64_t> bytesAhead(const Deliverable& deliverable, const Rational& seconds,
                                                const SpecGrounds& grounds);

} // namespace tromb
