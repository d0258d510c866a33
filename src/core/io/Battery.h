// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

namespace tromb {

/// True where the machine lives on its battery just now, as the power service says (org.freedesktop.UPower, its
/// property OnBattery); false where there is no such service. Does not wait longer than two seconds. Thread-safe.
[[nodiscard]] bool runsOnBattery();

} // namespace tromb
