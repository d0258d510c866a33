// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "media/AudioReader.h"
#include "render/Plan.h"

#include <deque>
#include <mutex>
#include <optional>

namespace tromb {

/// The sound of the running order, made once and read by every deliverable of an export. Each shot's sound starts
/// at its exact time in the running order; shots with a speed other than 1 are silent. Thread-safe; a chunk is
/// kept until every reader has had it.
class SoundMix {
public:
  static constexpr int64_t kChunkSamples = kSoundRate / 2;
  using Chunk = std::shared_ptr<const std::vector<float>>; ///< kChunkSamples × 2, interleaved

  /// `plan` is any of the export's plans: their sound is the same.
  SoundMix(const Plan& plan, size_t readers);

  /// The next chunk for one reader; silence after the end of the running order.
  [[nodiscard]] Result<Chunk> next(size_t reader);

private:
  struct Part {
    MediaInfo media;
    int64_t sourceSample;
    int64_t from;
    int64_t to;
    bool silent;
  };
  [[nodiscard]] Result<Chunk> make();

  std::vector<Part> m_parts;
  std::mutex m_mutex;
  std::vector<int64_t> m_positions; ///< next chunk of each reader
  std::deque<Chunk> m_chunks;
  int64_t m_firstHeld = 0;
  size_t m_part = 0;
  int64_t m_sample = 0;
  std::optional<AudioReader> m_reader; ///< of m_part
};

} // namespace tromb
