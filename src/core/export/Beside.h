// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <deque>
#include <functional>
#include <future>
#include <stop_token>
#include <utility>

namespace tromb {

/// Work that goes on beside the thread that asked for it. What nobody has taken when this goes, by a fault too, is
/// stopped and awaited. One thread at a time.
template <typename T> class Beside {
public:
  explicit Beside(const std::stop_token& all) : m_passOn(all, [this] { m_stop.request_stop(); }) {}
  ~Beside() { m_stop.request_stop(); }
  Beside(const Beside&) = delete;
  Beside& operator=(const Beside&) = delete;

  /// By which the tasks are to end: when `all` does, and when this goes.
  [[nodiscard]] std::stop_token token() const { return m_stop.get_token(); }
  /// Where no thread can be started, the task is done when it is taken.
  void begin(std::function<T()> task) {
    m_tasks.push_back(std::async(std::launch::async | std::launch::deferred, std::move(task)));
  }
  [[nodiscard]] bool empty() const { return m_tasks.empty(); }
  /// Waits for the task that was begun first; throws what it threw.
  [[nodiscard]] T take() {
    auto first = std::move(m_tasks.front());
    m_tasks.pop_front();
    return first.get();
  }

private:
  std::stop_source m_stop;
  std::stop_callback<std::function<void()>> m_passOn;
  std::deque<std::future<T>> m_tasks; ///< goes first, and so waits
};

} // namespace tromb
