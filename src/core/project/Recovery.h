// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "project/Project.h"

#include <cstdint>

namespace tromb {

/// A copy of a project with unsaved changes, left by a window that did not get to close it.
struct RecoveryCopy {
  std::string file;        ///< The path of the copy itself.
  std::string projectPath; ///< empty: it was never saved
  int64_t writtenAt = 0;   ///< seconds since 1970, UTC
  Project project;
};

/// The recovery copy of one open document, in a folder that all windows share. A lock held while this lives tells a
/// running window's copy from an abandoned one. Movable; on destruction the lock ends and the copy, if any, stays.
class RecoveryFile {
public:
  /// Takes a free name in `folder`, which is made when it is not there. Errors: CannotWrite.
  [[nodiscard]] static Result<RecoveryFile> create(const std::string& folder);
  RecoveryFile(RecoveryFile&& other) noexcept;
  RecoveryFile& operator=(RecoveryFile&& other) noexcept;
  ~RecoveryFile();

  /// Replaces the copy, atomically. Errors: CannotWrite.
  [[nodiscard]] Status write(const Project& project, const std::string& projectPath);
  /// Everything is saved, or was thrown away on purpose: no copy is needed.
  void clear();

private:
  RecoveryFile() = default;
  void release();
  std::string m_path; ///< The path of the copy.
  int m_lock = -1;
};

/// Copies whose window is gone, the newest first. Damaged ones are left where they are and not listed.
[[nodiscard]] std::vector<RecoveryCopy> abandonedCopies(const std::string& folder);
/// Removes an abandoned copy.
void removeCopy(const RecoveryCopy& copy);

/// What differs between two states of a project, for people: "2 shots added, 3 framings changed".
[[nodiscard]] Message differences(const Project& before, const Project& after);

} // namespace tromb
