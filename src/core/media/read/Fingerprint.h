// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "Error.h"

#include <string>

namespace tromb {

/// By which a file is known again when it was moved or renamed: its length and a SHA-256 over three stretches of
/// 64 KiB at its beginning, middle and end, as "LENGTH-HEX". Reads at most 192 KiB, so it is quick on any card.
/// Two cuts of one recording differ in it; a copy does not. Errors: Missing, Unreadable. Thread-safe.
[[nodiscard]] Result<std::string> fingerprintOf(const std::string& path);

} // namespace tromb
