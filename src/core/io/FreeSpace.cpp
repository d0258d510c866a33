// SPDX-License-Identifier: GPL-3.0-or-later
#include "io/FreeSpace.h"

#include <filesystem>

namespace tromb {

std::optional<int64_t> freeBytes(const std::string& folder) {
  namespace fs = std::filesystem;
  std::error_code refused;
  fs::path there = fs::absolute(folder, refused);
  while (!fs::exists(there, refused) && there.has_relative_path()) there = there.parent_path();
  const fs::space_info space = fs::space(there, refused);
  if (refused || space.capacity == 0) return std::nullopt;
  return int64_t(space.available);
}

} // namespace tromb
