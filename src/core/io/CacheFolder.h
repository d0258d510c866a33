// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <cstdint>
#include <optional>
#include <string>

namespace tromb {

/// What was made once and can be made again, as files in a folder of its own, by keys of any kind. What has not been
/// used for longest goes when there is too much. A copy means the same folder. Thread-safe, also between processes.
class CacheFolder {
public:
  /// An empty `folder` keeps nothing.
  CacheFolder(std::string folder, int64_t limitBytes) : m_folder(std::move(folder)), m_limit(limitBytes) {}
  [[nodiscard]] std::optional<std::string> find(const std::string& key) const;
  /// Best effort: a full disk only means making it again.
  void keep(const std::string& key, const std::string& bytes) const;

private:
  [[nodiscard]] std::string pathOf(const std::string& key) const;
  void keepWithinLimit() const;
  std::string m_folder;
  int64_t m_limit;
};

} // namespace tromb
