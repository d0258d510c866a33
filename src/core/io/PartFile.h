// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "Error.h"

#include <string>

namespace tromb {

/// The temporary file that an export writes beside its target. It is locked while this object lives, so that
/// another run can tell a live one from the remains of one that was killed. Movable; removed on destruction
/// unless it took its final name.
class PartFile {
public:
  /// Makes ".NAME.tromb-part" beside `target`. Errors: CannotWrite.
  [[nodiscard]] static Result<PartFile> create(const std::string& target);
  PartFile(PartFile&& other) noexcept;
  PartFile& operator=(PartFile&&) = delete;
  ~PartFile();

  [[nodiscard]] const std::string& path() const { return m_path; }
  /// Syncs and renames to the target. Errors: CannotWrite, Exists (it appeared meanwhile; not with `overwrite`).
  [[nodiscard]] Status takeFinalName(bool overwrite);

  /// Removes the remains of killed exports from a folder; live ones are left alone.
  static void sweep(const std::string& folder);

private:
  PartFile() = default;
  std::string m_path;
  std::string m_target;
  int m_fd = -1;
};

} // namespace tromb
