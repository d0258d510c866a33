// SPDX-License-Identifier: GPL-3.0-or-later
#include "io/AtomicFile.h"

#include <cerrno>
#include <cstdio>
#include <cstdlib>
#include <fcntl.h>
#include <filesystem>
#include <fstream>
#include <sys/stat.h>
#include <unistd.h>

namespace tromb {
namespace {

namespace fs = std::filesystem;

tl::unexpected<Error> cannotWrite(const std::string& path, int code) {
  return fail(ErrorCode::CannotWrite, "the file cannot be written (" + systemMessage(code) + ")", path,
              "Choose another folder or free some space; what was there before is unchanged");
}

bool writeAll(int fd, const std::string& text) {
  size_t done = 0;
  while (done < text.size()) {
    const ssize_t n = ::write(fd, text.data() + done, text.size() - done);
    if (n < 0 && errno == EINTR) continue;
    if (n <= 0) return false;
    done += size_t(n);
  }
  return true;
}

} // namespace

Status writeFileAtomically(const std::string& path, const std::string& text) {
  // A link is followed, so that it goes on pointing at the one file.
  std::error_code ignored;
  const std::string target = fs::is_symlink(path, ignored) ? fs::weakly_canonical(path, ignored).string() : path;
  std::string temporary = target + ".XXXXXX";
  const int fd = ::mkstemp(temporary.data());
  if (fd < 0) return cannotWrite(path, errno);
  struct stat old {};
  const mode_t mask = ::umask(0);
  ::umask(mask);
  const mode_t mode = ::stat(target.c_str(), &old) == 0 ? old.st_mode & 07777 : 0666 & ~mask;
  bool good = writeAll(fd, text) && ::fchmod(fd, mode) == 0 && ::fsync(fd) == 0;
  int code = errno;
  good = ::close(fd) == 0 && good;
  if (good && ::rename(temporary.c_str(), target.c_str()) == 0) {
    const std::string folder = fs::path(target).parent_path().string();
    const int dir = ::open(folder.empty() ? "." : folder.c_str(), O_RDONLY | O_DIRECTORY | O_CLOEXEC);
    if (dir >= 0) {
      ::fsync(dir);
      ::close(dir);
    }
    return {};
  }
  if (good) code = errno;
  ::unlink(temporary.c_str());
  return cannotWrite(path, code);
}

Result<std::string> readWholeFile(const std::string& path, size_t mostBytes) {
  std::error_code status;
  if (!fs::exists(path, status)) return fail(ErrorCode::Missing, "the file is not there", path, "Check the path");
  if (fs::is_directory(path, status)) return fail(ErrorCode::Unreadable, "this is a folder, not a file", path);
  if (fs::file_size(path, status) > mostBytes && !status)
    return fail(ErrorCode::Unreadable, "the file is far too large to be read whole", path);
  std::ifstream file(path, std::ios::binary);
  if (!file) return fail(ErrorCode::Unreadable, "the file cannot be opened (" + systemMessage(errno) + ")", path);
  std::string text((std::istreambuf_iterator<char>(file)), std::istreambuf_iterator<char>());
  if (file.bad()) return fail(ErrorCode::Unreadable, "reading the file failed", path);
  return text;
}

} // namespace tromb
