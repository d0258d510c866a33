// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "Error.h"

#include <QObject>
#include <chrono>
#include <functional>
#include <memory>
#include <stop_token>

namespace tromb {

/// Lets something through at most once in `every`; the first time at once. For one thread.
class Throttle {
public:
  explicit Throttle(std::chrono::milliseconds every = std::chrono::milliseconds(100)) : m_every(every) {}
  [[nodiscard]] bool due();

private:
  std::chrono::milliseconds m_every;
  std::chrono::steady_clock::time_point m_last;
};

struct WorkerCore;

/// What a piece of work sees of the worker that runs it. Copies are the same task and may be handed to threads that
/// the work starts itself, as long as these end before it does. Thread-safe.
class Task {
public:
  [[nodiscard]] const std::stop_token& stop() const { return m_stop; }
  [[nodiscard]] bool stopped() const { return m_stop.stop_requested(); }
  /// Calls `say` in the thread of the worker's owner, in the order of telling. Nothing is called once the work was
  /// stopped or the owner is gone, so `say` may use the owner.
  void tell(std::function<void()> say) const;

private:
  friend class Worker;
  friend struct WorkerCore;
  Task(std::shared_ptr<WorkerCore> core, std::stop_token stop, std::stop_token unheard)
      : m_core(std::move(core)), m_stop(std::move(stop)), m_unheard(std::move(unheard)) {}
  std::shared_ptr<WorkerCore> m_core;
  std::stop_token m_stop;
  std::stop_token m_unheard; ///< nobody listens any more
};

/// Runs work beside the thread of its owner, which is the window's: the only way in which the model starts threads.
///
/// Pieces of work are begun in the order in which they were added, as many at a time as there are threads. Work takes
/// along everything that it uses, by value or shared; it never touches the owner, except in what it tells. Stopping
/// and destroying ask the running work to stop and return at once, without waiting; work that was stopped is never
/// heard of again, and with one thread the next begins only after it has ended. The threads are joined by
/// `joinWorkers`. All members are for the owner's thread.
class Worker : public QObject {
  Q_OBJECT

public:
  enum class Pace {
    GivesWay,   ///< to the window, and to everything else on the machine
    WithWindow, ///< for what somebody is watching
  };
  using Work = std::function<void(const Task&)>;
  using Failed = std::function<void(const Error&)>;

  explicit Worker(int threads = 1, Pace pace = Pace::GivesWay);
  ~Worker() override;

  /// `failed` is called in the owner's thread with what the work threw, and where no thread can be started.
  void add(Work work, Failed failed);
  /// Asks what runs to stop, drops what waits, and hears no more of either.
  void stop();
  /// Asks what runs to stop and drops what waits, but goes on hearing what is told: of how far it came.
  void interrupt();
  [[nodiscard]] bool busy() const { return m_left > 0; }

  bool event(QEvent* event) override;

signals:
  void idle(); ///< everything that was added has been done, or has failed

private:
  std::shared_ptr<WorkerCore> m_core;
  int m_left = 0;
};

/// Waits for all threads of workers that are gone. To be called when the last window is closed, before the process's
/// statics go; the work of workers that still exist is stopped.
void joinWorkers();

} // namespace tromb
