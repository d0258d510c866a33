// SPDX-License-Identifier: GPL-3.0-or-later
#include "project/Collect.h"

#include "io/ByteCopy.h"
#include "project/ProjectFile.h"

#include <algorithm>
#include <cerrno>
#include <fcntl.h>
#include <filesystem>
#include <set>
#include <unistd.h>

namespace tromb {
namespace {

namespace fs = std::filesystem;

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
    const Message unchanged = say("the project is unchanged");
    const auto tell = [this](std::string_view bytes) { told(int64_t(bytes.size())); };
    if (const Status copied = copyBytes({*in, from}, {out, to}, tell, m_stop, unchanged); !copied)
      return ended(copied.error());
    if (::fsync(out.get()) != 0) return cannotWrite(to, errno, unchanged);
    const auto differs = firstDifference({*in, from}, {out, to}, tell, m_stop);
    if (!differs) return ended(differs.error());
    if (*differs)
      return fail(ErrorCode::CannotWrite, say("the copy is not the same as its original"), to,
                  say("The disk may be failing; choose another"));
    return {};
  }

private:
  static tl::unexpected<Error> ended(const Error& error) {
    if (error.code != ErrorCode::Cancelled) return tl::unexpected(error);
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
