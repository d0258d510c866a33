// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <deque>
#include <functional>
#include <future>
#include <stop_token>
#include <utility>

namespace tromb {

/// Tasks that run in threads of their own while the thread that began them does something else. Tasks whose results
/// have not been taken when this is destroyed are told to stop, and are waited for. Used by one thread.
template <typename T> class Beside {
public:
  explicit Beside(const std::stop_token& all) : m_passOn(all, [this] { m_stop.request_stop(); }) {}
  ~Beside() { m_stop.request_stop(); }
  Beside(const Beside&) = delete;
  Beside& operator=(const Beside&) = delete;

  /// Tells the tasks when to stop: when `all` says so, or when this is destroyed.
  [[nodiscard]] std::stop_token token() const { return m_stop.get_token(); }
  /// Starts a task. Where no thread can be started, `take` runs it.
  void begin(std::function<T()> task) {
    m_tasks.push_back(std::async(std::launch::async | std::launch::deferred, std::move(task)));
  }
  [[nodiscard]] bool empty() const { return m_tasks.empty(); }
  /// The result of the earliest task that has not been taken yet; waits for it. Throws what the task threw.
  [[nodiscard]] T take() {
    auto first = std::move(m_tasks.front());
    m_tasks.pop_front();
    return first.get();
  }

private:
  std::stop_source m_stop;
  std::stop_callback<std::function<void()>> m_passOn;
  std::deque<std::future<T>> m_tasks; ///< the last member: destroyed first, which waits for the threads
};

} // namespace tromb
