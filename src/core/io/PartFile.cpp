// SPDX-License-Identifier: GPL-3.0-or-later
#include "io/PartFile.h"

#include <cerrno>
#include <cstdio>
#include <fcntl.h>
#include <filesystem>
#include <sys/file.h>
#include <sys/stat.h>
#include <unistd.h>
#include <utility>

namespace tromb {
namespace {

namespace fs = std::filesystem;
constexpr const char* kEnding = ".tromb-part";

tl::unexpected<Error> cannotWrite(const std::string& path, int code) {
  return fail(ErrorCode::CannotWrite, "the file cannot be written (" + systemMessage(code) + ")", path,
              "Choose another folder, or change its permissions");
}

} // namespace

Result<PartFile> PartFile::create(const std::string& target) {
  PartFile part;
  part.m_target = target;
  const std::string path =
      (fs::path(target).parent_path() / ("." + fs::path(target).filename().string() + kEnding)).string();
  // A sweep may take the file away between making and locking it: then make it again.
  for (int tries = 0; tries < 5; ++tries) {
    const int fd = ::open(path.c_str(), O_RDWR | O_CREAT | O_CLOEXEC, 0666);
    if (fd < 0) return cannotWrite(target, errno);
    if (::flock(fd, LOCK_EX | LOCK_NB) != 0) {
      ::close(fd);
      return fail(ErrorCode::CannotWrite, "another export is writing this file", target, "Wait for it to end");
    }
    struct stat here {};
    if (::fstat(fd, &here) == 0 && here.st_nlink > 0) {
      part.m_fd = fd;
      part.m_path = path;
      return part;
    }
    ::close(fd);
  }
  return cannotWrite(target, EBUSY);
}

PartFile::PartFile(PartFile&& other) noexcept
    : m_path(std::exchange(other.m_path, {})), m_target(std::move(other.m_target)),
      m_fd(std::exchange(other.m_fd, -1)) {}

PartFile::~PartFile() {
  if (!m_path.empty()) ::unlink(m_path.c_str());
  if (m_fd >= 0) ::close(m_fd);
}

Status PartFile::takeFinalName(bool overwrite) {
  if (::fsync(m_fd) != 0) return cannotWrite(m_target, errno);
  const unsigned flags = overwrite ? 0 : RENAME_NOREPLACE;
  if (::renameat2(AT_FDCWD, m_path.c_str(), AT_FDCWD, m_target.c_str(), flags) != 0) {
    if (errno == EEXIST)
      return fail(ErrorCode::Exists, "the file is there already", m_target, "Remove it or overwrite it");
    // File systems without that call get the plain one.
    if (errno != EINVAL && errno != ENOSYS) return cannotWrite(m_target, errno);
    if (::rename(m_path.c_str(), m_target.c_str()) != 0) return cannotWrite(m_target, errno);
  }
  m_path.clear();
  return {};
}

void PartFile::sweep(const std::string& folder) {
  std::error_code status;
  for (const auto& entry : fs::directory_iterator(folder, status)) {
    const std::string name = entry.path().filename().string();
    if (!name.starts_with('.') || !name.ends_with(kEnding)) continue;
    const int fd = ::open(entry.path().c_str(), O_RDWR | O_CLOEXEC | O_NOFOLLOW);
    if (fd < 0) continue;
    if (::flock(fd, LOCK_EX | LOCK_NB) == 0) ::unlink(entry.path().c_str());
    ::close(fd);
  }
}

} // namespace tromb
