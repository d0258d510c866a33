// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "media/Reading.h"
#include "media/SoundFormat.h"

#include <limits>
#include <memory>
#include <stop_token>
#include <vector>

namespace tromb {

/// Decodes the sound that is heard of a source (Reading::heard) to 48 kHz, in as many channels as are wanted. Time 0 is
/// the source's first picture. Every stretch of sound lies where its time stamps say: what is missing is silence of the
/// right length, what overlaps is heard once, and a clock that runs a little fast or slow is followed without a click.
/// Channels and rate may change in the middle. One thread at a time.
class AudioReader {
public:
  /// `stop` ends every call, also later ones, with Cancelled. `channels` is kMono, kStereo or kSurround, mixed as
  /// ChannelMix says; two mono streams that belong together are left and right. Errors: NotMedia (no sound), those of
  /// InputFile, Unreadable where the file is another than the one described, Unsupported, Decoder.
  [[nodiscard]] static Result<AudioReader> open(const Reading& reading, std::stop_token stop = {},
                                                int channels = kStereo);
  AudioReader(AudioReader&&) noexcept;
  AudioReader& operator=(AudioReader&&) noexcept;
  ~AudioReader();

  /// Makes the next `read` begin at this sample (of 48 kHz) after time 0, exactly.
  [[nodiscard]] Status goTo(int64_t sample);

  /// Fills `count` samples, each of every channel, interleaved at `out`, with silence where the source has none.
  /// Returns how many came before the end of the source. Errors: Unreadable, Unsupported, Cancelled.
  [[nodiscard]] Result<int64_t> read(float* out, int64_t count);

  /// What could not be decoded so far, or is missing by its time stamps, and is silent or was guessed: how many
  /// packets, and the sample that the first of them begins at.
  struct Damage {
    int64_t packets = 0;
    int64_t first = 0;
  };
  /// Counts packets of which something lies in the samples from `from` up to, not including, `to`: others were met
  /// only on the way there, or read ahead.
  [[nodiscard]] Damage damage(int64_t from = std::numeric_limits<int64_t>::min(),
                              int64_t to = std::numeric_limits<int64_t>::max()) const;

private:
  struct State;
  explicit AudioReader(std::unique_ptr<State> state);
  std::unique_ptr<State> m_state;
};

} // namespace tromb
