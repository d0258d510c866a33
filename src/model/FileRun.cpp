// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/FileRun.h"

namespace tromb {

void FileRun::run(Worker::Work work) {
  m_worker.stop();
  m_worker.add(std::move(work), [this](const Error& error) { emit failed(error); });
}

void FileRun::collect(const Project& project, const QString& folder) {
  run([this, project, folder = folder.toStdString()](const Task& task) {
    Throttle seldom;
    const auto done = collectProject(project, folder, task.stop(), [&](const CollectProgress& p) {
      if (!seldom.due()) return;
      const double fraction = p.total > 0 ? double(p.bytes) / double(p.total) : 0;
      task.tell([this, fraction, file = QString::fromStdString(p.file)] { emit progress(fraction, file); });
    });
    task.tell([this, done] {
      if (done)
        emit collected(QString::fromStdString(*done));
      else
        emit failed(done.error());
    });
  });
}

void FileRun::lookFor(const std::vector<Source>& missing, const QString& folder) {
  run([this, missing, folder = folder.toStdString()](const Task& task) {
    Throttle seldom;
    const auto files = findMissing(missing, folder, task.stop(), [&](const std::string& inside) {
      if (seldom.due()) task.tell([this, where = QString::fromStdString(inside)] { emit progress(-1, where); });
    });
    task.tell([this, files] { emit found(files); });
  });
}

} // namespace tromb
