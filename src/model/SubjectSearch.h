// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "analysis/SubjectTracker.h"
#include "model/Worker.h"

#include <QObject>

namespace tromb {

/// Follows a subject through a shot beside the window's thread. One search at a time; a new one ends the one before.
/// Signals arrive in the window's thread.
class SubjectSearch : public QObject {
  Q_OBJECT

public:
  struct Stretch {
    std::string shot; ///< Shot::id
    Reading reading;
    int64_t first = 0;
    int64_t end = 1;
  };

  explicit SubjectSearch(QObject* parent = nullptr) : QObject(parent) {}

  void follow(const Stretch& stretch, int64_t at, const RectF& box); ///< see followSubject
  void cancel();
  [[nodiscard]] bool running() const { return m_running; }

signals:
  void progress(double fraction);
  void followed(const std::string& shot, const tromb::Track& track);
  void failed(const QString& reason);
  void finished(); ///< or cancelled

private:
  void run(Worker::Work work);
  void end();
  bool m_running = false;
  Worker m_worker;
};

} // namespace tromb
