// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "media/MediaInfo.h"

#include <memory>

namespace tromb {

inline constexpr int kSoundRate = 48'000; ///< Hz, of everything that leaves Tromb
inline constexpr int kSoundChannels = 2;

/// Decodes a source's first sound stream to 48 kHz stereo. Time 0 is the source's first picture. One thread at a
/// time.
class AudioReader {
public:
  [[nodiscard]] static Result<AudioReader> open(const MediaInfo& info);
  AudioReader(AudioReader&&) noexcept;
  AudioReader& operator=(AudioReader&&) noexcept;
  ~AudioReader();

  /// Makes the next `read` begin at this sample (of 48 kHz) after time 0, exactly.
  [[nodiscard]] Status goTo(int64_t sample);

  /// Fills `count` interleaved stereo samples at `out`, with silence where the source has none. Returns how many
  /// came before the end of the source. Damaged packets are passed over.
  [[nodiscard]] Result<int64_t> read(float* out, int64_t count);

private:
  struct State;
  explicit AudioReader(std::unique_ptr<State> state);
  std::unique_ptr<State> m_state;
};

} // namespace tromb
