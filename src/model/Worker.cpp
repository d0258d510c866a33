// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/Worker.h"

#include <QCoreApplication>
#include <QEvent>
#include <atomic>
#include <chrono>
#include <deque>
#include <mutex>
#include <new>
#include <optional>
#include <sys/resource.h>
#include <system_error>
#include <thread>
#include <unistd.h>
#include <utility>
#include <vector>

namespace tromb {
namespace {

constexpr int kNiceness = 10;
constexpr std::chrono::milliseconds kMemoryPause(50);

/// The threads of all workers, until they are joined.
class Threads {
public:
  ~Threads() { joinAll(); }

  static Threads& all() {
    static Threads threads;
    return threads;
  }

  /// Errors: std::system_error, as std::thread has it.
  void start(const std::shared_ptr<WorkerCore>& core);
  void joinAll();

private:
  struct Running {
    std::shared_ptr<WorkerCore> core;
    std::shared_ptr<std::atomic<bool>> ended;
    std::thread thread;
  };
  std::mutex m_mutex;
  std::vector<Running> m_running;
};

} // namespace

bool Throttle::due() {
  const auto now = std::chrono::steady_clock::now();
  if (now - m_last < m_every) return false;
  m_last = now;
  return true;
}

/// What a worker shares with its threads; outlives it until the last of them has ended.
struct WorkerCore {
  struct Queued {
    Worker::Work work;
    Task task;
  };

  const Worker::Pace pace;
  const int mostThreads;
  std::mutex mutex; ///< of the queue and the stop sources
  std::deque<Queued> queue;
  int threads = 0;
  std::stop_source stopping;  ///< of everything since the last stop or interruption
  std::stop_source unhearing; ///< of everything since the last stop
  std::mutex ownerMutex;      ///< of the next two; held while telling, so that the owner cannot go meanwhile
  QObject* owner = nullptr;
  std::deque<std::function<void()>> told; ///< messages that the owner has not handled yet; it gets one event for each

  WorkerCore(QObject* tellTo, Worker::Pace pacing, int most) : pace(pacing), mostThreads(most), owner(tellTo) {}

  void tell(std::function<void()> say) {
    const std::scoped_lock lock(ownerMutex);
    if (!owner) return;
    told.push_back(std::move(say));
    QCoreApplication::postEvent(owner, new QEvent(QEvent::User));
  }
  [[nodiscard]] std::function<void()> hear() {
    const std::scoped_lock lock(ownerMutex);
    std::function<void()> say = std::move(told.front());
    told.pop_front();
    return say;
  }
  /// How many pieces of work were dropped.
  int interrupt() {
    const std::scoped_lock lock(mutex);
    const int dropped = int(queue.size());
    queue.clear();
    stopping.request_stop();
    stopping = {};
    return dropped;
  }
  /// One thread: takes work until there is none.
  void run();
};

void WorkerCore::run() {
  // Of this thread and those that it starts, on Linux; work goes on where it is refused.
  if (pace == Worker::Pace::GivesWay) setpriority(PRIO_PROCESS, id_t(gettid()), kNiceness);
  for (;;) {
    std::optional<Queued> next;
    {
      const std::scoped_lock lock(mutex);
      if (queue.empty()) {
        --threads;
        return;
      }
      next.emplace(std::move(queue.front()));
      queue.pop_front();
    }
    next->work(next->task);
  }
}

namespace {

void Threads::start(const std::shared_ptr<WorkerCore>& core) {
  const std::scoped_lock lock(m_mutex);
  std::erase_if(m_running, [](Running& each) {
    if (!*each.ended) return false;
    each.thread.join();
    return true;
  });
  auto ended = std::make_shared<std::atomic<bool>>(false);
  m_running.reserve(m_running.size() + 1);
  m_running.push_back({core, ended, std::thread([core, ended] {
                         core->run();
                         *ended = true;
                       })});
}

void Threads::joinAll() {
  std::vector<Running> all;
  {
    const std::scoped_lock lock(m_mutex);
    all.swap(m_running);
  }
  for (Running& each : all) each.core->interrupt();
  for (Running& each : all) each.thread.join();
}

} // namespace

void Task::tell(std::function<void()> say) const {
  m_core->tell([unheard = m_unheard, say = std::move(say)] {
    if (!unheard.stop_requested()) say();
  });
}

Worker::Worker(int threads, Pace pace) : m_core(std::make_shared<WorkerCore>(this, pace, threads)) {}

Worker::~Worker() {
  stop();
  std::deque<std::function<void()>>
      unheard; // destroyed after the lock is released, since destructors of what it holds may call back
  const std::scoped_lock lock(m_core->ownerMutex);
  m_core->owner = nullptr;
  unheard.swap(m_core->told);
}

bool Worker::event(QEvent* event) {
  if (event->type() != QEvent::User) return QObject::event(event);
  const auto say = m_core->hear(); // one for each event, so that their order holds in a dialog's own loop, too
  say();
  return true;
}

void Worker::stop() {
  m_core->interrupt();
  m_left = 0;
  const std::scoped_lock lock(m_core->mutex);
  m_core->unhearing.request_stop();
  m_core->unhearing = {};
}

void Worker::interrupt() {
  m_left -= m_core->interrupt();
}

void Worker::add(Work work, Failed failed) {
  ++m_left;
  const auto ended = [this, failed = std::move(failed)](const std::optional<Error>& error) {
    if (error) failed(*error);
    if (--m_left == 0) emit idle();
  };
  // Made ahead, since there is nothing to make it of then.
  const Error noMemory{
      ErrorCode::Decoder, say("memory has run out"), {}, {}, say("Close other programs, and try again")};
  auto guarded = [work = std::move(work), ended, noMemory](const Task& task) mutable {
    std::optional<Error> error;
    try {
      try {
        work(task);
      } catch (const std::bad_alloc&) {
        throw;
      } catch (const std::exception& broken) {
        error = {ErrorCode::Decoder, say("a fault inside: %1", broken.what()), {}, {}, {}};
      }
    } catch (const std::bad_alloc&) {
      error = std::move(noMemory);
    }
    for (;;) try {
        task.tell([ended, error] { ended(error); });
        return;
      } catch (const std::bad_alloc&) { // try again later: other threads will give memory back, and the window waits
                                        // for this result
        std::this_thread::sleep_for(kMemoryPause);
      }
  };
  const Task task(m_core, m_core->stopping.get_token(), m_core->unhearing.get_token());
  {
    const std::scoped_lock lock(m_core->mutex);
    m_core->queue.push_back({std::move(guarded), task});
    if (m_core->threads == m_core->mostThreads) return;
    ++m_core->threads;
  }
  try {
    Threads::all().start(m_core);
  } catch (const std::system_error& refused) {
    const std::scoped_lock lock(m_core->mutex);
    if (--m_core->threads > 0) return; // the other threads go on with the queue
    m_core->queue.pop_back();
    task.tell([ended, why = std::string(refused.what())] {
      ended(Error{ErrorCode::Decoder, say("no thread can be started (%1)", why), {}, {}, say("Close other programs")});
    });
  }
}

void joinWorkers() {
  Threads::all().joinAll();
}

} // namespace tromb
