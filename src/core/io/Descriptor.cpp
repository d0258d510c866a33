// SPDX-License-Identifier: GPL-3.0-or-later
#include "io/Descriptor.h"

#include <cerrno>
#include <fcntl.h>
#include <sys/stat.h>
#include <unistd.h>

namespace tromb {
namespace {

std::string identityFrom(const struct stat& facts) {
  return std::to_string(facts.st_dev) + ":" + std::to_string(facts.st_ino) + ":" + std::to_string(facts.st_size) + ":" +
         std::to_string(facts.st_mtim.tv_sec) + "." + std::to_string(facts.st_mtim.tv_nsec);
}

} // namespace

Descriptor::~Descriptor() {
  if (m_fd >= 0) ::close(m_fd);
}

bool Descriptor::close() {
  return ::close(std::exchange(m_fd, -1)) == 0;
}

bool Descriptor::triesAgain(int code) const {
  return (code == ENOSPC || code == EDQUOT) && m_whenFull && m_whenFull();
}

Result<Descriptor> openToRead(const std::string& path) {
  Descriptor file(::open(path.c_str(), O_RDONLY | O_CLOEXEC | O_NONBLOCK | O_NOCTTY));
  if (!file) {
    const int why = errno;
    if (why == ENOENT || why == ENOTDIR)
      return fail(ErrorCode::Missing, say("the file is not there"), path,
                  say("Check the path, or find the file again"));
    if (why == EACCES || why == EPERM)
      return fail(ErrorCode::Unreadable, say("you have no permission to read this file"), path,
                  say("Change its permissions"));
    return fail(ErrorCode::Unreadable, say("the file cannot be opened (%1)", systemMessage(why)), path);
  }
  struct stat facts {};
  if (::fstat(file.get(), &facts) != 0)
    return fail(ErrorCode::Unreadable, say("the file cannot be read (%1)", systemMessage(errno)), path);
  if (S_ISDIR(facts.st_mode)) return fail(ErrorCode::Unreadable, say("this is a folder, not a file"), path);
  if (!S_ISREG(facts.st_mode))
    return fail(ErrorCode::Unreadable, say("this is a pipe or a device, not a file"), path,
                say("Record it into a file first"));
  return file;
}

int64_t sizeOf(const Descriptor& file) {
  struct stat facts {};
  return ::fstat(file.get(), &facts) == 0 ? int64_t(facts.st_size) : 0;
}

std::string identityOf(const Descriptor& file) {
  struct stat facts {};
  return ::fstat(file.get(), &facts) == 0 ? identityFrom(facts) : std::string();
}

std::string identityOf(const std::string& path) {
  struct stat facts {};
  return ::lstat(path.c_str(), &facts) == 0 ? identityFrom(facts) : std::string();
}

ptrdiff_t readAt(const Descriptor& file, int64_t at, void* to, size_t count) {
  size_t done = 0;
  while (done < count) {
    const ssize_t got = ::pread(file.get(), static_cast<char*>(to) + done, count - done, at + int64_t(done));
    if (got < 0 && errno == EINTR) continue;
    if (got < 0) return -1;
    if (got == 0) break;
    done += size_t(got);
  }
  return ptrdiff_t(done);
}

bool writeAll(const Descriptor& file, const void* bytes, size_t count) {
  size_t done = 0;
  while (done < count) {
    const ssize_t put = ::write(file.get(), static_cast<const char*>(bytes) + done, count - done);
    if (put < 0 && (errno == EINTR || file.triesAgain(errno))) continue;
    if (put <= 0) return false;
    done += size_t(put);
  }
  return true;
}

tl::unexpected<Error> cannotWrite(const std::string& path, int code, const Message& reassurance) {
  const bool full = code == ENOSPC || code == EDQUOT;
  const Message why = full            ? say("the disk is full")
                      : code == EFBIG ? say("files may not become that large here")
                                      : say("the file cannot be written (%1)", systemMessage(code));
  const Message todo =
      full ? say("Free some space and try again") : say("Choose another folder, or change its permissions");
  return fail(ErrorCode::CannotWrite, why, path, joined({todo, reassurance}, "; "));
}

} // namespace tromb
