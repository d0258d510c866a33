// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/SoundOut.h"

#include <algorithm>
#include <array>

namespace tromb {

SoundPipe::SoundPipe(int64_t most) : m_ring(size_t(most * kStereo)), m_most(most) {}

bool SoundPipe::waitForRoom(int64_t count, const std::stop_token& stop) {
  std::unique_lock lock(m_mutex);
  return m_room.wait(lock, stop, [&] { return m_most - m_held >= count; });
}

void SoundPipe::put(const float* samples, int64_t count) {
  const std::scoped_lock lock(m_mutex);
  for (int64_t i = 0; i < count && m_held < m_most; ++i, ++m_held)
    std::copy_n(samples + i * kStereo, kStereo, m_ring.data() + (m_first + m_held) % m_most * kStereo);
}

void SoundPipe::end() {
  const std::scoped_lock lock(m_mutex);
  m_ended = true;
}

int64_t SoundPipe::take(float* out, int64_t count) {
  const std::scoped_lock lock(m_mutex);
  const int64_t there = std::min(count, m_held);
  for (int64_t i = 0; i < there; ++i)
    std::copy_n(m_ring.data() + (m_first + i) % m_most * kStereo, kStereo, out + i * kStereo);
  std::fill(out + there * kStereo, out + count * kStereo, 0.0F);
  m_first = (m_first + there) % m_most;
  m_held -= there;
  if (!m_ended) m_missed += count - there;
  m_meter.add(out, count);
  m_room.notify_all();
  return there;
}

int64_t SoundPipe::held() const {
  const std::scoped_lock lock(m_mutex);
  return m_held;
}

bool SoundPipe::ended() const {
  const std::scoped_lock lock(m_mutex);
  return m_ended;
}

int64_t SoundPipe::missed() const {
  const std::scoped_lock lock(m_mutex);
  return m_missed;
}

SoundLevel SoundPipe::level() {
  const std::scoped_lock lock(m_mutex);
  return m_meter.take();
}

void SilentOut::start(std::shared_ptr<SoundPipe> pipe) {
  m_pipe = std::move(pipe);
  m_taken = 0;
  m_clock.start();
}

int64_t SilentOut::heard() {
  if (!m_pipe) return m_taken;
  const int64_t now = m_clock.nsecsElapsed() / 1000 * kSoundRate / 1'000'000;
  std::array<float, 1024 * kStereo> dropped;
  while (m_taken < now) {
    const int64_t count = std::min<int64_t>(now - m_taken, 1024);
    m_pipe->take(dropped.data(), count);
    m_taken += count;
  }
  return m_taken;
}

} // namespace tromb
