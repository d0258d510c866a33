// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <atomic>
#include <cstdint>
#include <thread>

namespace tromb::test {

/// Passes on what is said to a port of this machine, and breaks each connection off once so many bytes have gone to it.
class CuttingProxy {
public:
  /// `bytes`: what each connection may send; 0: no limit.
  CuttingProxy(int to, int64_t bytes);
  ~CuttingProxy();
  [[nodiscard]] int port() const { return m_port; }
  [[nodiscard]] int64_t passed() const { return m_passed; } ///< bytes that went to the port, of all connections
  [[nodiscard]] int broken() const { return m_broken; }     ///< connections that were broken off

private:
  void serve();
  void pass(int client);
  int m_to;
  int64_t m_bytes;
  int m_listener = -1;
  int m_port = 0;
  std::atomic<int64_t> m_passed{0};
  std::atomic<int> m_broken{0};
  std::atomic<bool> m_over{false};
  std::thread m_thread;
};

} // namespace tromb::test
