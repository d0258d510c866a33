// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QString>

namespace tromb {

/// Opens a file or folder with what the desktop has for it. False where it has nothing.
[[nodiscard]] bool openWithDesktop(const QString& path);

/// Opens the folder of a file with the file chosen, by the desktop's file manager (the interface
/// org.freedesktop.FileManager1, freedesktop.org "File Manager DBus Interface"), or else the folder alone. Does not
/// wait for it.
void showInFolder(const QString& path);

} // namespace tromb
