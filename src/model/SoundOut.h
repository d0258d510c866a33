// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "analysis/Loudness.h"

#include <QElapsedTimer>
#include <condition_variable>
#include <memory>
#include <mutex>
#include <stop_token>
#include <vector>

namespace tromb {

/// Stereo sound on its way from what mixes it to what plays it. Thread-safe.
class SoundPipe {
public:
  /// Holds at most so many samples.
  explicit SoundPipe(int64_t most);
  /// Waits until `count` samples have room; false when it was stopped before.
  [[nodiscard]] bool waitForRoom(int64_t count, const std::stop_token& stop);
  void put(const float* samples, int64_t count); ///< interleaved; what has no room is lost
  void end();                                    ///< nothing more comes
  /// Fills `count` samples, with silence where none are there. Returns how many were.
  int64_t take(float* out, int64_t count);
  [[nodiscard]] int64_t held() const;
  [[nodiscard]] bool ended() const;
  [[nodiscard]] int64_t missed() const; ///< samples that were taken before they were there, but not after the end
  [[nodiscard]] SoundLevel level();     ///< of what was taken since it was last asked for

private:
  mutable std::mutex m_mutex;
  std::condition_variable_any m_room;
  std::vector<float> m_ring;
  int64_t m_most;
  int64_t m_first = 0; ///< place of the oldest sample
  int64_t m_held = 0;
  int64_t m_missed = 0;
  bool m_ended = false;
  LevelMeter m_meter;
};

/// Where sound goes while somebody watches, and the clock that pictures follow. For the window's thread.
class SoundOut {
public:
  SoundOut() = default;
  SoundOut(const SoundOut&) = delete;
  SoundOut& operator=(const SoundOut&) = delete;
  virtual ~SoundOut() = default;
  /// Plays what comes out of `pipe` from now on, at 48 kHz.
  virtual void start(std::shared_ptr<SoundPipe> pipe) = 0;
  virtual void stop() = 0;
  /// Samples that have been heard since the start.
  [[nodiscard]] virtual int64_t heard() = 0;
};

/// Plays nothing, and counts as a device would.
class SilentOut final : public SoundOut {
public:
  void start(std::shared_ptr<SoundPipe> pipe) override;
  void stop() override { m_pipe.reset(); }
  [[nodiscard]] int64_t heard() override;

private:
  std::shared_ptr<SoundPipe> m_pipe;
  QElapsedTimer m_clock;
  int64_t m_taken = 0;
};

} // namespace tromb
