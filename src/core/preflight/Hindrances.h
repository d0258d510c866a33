// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "preflight/SpecLine.h"

namespace tromb {

/// What mends it that a deliverable cannot be made; nothing where only another canvas, rate or bit rate does.
[[nodiscard]] std::optional<Fix> mending(Hindrance::By by, const Deliverable& deliverable);

} // namespace tromb
