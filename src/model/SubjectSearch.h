// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "analysis/SubjectFinder.h"
#include "analysis/SubjectTracker.h"
#include "model/Worker.h"

#include <QObject>

namespace tromb {

/// Looks for subjects beside the window's thread: follows one through a shot, or looks for one in each of many shots.
/// One search at a time; a new one ends the one before. Signals arrive in the window's thread.
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
  void find(std::vector<Stretch> stretches);
  void cancel();
  [[nodiscard]] bool running() const { return m_running; }

signals:
  void progress(double fraction);
  void followed(const std::string& shot, const tromb::Track& track);
  void found(const std::string& shot, const tromb::FoundSubject& subject);
  void failed(const QString& reason); ///< Searching one stretch failed; the other stretches go on.
  void finished();                    ///< or cancelled

private:
  void run(Worker::Work work);
  void end();
  bool m_running = false;
  Worker m_worker;
};

} // namespace tromb
