// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <string>

namespace tromb {

/// The folder with destinations, fonts and icons: $TROMB_DATA_DIR, else beside the installed program
/// (../share/tromb), else the source tree this was built from. Without a trailing slash. Thread-safe.
[[nodiscard]] std::string dataFolder();
/// The folder of what the user keeps for the program beside any project: $XDG_DATA_HOME/tromb, else
/// ~/.local/share/tromb (XDG Base Directory Specification). Without a trailing slash; may not exist. Empty where there
/// is no home. Thread-safe.
[[nodiscard]] std::string ownDataFolder();

} // namespace tromb
