// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/FileRun.h"

#include <chrono>

namespace tromb {
namespace {

/// Lets something through at most ten times a second.
class Seldom {
public:
  [[nodiscard]] bool now() {
    const auto time = std::chrono::steady_clock::now();
    if (time - m_last < std::chrono::milliseconds(100)) return false;
    m_last = time;
    return true;
  }

private:
  std::chrono::steady_clock::time_point m_last;
};

} // namespace

void FileRun::collect(const Project& project, const QString& folder) {
  m_thread = std::jthread([this, project, folder = folder.toStdString()](const std::stop_token& stop) {
    Seldom seldom;
    const auto done = collectProject(project, folder, stop, [&](const CollectProgress& p) {
      if (!seldom.now()) return;
      const double fraction = p.total > 0 ? double(p.bytes) / double(p.total) : 0;
      QMetaObject::invokeMethod(
          this, [this, fraction, file = QString::fromStdString(p.file)] { emit progress(fraction, file); });
    });
    QMetaObject::invokeMethod(this, [this, done] {
      if (done)
        emit collected(QString::fromStdString(*done));
      else
        emit failed(QString::fromStdString(sentence(done.error())));
    });
  });
}

void FileRun::lookFor(const std::vector<Source>& missing, const QString& folder) {
  m_thread = std::jthread([this, missing, folder = folder.toStdString()](const std::stop_token& stop) {
    Seldom seldom;
    const auto files = findMissing(missing, folder, stop, [&](const std::string& inside) {
      if (!seldom.now()) return;
      QMetaObject::invokeMethod(this, [this, where = QString::fromStdString(inside)] { emit progress(-1, where); });
    });
    QMetaObject::invokeMethod(this, [this, files] { emit found(files); });
  });
}

} // namespace tromb
