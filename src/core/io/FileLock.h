// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "io/Descriptor.h"

#include <optional>
#include <string>

namespace tromb {

/// An advisory lock of the operating system on a file of its own (flock(2)), which ends with this object, and with the
/// process however that ends. Movable.
class FileLock {
public:
  /// Takes it if nobody has it, and makes the file where it is not there. Returns nothing where somebody has it or the
  /// file cannot be made.
  [[nodiscard]] static std::optional<FileLock> tryTake(const std::string& path);
  /// Waits for it, for moments: for locks that are held while a small file is written. Errors: CannotWrite.
  [[nodiscard]] static Result<FileLock> take(const std::string& path);

private:
  explicit FileLock(Descriptor file) : m_file(std::move(file)) {}
  Descriptor m_file;
};

/// Returns true while a process holds the lock. Taking it for a moment is how that is found out, so that somebody who
/// tries at the same time may be refused: to be tried again.
[[nodiscard]] bool isLocked(const std::string& path);

} // namespace tromb
