// SPDX-License-Identifier: GPL-3.0-or-later
// Patterns and parts of file names: whatever they are, the name is one that a file can have.
#include "Input.h"
#include "project/FileName.h"
#include "project/Project.h"

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
  const std::string name = fileName(pattern, of);
  fuzz::hold(!name.empty() && name.size() <= 220 && name != "." && name != "..");
  fuzz::hold(name.find_first_of(std::string("/\\\0", 3)) == std::string::npos);
  return 0;
}
