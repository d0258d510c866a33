// SPDX-License-Identifier: GPL-3.0-or-later
#include "io/AtomicFile.h"

#include "io/Descriptor.h"
#include "io/PartFile.h"

#include <cerrno>
#include <cstdio>
#include <fcntl.h>
#include <filesystem>
#include <sys/stat.h>
#include <unistd.h>

namespace tromb {
namespace {

namespace fs = std::filesystem;

Message kept() {
  return say("what was there before is unchanged");
}

} // namespace

Status writeFileAtomically(const std::string& path, const std::string& text) {
  // A link is followed, so that it goes on pointing at the one file.
  std::error_code ignored;
  const std::string target = fs::is_symlink(path, ignored) ? fs::weakly_canonical(path, ignored).string() : path;
  struct stat old {};
  const bool there = ::stat(target.c_str(), &old) == 0;
  if (there && S_ISDIR(old.st_mode)) return cannotWrite(path, EISDIR, kept());
  if (there && !S_ISREG(old.st_mode)) { // a device or a pipe is written to, not replaced
    Descriptor device(::open(target.c_str(), O_WRONLY | O_CLOEXEC | O_NOCTTY));
    if (!device || !writeAll(device, text.data(), text.size()) || !device.close())
      return cannotWrite(path, errno, kept());
    return {};
  }
  auto part = PartFile::create(target, PartFile::Busy::Wait);
  if (!part) return tl::unexpected(part.error());
  const bool written = writeAll(part->file(), text.data(), text.size()) &&
                       (!there || ::fchmod(part->file().get(), old.st_mode & 07777) == 0);
  if (!written) return cannotWrite(path, errno, kept());
  Status named = part->takeFinalName(true);
  if (!named) named.error().path = path;
  return named;
}

void writeFileLightly(const std::string& path, const std::string& text) {
  const std::string beside = path + ".part";
  Descriptor file(::open(beside.c_str(), O_WRONLY | O_CREAT | O_TRUNC | O_CLOEXEC | O_NOFOLLOW, 0666));
  if (file && writeAll(file, text.data(), text.size()) && file.close()) (void)::rename(beside.c_str(), path.c_str());
}

Result<std::string> readWholeFile(const std::string& path, size_t mostBytes) {
  const auto file = openToRead(path);
  if (!file) return tl::unexpected(file.error());
  const auto size = size_t(sizeOf(*file));
  if (size > mostBytes) return fail(ErrorCode::Unreadable, say("the file is far too large to be read whole"), path);
  std::string text(size, '\0');
  const ptrdiff_t got = readAt(*file, 0, text.data(), size);
  if (got < 0) return fail(ErrorCode::Unreadable, say("reading the file failed (%1)", systemMessage(errno)), path);
  text.resize(size_t(got));
  return text;
}

} // namespace tromb
