// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "render/SoundMix.h"
#include "watch/WatchRun.h"

#include <atomic>
#include <memory>
#include <stop_token>
#include <vector>

namespace tromb {

/// What is heard while somebody watches: the sound of the running order, in either direction, faster with a higher
/// pitch as a tape has it, and round and round. At more than four times its speed it is silent, since nothing can be
/// made out (common practice, no published source). Stereo. One thread at a time.
class WatchSound {
public:
  static constexpr int kMostHeardSpeed = 4;

  /// `stop` ends every call, also later ones, with Cancelled.
  /// `begins`: the sample of the runs at which the plan begins; before it there is silence.
  explicit WatchSound(std::shared_ptr<const Plan> plan, std::stop_token stop = {}, int64_t begins = 0);
  ~WatchSound();

  /// Begins a run: the next `read` gives its first sample.
  void begin(const WatchRun& run);
  /// Makes everything from now on louder by so many decibels, whatever they become; any thread may change them. A
  /// change is gone over to within the samples that are read next.
  void follow(std::shared_ptr<const std::atomic<float>> gainDb) { m_gainDb = std::move(gainDb); }
  /// The next `count` samples, interleaved; silence after the end. Errors: those of SoundMix.
  [[nodiscard]] Status read(float* out, int64_t count);

private:
  [[nodiscard]] Status readMix(int64_t from, float* out, int64_t count);
  [[nodiscard]] Status readOn(float* out, int64_t count);
  [[nodiscard]] Status readAtSpeed(float* out, int64_t count);

  std::shared_ptr<const Plan> m_plan;
  int64_t m_begins;
  SoundMix m_mix;
  std::shared_ptr<const std::atomic<float>> m_gainDb; ///< may be null
  float m_gain = 1;                                   ///< linear, of what was read last
  std::optional<WatchRun> m_run;
  int64_t m_passed = 0;    ///< samples of the mix since the run began
  int64_t m_next = -1;     ///< sample that comes next out of the mix; −1: unknown
  SoundMix::Chunk m_chunk; ///< of the mix, in hand
  int64_t m_used = 0;      ///< samples of it
  struct Converter;
  std::unique_ptr<Converter> m_faster; ///< null at the running order's own speed
};

} // namespace tromb
