// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/RecoveryKeeper.h"
#include "model/Translation.h"

#include <QFileInfo>
#include <fcntl.h>
#include <sys/file.h>
#include <sys/stat.h>
#include <unistd.h>
#include <utility>

namespace tromb {
namespace {

constexpr int kAfterMilliseconds = 10'000;

/// True where an open file is the one that lies at a path.
bool isAt(int descriptor, const std::string& path) {
  struct stat open {};
  struct stat there {};
  return ::fstat(descriptor, &open) == 0 && ::stat(path.c_str(), &there) == 0 && open.st_dev == there.st_dev &&
         open.st_ino == there.st_ino;
}

} // namespace

RecoveryKeeper::RecoveryKeeper(Document& document, const QString& folder, QObject* parent)
    : QObject(parent), m_document(document), m_folder(folder) {
  m_timer.setSingleShot(true);
  m_timer.setInterval(kAfterMilliseconds);
  connect(&m_timer, &QTimer::timeout, this, &RecoveryKeeper::write);
  connect(&document, &Document::identityChanged, this, &RecoveryKeeper::refresh);
  connect(&document.undoStack(), &QUndoStack::indexChanged, this, &RecoveryKeeper::refresh);
}

void RecoveryKeeper::refresh() {
  if (!m_document.modified())
    clear();
  else if (!m_timer.isActive()) // the timer is not started again by further edits, which would put the copy off
    m_timer.start();
}

bool RecoveryKeeper::write() {
  m_timer.stop();
  if (!m_document.modified()) return true;
  Status done;
  if (!m_file) {
    auto made = RecoveryFile::create(m_folder.toStdString());
    if (made)
      m_file.emplace(std::move(*made));
    else
      done = tl::unexpected(made.error());
  }
  if (m_file) done = m_file->write(m_document.project(), m_document.path().toStdString());
  if (!done && !m_complained) emit failed(said(done.error()));
  m_complained = !done;
  return bool(done);
}

void RecoveryKeeper::clear() {
  m_timer.stop();
  if (m_file) m_file->clear();
  m_file.reset();
}

ProjectLock ProjectLock::take(const QString& projectPath, bool& taken) {
  taken = false;
  ProjectLock lock;
  const QFileInfo info(projectPath);
  const QString canonical = info.exists() ? info.canonicalFilePath() : info.absoluteFilePath();
  const QFileInfo file(canonical);
  lock.m_path = (file.path() + QStringLiteral("/.") + file.fileName() + QStringLiteral(".lock")).toStdString();
  for (;;) {
    lock.m_fd = ::open(lock.m_path.c_str(), O_RDWR | O_CREAT | O_CLOEXEC | O_NOFOLLOW, 0666);
    if (lock.m_fd < 0) return lock;
    taken = ::flock(lock.m_fd, LOCK_EX | LOCK_NB) != 0;
    if (!taken && isAt(lock.m_fd, lock.m_path)) return lock;
    ::close(std::exchange(lock.m_fd, -1));
    if (taken) return lock;
    // The last holder has just removed the file, so the locked one is no longer the one that others find.
  }
}

ProjectLock::ProjectLock(ProjectLock&& other) noexcept
    : m_fd(std::exchange(other.m_fd, -1)), m_path(std::exchange(other.m_path, {})) {}

ProjectLock& ProjectLock::operator=(ProjectLock&& other) noexcept {
  std::swap(m_fd, other.m_fd);
  std::swap(m_path, other.m_path);
  return *this;
}

ProjectLock::~ProjectLock() {
  if (m_fd < 0) return;
  ::unlink(m_path.c_str());
  ::close(m_fd);
}

} // namespace tromb
