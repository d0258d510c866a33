// SPDX-License-Identifier: GPL-3.0-or-later
// Patterns and parts of file names: whatever they are, the name is one that a file can have.
#include "Input.h"
#include "project/FileName.h"
#include "project/Project.h"

#include <algorithm>
#include <string_view>

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* data, size_t size) {
  using namespace tromb;
  std::string_view rest(reinterpret_cast<const char*>(data), size);
  const auto next = [&rest] {
    const size_t end = rest.find('\n');
    std::string part(rest.substr(0, end));
    rest.remove_prefix(end == std::string_view::npos ? rest.size() : end + 1);
    return part;
  };
  const std::string pattern = next();
  if (!namingFault(pattern).empty()) return 0;
  Deliverable deliverable;
  FileSubject of;
  of.project = next();
  of.region = next();
  deliverable.name = next();
  if (deliverable.name.empty()) return 0; // no deliverable is without
  of.deliverable = &deliverable;
  const std::string path = fileName(pattern, of);
  fuzz::hold(!path.empty() && path.front() != '/' && path.back() != '/');
  std::string_view left(path);
  while (!left.empty()) { // each folder, and the name
    const size_t end = std::min(left.find('/'), left.size());
    const std::string_view name = left.substr(0, end);
    fuzz::hold(!name.empty() && name.size() <= 221 && name.back() != '.' && name.front() != '.');
    fuzz::hold(name.find_first_of(std::string_view("\\\0", 2)) == std::string_view::npos);
    left.remove_prefix(std::min(end + 1, left.size()));
  }
  return 0;
}
