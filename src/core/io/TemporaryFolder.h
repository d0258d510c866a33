// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "Error.h"

#include <string>
#include <utility>

namespace tromb {

/// A folder of this program alone, for libraries that want names of files; it goes with all that is in it. Movable.
class TemporaryFolder {
public:
  /// Errors: CannotWrite.
  [[nodiscard]] static Result<TemporaryFolder> create();
  TemporaryFolder(TemporaryFolder&& other) noexcept : m_path(std::exchange(other.m_path, {})) {}
  TemporaryFolder& operator=(TemporaryFolder&& other) noexcept {
    std::swap(m_path, other.m_path);
    return *this;
  }
  ~TemporaryFolder();
  [[nodiscard]] const std::string& path() const { return m_path; }

private:
  explicit TemporaryFolder(std::string path) : m_path(std::move(path)) {}
  std::string m_path;
};

} // namespace tromb
