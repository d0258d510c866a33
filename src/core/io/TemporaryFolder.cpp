// SPDX-License-Identifier: GPL-3.0-or-later
#include "io/TemporaryFolder.h"

#include "io/Descriptor.h"

#include <cerrno>
#include <cstdlib>
#include <filesystem>

namespace tromb {

namespace fs = std::filesystem;

Result<TemporaryFolder> TemporaryFolder::create() {
  std::error_code status;
  std::string path = (fs::temp_directory_path(status) / "tromb-XXXXXX").string();
  if (status) return cannotWrite(path, status.value());
  if (!::mkdtemp(path.data())) return cannotWrite(path, errno);
  return TemporaryFolder(std::move(path));
}

TemporaryFolder::~TemporaryFolder() {
  std::error_code ignored;
  if (!m_path.empty()) fs::remove_all(m_path, ignored);
}

} // namespace tromb
