// SPDX-License-Identifier: GPL-3.0-or-later
#include "io/FileLock.h"

#include <cerrno>
#include <fcntl.h>
#include <sys/file.h>

namespace tromb {
namespace {

Descriptor opened(const std::string& path, int more) {
  return Descriptor(::open(path.c_str(), O_RDWR | O_CLOEXEC | O_NOFOLLOW | O_NONBLOCK | more, 0666));
}

/// 0, or the code of what kept it from being locked.
int locked(const Descriptor& file, int more) {
  while (::flock(file.get(), LOCK_EX | more) != 0)
    if (errno != EINTR) return errno;
  return 0;
}

} // namespace

std::optional<FileLock> FileLock::tryTake(const std::string& path) {
  Descriptor file = opened(path, O_CREAT);
  if (!file || locked(file, LOCK_NB) != 0) return std::nullopt;
  return FileLock(std::move(file));
}

Result<FileLock> FileLock::take(const std::string& path) {
  Descriptor file = opened(path, O_CREAT);
  if (!file) return cannotWrite(path, errno);
  if (const int code = locked(file, 0)) return cannotWrite(path, code);
  return FileLock(std::move(file));
}

bool isLocked(const std::string& path) {
  const Descriptor file = opened(path, 0);
  return file && locked(file, LOCK_NB) == EWOULDBLOCK;
}

} // namespace tromb
