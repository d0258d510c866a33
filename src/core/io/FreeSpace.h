// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <cstdint>
#include <optional>
#include <string>

namespace tromb {

/// Bytes that may be written on the disk of a folder, which need not be there yet. Returns nothing where that cannot be
/// told: what is no disk says that it has no room at all. May take long where the folder lies on another machine.
/// Thread-safe.
[[nodiscard]] std::optional<int64_t> freeBytes(const std::string& folder);

} // namespace tromb
