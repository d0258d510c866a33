// SPDX-License-Identifier: GPL-3.0-or-later
#include "project/Relink.h"

#include "media/read/Fingerprint.h"

#include <algorithm>
#include <filesystem>
#include <map>

namespace tromb {
namespace {

namespace fs = std::filesystem;

/// The length that a fingerprint begins with; −1 when there is none.
int64_t lengthIn(const std::string& fingerprint) {
  const size_t dash = fingerprint.find('-');
  if (dash == std::string::npos || dash == 0 || dash > 18 ||
      !std::all_of(fingerprint.begin(), fingerprint.begin() + ptrdiff_t(dash),
                   [](char c) { return c >= '0' && c <= '9'; }))
    return -1;
  return std::stoll(fingerprint.substr(0, dash));
}

} // namespace

std::vector<FoundFile> findMissing(const std::vector<Source>& missing, const std::string& folder, std::stop_token stop,
                                   const std::function<void(const std::string&)>& onFolder) {
  std::multimap<int64_t, const Source*> byLength;
  std::multimap<std::string, const Source*> byName;
  for (const Source& source : missing) {
    const int64_t length = lengthIn(source.fingerprint);
    if (length >= 0)
      byLength.emplace(length, &source);
    else
      byName.emplace(fs::path(source.path).filename().string(), &source);
  }
  std::map<std::string, FoundFile> found;
  std::error_code ignored;
  auto walk = fs::recursive_directory_iterator(folder, fs::directory_options::skip_permission_denied, ignored);
  for (; walk != fs::recursive_directory_iterator() && found.size() < missing.size() && !stop.stop_requested();
       walk.increment(ignored)) {
    const fs::directory_entry& entry = *walk;
    if (entry.is_directory(ignored)) {
      if (onFolder) onFolder(entry.path().string());
      continue;
    }
    if (!entry.is_regular_file(ignored)) continue;
    const std::string path = entry.path().string();
    const auto [firstName, lastName] = byName.equal_range(entry.path().filename().string());
    for (auto at = firstName; at != lastName; ++at)
      found.try_emplace(at->second->id, FoundFile{at->second->id, path, false});
    const auto [first, last] = byLength.equal_range(int64_t(entry.file_size(ignored)));
    if (first == last) continue;
    const auto fingerprint = fingerprintOf(path);
    for (auto at = first; fingerprint && at != last; ++at)
      if (at->second->fingerprint == *fingerprint)
        found.try_emplace(at->second->id, FoundFile{at->second->id, path, true});
  }
  std::vector<FoundFile> files;
  for (const auto& [id, file] : found) files.push_back(file);
  return files;
}

} // namespace tromb
