// SPDX-License-Identifier: GPL-3.0-or-later
#include "project/Recovery.h"

#include "io/AtomicFile.h"
#include "io/JsonReader.h"
#include "project/ProjectFile.h"

#include <algorithm>
#include <cerrno>
#include <ctime>
#include <fcntl.h>
#include <filesystem>
#include <sys/file.h>
#include <sys/stat.h>
#include <unistd.h>
#include <utility>

namespace tromb {
namespace {

namespace fs = std::filesystem;
constexpr const char* kEnding = ".tromb-recovery";
constexpr const char* kLockEnding = ".lock";
constexpr int kMostCopies = 1000;

std::string lockOf(const std::string& copy) {
  return copy + kLockEnding;
}

/// Counts items that came, went and changed, by id.
struct Changes {
  int added = 0;
  int removed = 0;
  int changed = 0;
};

template <typename List> Changes changesOf(const List& before, const List& after) {
  Changes changes;
  const auto in = [](const List& list, const std::string& id) {
    return std::find_if(list.begin(), list.end(), [&](const auto& item) { return item.id == id; });
  };
  for (const auto& item : after) {
    const auto at = in(before, item.id);
    if (at == before.end())
      ++changes.added;
    else
      changes.changed += *at == item ? 0 : 1;
  }
  for (const auto& item : before) changes.removed += in(after, item.id) == after.end() ? 1 : 0;
  return changes;
}

} // namespace

Result<RecoveryFile> RecoveryFile::create(const std::string& folder) {
  std::error_code made;
  fs::create_directories(folder, made);
  for (int n = 1; n <= kMostCopies; ++n) {
    RecoveryFile file;
    file.m_path = folder + "/" + std::to_string(n) + kEnding;
    file.m_lock = ::open(lockOf(file.m_path).c_str(), O_RDWR | O_CREAT | O_CLOEXEC, 0600);
    if (file.m_lock < 0)
      return fail(ErrorCode::CannotWrite, say("no recovery copy can be kept (%1)", systemMessage(errno)), folder,
                  say("Save often, and make room on the disk"));
    struct stat here {};
    if (::flock(file.m_lock, LOCK_EX | LOCK_NB) != 0 || ::fstat(file.m_lock, &here) != 0 || here.st_nlink == 0) {
      ::close(std::exchange(file.m_lock, -1)); // locked by another window, or just being removed
      continue;
    }
    // An abandoned copy of somebody else must not be overwritten.
    std::error_code ignored;
    if (!fs::exists(file.m_path, ignored)) return file;
  }
  return fail(ErrorCode::CannotWrite, say("there are too many recovery copies"), folder, say("Remove old ones"));
}

RecoveryFile::RecoveryFile(RecoveryFile&& other) noexcept
    : m_path(std::exchange(other.m_path, {})), m_lock(std::exchange(other.m_lock, -1)) {}

RecoveryFile& RecoveryFile::operator=(RecoveryFile&& other) noexcept {
  if (this == &other) return *this;
  release();
  m_path = std::exchange(other.m_path, {});
  m_lock = std::exchange(other.m_lock, -1);
  return *this;
}

RecoveryFile::~RecoveryFile() {
  release();
}

void RecoveryFile::release() {
  if (m_lock < 0) return;
  std::error_code ignored;
  if (!fs::exists(m_path, ignored)) ::unlink(lockOf(m_path).c_str());
  ::close(m_lock);
  m_lock = -1;
}

Status RecoveryFile::write(const Project& project, const std::string& projectPath) {
  // Paths stay absolute: the copy lies elsewhere.
  const Json root{
      {"projectPath", projectPath}, {"writtenAt", int64_t(std::time(nullptr))}, {"project", toText(project, {})}};
  return writeFileAtomically(m_path, root.dump(-1, ' ', false, Json::error_handler_t::replace));
}

void RecoveryFile::clear() {
  ::unlink(m_path.c_str());
}

std::vector<RecoveryCopy> abandonedCopies(const std::string& folder) {
  std::vector<RecoveryCopy> copies;
  std::error_code status;
  for (const auto& entry : fs::directory_iterator(folder, status)) {
    const std::string file = entry.path().string();
    if (!file.ends_with(kEnding)) continue;
    if (const int fd = ::open(lockOf(file).c_str(), O_RDWR | O_CLOEXEC); fd >= 0) {
      const bool alive = ::flock(fd, LOCK_EX | LOCK_NB) != 0;
      ::close(fd);
      if (alive) continue;
    }
    const auto text = readWholeFile(file);
    if (!text) continue;
    const Json root = parseJson(*text).value_or(Json());
    JsonFault fault;
    const JsonNode node(root, fault);
    RecoveryCopy copy;
    copy.file = file;
    copy.projectPath = node.get("projectPath").text();
    copy.writtenAt = node.get("writtenAt").integer(0, INT64_MAX);
    const std::string inside = node.get("project").text(256'000'000);
    auto project = fault.error ? Result<Project>(tl::unexpected(*fault.error)) : fromText(inside, {}, file);
    if (!project) continue;
    copy.project = std::move(*project);
    copies.push_back(std::move(copy));
  }
  std::sort(copies.begin(), copies.end(),
            [](const RecoveryCopy& a, const RecoveryCopy& b) { return a.writtenAt > b.writtenAt; });
  return copies;
}

void removeCopy(const RecoveryCopy& copy) {
  const std::string lock = lockOf(copy.file);
  // Keeps the lock while the file is removed, so that nobody takes its name in between.
  const int held = ::open(lock.c_str(), O_RDWR | O_CREAT | O_CLOEXEC, 0600);
  if (held >= 0 && ::flock(held, LOCK_EX | LOCK_NB) == 0) {
    ::unlink(copy.file.c_str());
    ::unlink(lock.c_str());
  }
  if (held >= 0) ::close(held);
}

Message differences(const Project& before, const Project& after) {
  // Kinds of which nothing has changed are not mentioned.
  const auto some = [](std::vector<Message> counted) {
    std::erase_if(counted, [](const Message& each) { return each.count() == 0; });
    return joined(counted, ", ");
  };
  const Changes sources = changesOf(before.sources, after.sources);
  const Changes shots = changesOf(before.shots, after.shots);
  const Changes deliverables = changesOf(before.deliverables, after.deliverables);
  const Changes regions = changesOf(before.regions, after.regions);
  const Changes beds = changesOf(before.beds, after.beds);
  const Changes elements = changesOf(before.elements, after.elements);
  const Message all = joined(
      {
          some({sayCounted("%n sources added", "%n source added", sources.added),
                sayCounted("%n sources removed", "%n source removed", sources.removed),
                sayCounted("%n sources changed", "%n source changed", sources.changed)}),
          some({sayCounted("%n shots added", "%n shot added", shots.added),
                sayCounted("%n shots removed", "%n shot removed", shots.removed),
                sayCounted("%n shots changed", "%n shot changed", shots.changed)}),
          some({sayCounted("%n deliverables added", "%n deliverable added", deliverables.added),
                sayCounted("%n deliverables removed", "%n deliverable removed", deliverables.removed),
                sayCounted("%n deliverables changed", "%n deliverable changed", deliverables.changed)}),
          some({sayCounted("%n regions added", "%n region added", regions.added),
                sayCounted("%n regions removed", "%n region removed", regions.removed),
                sayCounted("%n regions changed", "%n region changed", regions.changed)}),
          some({sayCounted("%n sound beds added", "%n sound bed added", beds.added),
                sayCounted("%n sound beds removed", "%n sound bed removed", beds.removed),
                sayCounted("%n sound beds changed", "%n sound bed changed", beds.changed)}),
          some({sayCounted("%n words or pictures added", "%n text or picture added", elements.added),
                sayCounted("%n words or pictures removed", "%n text or picture removed", elements.removed),
                sayCounted("%n words or pictures changed", "%n text or picture changed", elements.changed)}),
      },
      "; ");
  return all.empty() && before != after ? say("the running order or names changed") : all;
}

} // namespace tromb
