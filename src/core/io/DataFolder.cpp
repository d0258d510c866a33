// SPDX-License-Identifier: GPL-3.0-or-later
#include "io/DataFolder.h"

#include <cstdlib>
#include <filesystem>

namespace tromb {

std::string dataFolder() {
  static const std::string folder = [] {
    namespace fs = std::filesystem;
    if (const char* named = std::getenv("TROMB_DATA_DIR"); named && *named) return std::string(named);
    std::error_code status;
    const fs::path program = fs::read_symlink("/proc/self/exe", status);
    const fs::path installed = program.parent_path().parent_path() / "share" / "tromb";
    if (!status && fs::is_directory(installed, status)) return installed.string();
    return std::string(TROMB_SOURCE_DATA_DIR);
  }();
  return folder;
}

std::string ownDataFolder() {
  if (const char* named = std::getenv("XDG_DATA_HOME"); named && *named == '/') return std::string(named) + "/tromb";
  if (const char* home = std::getenv("HOME"); home && *home) return std::string(home) + "/.local/share/tromb";
  return {};
}

} // namespace tromb
