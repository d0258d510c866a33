// SPDX-License-Identifier: GPL-3.0-or-later
// Where the program keeps what is not part of a project.
#pragma once

#include <QStandardPaths>
#include <QString>

namespace tromb {

/// A folder of ours in one of the system's places.
[[nodiscard]] inline QString folderIn(QStandardPaths::StandardLocation place, const char* name) {
  return QStandardPaths::writableLocation(place) + QLatin1Char('/') + QLatin1String(name);
}
[[nodiscard]] inline QString presetFolder() {
  return folderIn(QStandardPaths::AppDataLocation, "presets");
}
/// Where earlier versions kept sets of deliverables.
[[nodiscard]] inline QString templateFolder() {
  return folderIn(QStandardPaths::AppDataLocation, "templates");
}
[[nodiscard]] inline QString destinationFolder() {
  return folderIn(QStandardPaths::AppDataLocation, "destinations");
}
[[nodiscard]] inline QString framingFolder() {
  return folderIn(QStandardPaths::AppDataLocation, "framings");
}
[[nodiscard]] inline QString recoveryFolder() {
  return folderIn(QStandardPaths::AppLocalDataLocation, "recovery");
}
/// What can be made again: "indexes", "lighter", "measured", "posters" and "waveforms" of sources, "samples" of
/// deliverables.
[[nodiscard]] inline QString cacheFolder(const char* name) {
  return folderIn(QStandardPaths::CacheLocation, name);
}

} // namespace tromb
