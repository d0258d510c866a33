// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <condition_variable>
#include <deque>
#include <mutex>
#include <optional>
#include <stop_token>

namespace tromb {

/// A queue between two threads that holds at most `capacity` items: the faster side waits for the slower one.
template <typename T> class BoundedQueue {
public:
  explicit BoundedQueue(size_t capacity) : m_capacity(capacity) {}

  /// Waits for room. Returns false, and drops the item, if `stop` was asked for first.
  bool push(T item, const std::stop_token& stop) {
    std::unique_lock lock(m_mutex);
    if (!m_changed.wait(lock, stop, [&] { return m_items.size() < m_capacity; })) return false;
    m_items.push_back(std::move(item));
    lock.unlock();
    m_changed.notify_all();
    return true;
  }

  /// No more items will come.
  void close() {
    {
      const std::scoped_lock lock(m_mutex);
      m_closed = true;
    }
    m_changed.notify_all();
  }

  /// Waits for an item. Returns nothing if the queue is closed and drained, or if `stop` was asked for.
  std::optional<T> pop(const std::stop_token& stop) {
    std::unique_lock lock(m_mutex);
    if (!m_changed.wait(lock, stop, [&] { return !m_items.empty() || m_closed; }) || m_items.empty()) return {};
    std::optional<T> item(std::move(m_items.front()));
    m_items.pop_front();
    lock.unlock();
    m_changed.notify_all();
    return item;
  }

private:
  const size_t m_capacity;
  std::mutex m_mutex;
  std::condition_variable_any m_changed;
  std::deque<T> m_items;
  bool m_closed = false;
};

} // namespace tromb
