// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/CuttingProxy.h"

#include <algorithm>
#include <arpa/inet.h>
#include <netinet/in.h>
#include <poll.h>
#include <stdexcept>
#include <sys/socket.h>
#include <unistd.h>
#include <vector>

namespace tromb::test {
namespace {

sockaddr_in loopback(int port) {
  sockaddr_in address{};
  address.sin_family = AF_INET;
  address.sin_port = htons(uint16_t(port));
  address.sin_addr.s_addr = htonl(INADDR_LOOPBACK);
  return address;
}

} // namespace

CuttingProxy::CuttingProxy(int to, int64_t bytes) : m_to(to), m_bytes(bytes) {
  m_listener = ::socket(AF_INET, SOCK_STREAM, 0);
  sockaddr_in address = loopback(0);
  socklen_t size = sizeof address;
  if (m_listener < 0 || ::bind(m_listener, reinterpret_cast<sockaddr*>(&address), size) != 0 ||
      ::listen(m_listener, 8) != 0 || ::getsockname(m_listener, reinterpret_cast<sockaddr*>(&address), &size) != 0)
    throw std::runtime_error("no port can be listened on");
  m_port = ntohs(address.sin_port);
  m_thread = std::thread([this] { serve(); });
}

CuttingProxy::~CuttingProxy() {
  m_over = true;
  m_thread.join();
  ::close(m_listener);
}

void CuttingProxy::serve() {
  while (!m_over) {
    pollfd waiting{m_listener, POLLIN, 0};
    if (::poll(&waiting, 1, 20) <= 0) continue;
    const int client = ::accept(m_listener, nullptr, nullptr);
    if (client >= 0) pass(client);
  }
}

/// One connection after the other: the sender opens no two at a time.
void CuttingProxy::pass(int client) {
  const int server = ::socket(AF_INET, SOCK_STREAM, 0);
  const sockaddr_in address = loopback(m_to);
  if (::connect(server, reinterpret_cast<const sockaddr*>(&address), sizeof address) == 0) {
    int64_t left = m_bytes;
    std::vector<char> bytes(16384);
    while (!m_over) {
      pollfd both[] = {{client, POLLIN, 0}, {server, POLLIN, 0}};
      if (::poll(both, 2, 20) < 0) break;
      if (both[0].revents != 0) {
        ssize_t got = ::recv(client, bytes.data(), bytes.size(), 0);
        if (got <= 0) break;
        const bool cut = m_bytes > 0 && got >= left;
        if (cut) got = ssize_t(left);
        if (::send(server, bytes.data(), size_t(got), MSG_NOSIGNAL) != got) break;
        m_passed += got;
        left -= got;
        if (cut) {
          ++m_broken;
          break;
        }
      }
      if (both[1].revents != 0) {
        const ssize_t got = ::recv(server, bytes.data(), bytes.size(), 0);
        if (got <= 0 || ::send(client, bytes.data(), size_t(got), MSG_NOSIGNAL) != got) break;
      }
    }
  }
  ::close(server);
  ::close(client);
}

} // namespace tromb::test
