// SPDX-License-Identifier: GPL-3.0-or-later
#include "project/Collect.h"

#include "project/ProjectFile.h"

#include <array>
#include <cerrno>
#include <fcntl.h>
#include <filesystem>
#include <set>
#include <unistd.h>
#include <vector>

namespace tromb {
namespace {

namespace fs = std::filesystem;
constexpr size_t kBlock = 1 << 20;

/// A file descriptor that closes itself.
class Descriptor {
public:
  explicit Descriptor(int fd) : m_fd(fd) {}
  Descriptor(const Descriptor&) = delete;
  Descriptor& operator=(const Descriptor&) = delete;
  ~Descriptor() {
    if (m_fd >= 0) ::close(m_fd);
  }
  [[nodiscard]] int get() const { return m_fd; }

private:
  int m_fd;
};

/// Fills `block` as far as the file goes; −1 on an error.
ssize_t readBlock(int fd, std::vector<char>& block) {
  size_t done = 0;
  while (done < block.size()) {
    const ssize_t n = ::read(fd, block.data() + done, block.size() - done);
    if (n < 0 && errno == EINTR) continue;
    if (n < 0) return -1;
    if (n == 0) break;
    done += size_t(n);
  }
  return ssize_t(done);
}

class Collector {
public:
  Collector(std::stop_token stop, const std::function<void(const CollectProgress&)>& tell)
      : m_stop(std::move(stop)), m_tell(tell) {}

  CollectProgress progress;

  Status copy(const std::string& from, const std::string& to) {
    const Descriptor in(::open(from.c_str(), O_RDONLY | O_CLOEXEC));
    if (in.get() < 0)
      return fail(errno == ENOENT ? ErrorCode::Missing : ErrorCode::Unreadable,
                  "the file cannot be copied (" + systemMessage(errno) + ")", from, "Find it again, then collect");
    const Descriptor out(::open(to.c_str(), O_RDWR | O_CREAT | O_EXCL | O_CLOEXEC, 0666));
    if (out.get() < 0) return cannotWrite(to);
    std::vector<char> block(kBlock);
    for (;;) {
      if (m_stop.stop_requested()) return cancelled();
      const ssize_t got = readBlock(in.get(), block);
      if (got < 0) return fail(ErrorCode::Unreadable, "reading failed (" + systemMessage(errno) + ")", from);
      if (got == 0) break;
      for (ssize_t done = 0; done < got;) {
        const ssize_t n = ::write(out.get(), block.data() + done, size_t(got - done));
        if (n < 0 && errno == EINTR) continue;
        if (n <= 0) return cannotWrite(to);
        done += n;
      }
      told(got);
    }
    if (::fsync(out.get()) != 0) return cannotWrite(to);
    return compare(in.get(), out.get(), to);
  }

private:
  /// Reads both again from the beginning; what was kept in memory is dropped first, so that the disk answers.
  Status compare(int in, int out, const std::string& to) {
    ::posix_fadvise(out, 0, 0, POSIX_FADV_DONTNEED);
    ::lseek(in, 0, SEEK_SET);
    ::lseek(out, 0, SEEK_SET);
    std::vector<char> a(kBlock);
    std::vector<char> b(kBlock);
    for (;;) {
      if (m_stop.stop_requested()) return cancelled();
      const ssize_t gotA = readBlock(in, a);
      const ssize_t gotB = readBlock(out, b);
      if (gotA < 0 || gotA != gotB || !std::equal(a.begin(), a.begin() + gotA, b.begin()))
        return fail(ErrorCode::CannotWrite, "the copy is not the same as its original", to,
                    "The disk may be failing; choose another");
      if (gotA == 0) return {};
      told(gotA);
    }
  }
  static tl::unexpected<Error> cancelled() {
    return fail(ErrorCode::Cancelled, "collecting was cancelled; what was copied is removed");
  }
  static tl::unexpected<Error> cannotWrite(const std::string& path) {
    return fail(ErrorCode::CannotWrite, "the copy cannot be written (" + systemMessage(errno) + ")", path,
                "Choose another folder or free some space; the project is unchanged");
  }
  void told(ssize_t bytes) {
    progress.bytes += bytes;
    if (m_tell) m_tell(progress);
  }
  std::stop_token m_stop;
  const std::function<void(const CollectProgress&)>& m_tell;
};

/// The file's name, with a number where another file in the folder has it.
std::string freeName(const fs::path& file, std::set<std::string>& taken) {
  std::string name = file.filename().string();
  for (int n = 2; !taken.insert(name).second; ++n)
    name = file.stem().string() + " " + std::to_string(n) + file.extension().string();
  return name;
}

} // namespace

Result<std::string> collectProject(const Project& project, const std::string& folder, std::stop_token stop,
                                   const std::function<void(const CollectProgress&)>& onProgress) {
  const fs::path target = fs::absolute(folder);
  const fs::path footage = target / "footage";
  const std::string name = project.name.empty() ? "project" : project.name;
  std::string file = name;
  for (char& c : file)
    if (c == '/' || c == '\\' || static_cast<unsigned char>(c) < 32) c = '-';
  const fs::path projectPath = target / (file + ".tromb");
  std::error_code status;
  for (const fs::path& there : {projectPath, footage})
    if (fs::exists(there, status))
      return fail(ErrorCode::Exists, "it is there already", there.string(), "Choose an empty folder");
  const bool newFolder = !fs::exists(target, status);
  fs::create_directories(footage, status);
  if (status)
    return fail(ErrorCode::CannotWrite, "the folder cannot be made (" + status.message() + ")", footage.string(),
                "Choose another folder");

  const auto undo = [&](const Error& error) {
    std::error_code ignored;
    fs::remove_all(footage, ignored);
    fs::remove(projectPath, ignored);
    if (newFolder) fs::remove(target, ignored);
    return tl::unexpected(error);
  };
  Collector collector(std::move(stop), onProgress);
  for (const Source& source : project.sources)
    if (const auto size = fs::file_size(source.path, status); !status) collector.progress.total += 2 * int64_t(size);
  Project copied = project;
  std::set<std::string> taken;
  for (Source& source : copied.sources) {
    const std::string to = (footage / freeName(source.path, taken)).string();
    collector.progress.file = fs::path(to).filename().string();
    if (const Status done = collector.copy(source.path, to); !done) return undo(done.error());
    source.path = to;
  }
  if (const Status saved = saveProject(copied, projectPath.string()); !saved) return undo(saved.error());
  return projectPath.string();
}

} // namespace tromb
