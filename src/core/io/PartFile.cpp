// SPDX-License-Identifier: GPL-3.0-or-later
#include "io/PartFile.h"

#include <cerrno>
#include <chrono>
#include <cstdio>
#include <fcntl.h>
#include <filesystem>
#include <sys/file.h>
#include <sys/stat.h>
#include <thread>
#include <unistd.h>

namespace tromb {
namespace {

namespace fs = std::filesystem;
constexpr const char* kPartEnding = ".tromb-part";
constexpr std::chrono::milliseconds kLookAgain{10};
constexpr int kMostTries = 8;

/// True while the open file is still the one that has this name.
bool stillNamed(const Descriptor& file, const Descriptor& folder, const std::string& name) {
  struct stat here {};
  struct stat there {};
  return ::fstat(file.get(), &here) == 0 && ::fstatat(folder.get(), name.c_str(), &there, AT_SYMLINK_NOFOLLOW) == 0 &&
         here.st_ino == there.st_ino && here.st_dev == there.st_dev;
}

std::string partName(const fs::path& target) {
  return "." + target.filename().string() + kPartEnding;
}

} // namespace

int nameFreshly(int folder, const std::string& from, const std::string& to) {
  if (::renameat2(folder, from.c_str(), folder, to.c_str(), RENAME_NOREPLACE) == 0) return 0;
  if (errno != EINVAL && errno != ENOSYS && errno != ENOTSUP) return errno;
  // File systems without that call: a second name, where they can; else the name is taken first, by an empty file.
  if (::linkat(folder, from.c_str(), folder, to.c_str(), 0) == 0) {
    ::unlinkat(folder, from.c_str(), 0);
    return 0;
  }
  if (errno == EEXIST) return EEXIST;
  const Descriptor placeholder(::openat(folder, to.c_str(), O_WRONLY | O_CREAT | O_EXCL | O_CLOEXEC, 0666));
  if (!placeholder) return errno;
  return ::renameat(folder, from.c_str(), folder, to.c_str()) == 0 ? 0 : errno;
}

std::string PartFile::pathFor(const std::string& target) {
  return (fs::path(target).parent_path() / partName(target)).string();
}

Result<PartFile> PartFile::create(const std::string& target, Busy busy, const std::stop_token& stop) {
  PartFile part;
  part.m_target = target;
  const fs::path path(target);
  const std::string folder = path.parent_path().string();
  part.m_folder = Descriptor(::open(folder.empty() ? "." : folder.c_str(), O_RDONLY | O_DIRECTORY | O_CLOEXEC));
  if (!part.m_folder) return cannotWrite(target, errno);
  const std::string name = partName(path);
  for (int tries = 0; tries < kMostTries; ++tries) {
    Descriptor file(
        ::openat(part.m_folder.get(), name.c_str(), O_RDWR | O_CREAT | O_CLOEXEC | O_NOFOLLOW | O_NONBLOCK, 0666));
    if (!file && errno == ELOOP && ::unlinkat(part.m_folder.get(), name.c_str(), 0) == 0) continue; // a planted link
    if (!file) return cannotWrite(target, errno);
    struct stat facts {};
    if (::fstat(file.get(), &facts) != 0 || !S_ISREG(facts.st_mode)) return cannotWrite(target, EEXIST);
    for (int looks = 0; ::flock(file.get(), LOCK_EX | LOCK_NB) != 0; ++looks) {
      if (errno == EINTR) continue;
      if (errno != EWOULDBLOCK) break; // a file system that knows no locks
      // A sweep locks it too, for a moment.
      if (busy == Busy::Refuse && looks >= kMostTries)
        return fail(ErrorCode::CannotWrite, say("another run is writing this file"), target, say("Wait for it to end"));
      if (stop.stop_requested()) return fail(ErrorCode::Cancelled, say("waiting for another run was stopped"), target);
      std::this_thread::sleep_for(kLookAgain);
    }
    // Between making and locking it, a sweep may have taken it away.
    if (!stillNamed(file, part.m_folder, name)) continue;
    if (::ftruncate(file.get(), 0) != 0) return cannotWrite(target, errno);
    part.m_file = std::move(file);
    part.m_name = name;
    return part;
  }
  return cannotWrite(target, EBUSY);
}

PartFile::PartFile(PartFile&& other) noexcept
    : m_target(std::move(other.m_target)), m_name(std::exchange(other.m_name, {})), m_final(std::move(other.m_final)),
      m_folder(std::move(other.m_folder)), m_file(std::move(other.m_file)) {}

PartFile::~PartFile() {
  if (!m_name.empty()) ::unlinkat(m_folder.get(), m_name.c_str(), 0);
}

std::string PartFile::path() const {
  return "/proc/self/fd/" + std::to_string(m_folder.get()) + "/" + m_name;
}

Status PartFile::sync() {
  return ::fsync(m_file.get()) == 0 ? Status() : cannotWrite(m_target, errno);
}

Status PartFile::takeFinalName(bool overwrite, const std::string& otherName) {
  if (const Status synced = sync(); !synced) return synced;
  const std::string name = otherName.empty() ? fs::path(m_target).filename().string() : otherName;
  const int code = !overwrite ? nameFreshly(m_folder.get(), m_name, name)
                   : ::renameat(m_folder.get(), m_name.c_str(), m_folder.get(), name.c_str()) == 0 ? 0
                                                                                                   : errno;
  if (code == EEXIST)
    return fail(ErrorCode::Exists, say("the file is there already"), m_target, say("Remove it or overwrite it"));
  if (code != 0) return cannotWrite(m_target, code);
  m_name.clear();
  m_final = name;
  (void)::fsync(m_folder.get());
  return {};
}

std::string PartFile::foundAt() const {
  const fs::path promised = fs::path(m_target).parent_path() / m_final;
  std::error_code gone;
  const fs::path moved = fs::read_symlink("/proc/self/fd/" + std::to_string(m_folder.get()), gone) / m_final;
  for (const fs::path& path : {promised, moved})
    if (!m_final.empty() && identityOf(path.string()) == identityOf(m_file)) return path.string();
  return {};
}

void PartFile::sweep(const std::string& folder) {
  std::error_code status;
  for (const auto& entry : fs::directory_iterator(folder, status)) {
    const std::string name = entry.path().filename().string();
    if (!name.starts_with('.') || !name.ends_with(kPartEnding)) continue;
    const Descriptor file(::open(entry.path().c_str(), O_RDWR | O_CLOEXEC | O_NOFOLLOW | O_NONBLOCK));
    if (file && ::flock(file.get(), LOCK_EX | LOCK_NB) == 0) ::unlink(entry.path().c_str());
  }
}

} // namespace tromb
