// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <string>

namespace tromb {

/// Has the desktop show a notice, with the sound that it has for something that is done (freedesktop.org, "Desktop
/// Notifications Specification" and "Sound Naming Specification"). Does nothing where there is no desktop; does not
/// wait longer than two seconds. Thread-safe.
void showNotice(const std::string& summary, const std::string& words);

} // namespace tromb
