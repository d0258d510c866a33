// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/Worker.h"
#include "project/Collect.h"
#include "project/Relink.h"

#include <QObject>

namespace tromb {

/// Long work on a project's files beside the window's thread: copying a project with all its footage, and looking for
/// missing files. One job at a time; signals arrive in the window's thread.
class FileRun : public QObject {
  Q_OBJECT

public:
  explicit FileRun(QObject* parent = nullptr) : QObject(parent) {}

  void collect(const Project& project, const QString& folder);
  void lookFor(const std::vector<Source>& missing, const QString& folder);
  /// Stops early: what was found until then is told, a copy that is not whole is taken away and told as `failed`.
  void cancel() { m_worker.interrupt(); }

signals:
  void progress(double fraction, const QString& what); ///< fraction < 0: cannot be told
  void collected(const QString& projectPath);
  void found(const std::vector<tromb::FoundFile>& files);
  void failed(const tromb::Error& error);

private:
  void run(Worker::Work work);
  Worker m_worker;
};

} // namespace tromb
