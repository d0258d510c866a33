// SPDX-License-Identifier: GPL-3.0-or-later
// Where the program keeps what is not part of a project.
#pragma once

#include <QStandardPaths>
#include <QString>

namespace tromb {

[[nodiscard]] inline QString templateFolder() {
  return QStandardPaths::writableLocation(QStandardPaths::AppDataLocation) + QStringLiteral("/templates");
}
[[nodiscard]] inline QString framingFolder() {
  return QStandardPaths::writableLocation(QStandardPaths::AppDataLocation) + QStringLiteral("/framings");
}
[[nodiscard]] inline QString recoveryFolder() {
  return QStandardPaths::writableLocation(QStandardPaths::AppLocalDataLocation) + QStringLiteral("/recovery");
}
[[nodiscard]] inline QString measuredFolder() {
  return QStandardPaths::writableLocation(QStandardPaths::CacheLocation) + QStringLiteral("/measured");
}
[[nodiscard]] inline QString posterFolder() {
  return QStandardPaths::writableLocation(QStandardPaths::CacheLocation) + QStringLiteral("/posters");
}
[[nodiscard]] inline QString waveformFolder() {
  return QStandardPaths::writableLocation(QStandardPaths::CacheLocation) + QStringLiteral("/waveforms");
}
[[nodiscard]] inline QString indexFolder() {
  return QStandardPaths::writableLocation(QStandardPaths::CacheLocation) + QStringLiteral("/indexes");
}
[[nodiscard]] inline QString lightFolder() {
  return QStandardPaths::writableLocation(QStandardPaths::CacheLocation) + QStringLiteral("/lighter");
}

} // namespace tromb
