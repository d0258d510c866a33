// SPDX-License-Identifier: GPL-3.0-or-later
#include "project/Collect.h"

#include "io/Descriptor.h"
#include "project/ProjectFile.h"

#include <algorithm>
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

class Collector {
public:
  Collector(std::stop_token stop, const std::function<void(const CollectProgress&)>& tell)
      : m_stop(std::move(stop)), m_tell(tell) {}

  CollectProgress progress;

  Status copy(const std::string& from, const std::string& to) {
    const auto in = openToRead(from);
    if (!in) return tl::unexpected(in.error());
    const Descriptor out(::open(to.c_str(), O_RDWR | O_CREAT | O_EXCL | O_CLOEXEC, 0666));
    if (!out) return cannotWrite(to, errno, say("the project is unchanged"));
    std::vector<char> block(kBlock);
    for (int64_t at = 0;;) {
      if (m_stop.stop_requested()) return cancelled();
      const ptrdiff_t got = readAt(*in, at, block.data(), block.size());
      if (got < 0) return fail(ErrorCode::Unreadable, say("reading failed (%1)", systemMessage(errno)), from);
      if (got == 0) break;
      if (!writeAll(out, block.data(), size_t(got))) return cannotWrite(to, errno, say("the project is unchanged"));
      at += got;
      told(got);
    }
    if (::fsync(out.get()) != 0) return cannotWrite(to, errno, say("the project is unchanged"));
    return compare(*in, out, to);
  }

private:
  /// Reads both again from the beginning; what was kept in memory is dropped first, so that the disk answers.
  Status compare(const Descriptor& in, const Descriptor& out, const std::string& to) {
    ::posix_fadvise(out.get(), 0, 0, POSIX_FADV_DONTNEED);
    std::vector<char> a(kBlock);
    std::vector<char> b(kBlock);
    for (int64_t at = 0;;) {
      if (m_stop.stop_requested()) return cancelled();
      const ptrdiff_t gotA = readAt(in, at, a.data(), a.size());
      const ptrdiff_t gotB = readAt(out, at, b.data(), b.size());
      if (gotA < 0 || gotA != gotB || !std::equal(a.begin(), a.begin() + gotA, b.begin()))
        return fail(ErrorCode::CannotWrite, say("the copy is not the same as its original"), to,
                    say("The disk may be failing; choose another"));
      if (gotA == 0) return {};
      at += gotA;
      told(gotA);
    }
  }
  static tl::unexpected<Error> cancelled() {
    return fail(ErrorCode::Cancelled, say("collecting was cancelled; what was copied is removed"));
  }
  void told(int64_t bytes) {
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
      return fail(ErrorCode::Exists, say("it is there already"), there.string(), say("Choose an empty folder"));
  const bool newFolder = !fs::exists(target, status);
  fs::create_directories(footage, status);
  if (status)
    return fail(ErrorCode::CannotWrite, say("the folder cannot be made (%1)", status.message()), footage.string(),
                say("Choose another folder"));

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
