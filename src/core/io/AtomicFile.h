// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "Error.h"

#include <string>

namespace tromb {

/// Writes `text` to a temporary file beside `path`, syncs it and renames it over `path`; on any failure the old
/// file is whole and the temporary one gone. Errors: CannotWrite. Thread-safe for different paths.
[[nodiscard]] Status writeFileAtomically(const std::string& path, const std::string& text);

/// The same without syncing, for what is of no use after a crash and is written again and again: readers see the old or
/// the new text, never a part. Best effort.
void writeFileLightly(const std::string& path, const std::string& text);

/// The whole file. Errors: Missing, Unreadable; files over `mostBytes` are refused.
[[nodiscard]] Result<std::string> readWholeFile(const std::string& path, size_t mostBytes = 256'000'000);

} // namespace tromb
