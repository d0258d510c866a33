// SPDX-License-Identifier: GPL-3.0-or-later
#include "media/write/EncoderChannel.h"

#include <cerrno>
#include <poll.h>
#include <sys/socket.h>

namespace tromb {
namespace {

struct MessageHead {
  EncoderChannel::Kind kind;
  uint32_t bytes;
};
constexpr uint32_t kMostMessageBytes = 1U << 30; ///< the samples of the largest canvas are fewer

} // namespace

bool EncoderChannel::wait(short events) const {
  pollfd file{m_end.get(), events, 0};
  int ready = 0;
  do ready = ::poll(&file, 1, m_patience);
  while (ready < 0 && errno == EINTR);
  if (ready == 0) m_silent = true;
  return ready > 0;
}

bool EncoderChannel::put(const void* bytes, size_t count) const {
  const auto* from = static_cast<const char*>(bytes);
  while (count > 0) {
    if (!wait(POLLOUT)) return false;
    const ssize_t sent = ::send(m_end.get(), from, count, MSG_NOSIGNAL | MSG_DONTWAIT);
    if (sent < 0 && (errno == EINTR || errno == EAGAIN)) continue;
    if (sent <= 0) return false;
    from += sent;
    count -= size_t(sent);
  }
  return true;
}

bool EncoderChannel::take(void* bytes, size_t count) const {
  auto* to = static_cast<char*>(bytes);
  while (count > 0) {
    if (!wait(POLLIN)) return false;
    const ssize_t got = ::recv(m_end.get(), to, count, MSG_DONTWAIT);
    if (got < 0 && (errno == EINTR || errno == EAGAIN)) continue;
    if (got <= 0) return false;
    to += got;
    count -= size_t(got);
  }
  return true;
}

bool EncoderChannel::send(Kind kind, std::string_view head, std::string_view body) const {
  const MessageHead message{kind, uint32_t(head.size() + body.size())};
  return put(&message, sizeof message) && put(head.data(), head.size()) && put(body.data(), body.size());
}

std::optional<EncoderChannel::Received> EncoderChannel::receive() const {
  MessageHead message{};
  if (!take(&message, sizeof message) || message.bytes > kMostMessageBytes) return {};
  Received received{message.kind, std::string(message.bytes, '\0')};
  if (!take(received.bytes.data(), received.bytes.size())) return {};
  return received;
}

} // namespace tromb
