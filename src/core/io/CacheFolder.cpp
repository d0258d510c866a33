// SPDX-License-Identifier: GPL-3.0-or-later
#include "io/CacheFolder.h"

#include "io/AtomicFile.h"
#include "io/Digest.h"

#include <algorithm>
#include <filesystem>
#include <utility>
#include <vector>

namespace tromb {
namespace {

namespace fs = std::filesystem;

} // namespace

std::string CacheFolder::pathOf(const std::string& key) const {
  return m_folder + "/" + cacheName(key) + ".kept";
}

std::optional<std::string> CacheFolder::find(const std::string& key) const {
  if (m_folder.empty()) return {};
  const std::string path = pathOf(key);
  auto bytes = readWholeFile(path);
  if (!bytes) return {};
  std::error_code ignored;
  fs::last_write_time(path, fs::file_time_type::clock::now(), ignored); // used now
  return std::move(*bytes);
}

void CacheFolder::keep(const std::string& key, const std::string& bytes) const {
  if (m_folder.empty()) return;
  std::error_code ignored;
  fs::create_directories(m_folder, ignored);
  if (writeFileAtomically(pathOf(key), bytes)) keepWithinLimit();
}

void CacheFolder::keepWithinLimit() const {
  std::error_code status;
  std::vector<std::pair<fs::file_time_type, fs::path>> files;
  int64_t total = 0;
  for (const auto& entry : fs::directory_iterator(m_folder, status)) {
    const auto size = entry.file_size(status);
    if (status) continue; // removed in the meantime
    total += int64_t(size);
    files.emplace_back(entry.last_write_time(status), entry.path());
  }
  if (total <= m_limit) return;
  std::sort(files.begin(), files.end());
  for (const auto& [time, file] : files) {
    const auto size = fs::file_size(file, status);
    if (!status && fs::remove(file, status)) total -= int64_t(size);
    if (total <= m_limit * 9 / 10) return; // frees a tenth more, so that the folder is not searched for every new file
  }
}

} // namespace tromb
