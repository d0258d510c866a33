// SPDX-License-Identifier: GPL-3.0-or-later
#include "io/NamedFiles.h"

#include <algorithm>
#include <filesystem>

namespace tromb {
namespace {

namespace fs = std::filesystem;

} // namespace

std::vector<std::string> NamedFiles::names() const {
  std::vector<std::string> names;
  std::error_code status;
  for (const auto& entry : fs::directory_iterator(m_folder, status))
    if (entry.path().extension() == m_ending) names.push_back(entry.path().stem().string());
  std::sort(names.begin(), names.end());
  return names;
}

bool NamedFiles::has(const std::string& name) const {
  std::error_code ignored;
  return fs::exists(pathOf(name), ignored);
}

std::string NamedFiles::freeName(const std::string& wanted) const {
  std::string name = wanted;
  for (int n = 2; has(name); ++n) name = wanted + " " + std::to_string(n);
  return name;
}

Status NamedFiles::mayTake(const std::string& name, bool overwrite) const {
  const bool bad =
      name.empty() || name.size() > 200 || name.front() == '.' ||
      std::any_of(name.begin(), name.end(), [](char c) { return c == '/' || static_cast<unsigned char>(c) < 32; });
  if (bad)
    return fail(ErrorCode::InvalidArgument, say("nothing can be saved under the name '%1'", name), {},
                say("Use up to 200 letters, no slash, no dot in front"));
  if (!overwrite && has(name))
    return fail(ErrorCode::Exists, say("something is saved under the name '%1' already", name), {},
                say("Choose another name, or update it"));
  std::error_code made;
  fs::create_directories(m_folder, made);
  if (made) return fail(ErrorCode::CannotWrite, say("the folder cannot be made (%1)", made.message()), m_folder);
  return {};
}

Status NamedFiles::rename(const std::string& from, const std::string& to) {
  if (!has(from)) return missing(from);
  if (const Status good = mayTake(to, from == to); !good) return good;
  std::error_code status;
  fs::rename(pathOf(from), pathOf(to), status);
  if (status) return fail(ErrorCode::CannotWrite, say("it cannot be renamed (%1)", status.message()), pathOf(from));
  return {};
}

Status NamedFiles::remove(const std::string& name) {
  std::error_code status;
  if (!fs::remove(pathOf(name), status)) return missing(name);
  return {};
}

tl::unexpected<Error> NamedFiles::missing(const std::string& name) const {
  return fail(ErrorCode::Missing, say("nothing is saved under the name '%1'", name));
}

} // namespace tromb
