// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <chrono>
#include <condition_variable>
#include <mutex>
#include <stop_token>

namespace tromb {

/// Holds up work that is paused. Open when it is made. Thread-safe.
class Gate {
public:
  void close() { set(true); }
  void open() { set(false); }
  /// Returns at once while it is open; else when it is opened, or a stop is asked for.
  void pass(const std::stop_token& stop) {
    std::unique_lock lock(m_mutex);
    m_opened.wait(lock, stop, [this] { return !m_closed; });
  }
  /// For how long it has been closed so far, in all.
  [[nodiscard]] double closedSeconds() const {
    const std::scoped_lock lock(m_mutex);
    return std::chrono::duration<double>(m_before + (m_closed ? Clock::now() - m_since : Clock::duration())).count();
  }

private:
  using Clock = std::chrono::steady_clock;
  void set(bool closed) {
    {
      const std::scoped_lock lock(m_mutex);
      if (m_closed == closed) return;
      if (m_closed) m_before += Clock::now() - m_since;
      m_since = Clock::now();
      m_closed = closed;
    }
    m_opened.notify_all();
  }
  mutable std::mutex m_mutex;
  std::condition_variable_any m_opened;
  bool m_closed = false;
  Clock::time_point m_since;
  Clock::duration m_before{};
};

} // namespace tromb
