// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "media/Reading.h"
#include "media/SoundFormat.h"

#include <memory>
#include <stop_token>

namespace tromb {

/// Loudness after ITU-R BS.1770 / EBU R 128, measured with libebur128 on the sound as it is delivered.
struct Loudness {
  double integratedLufs = 0; ///< −70 and below: silence
  double truePeakDbtp = 0;
  int64_t samples = 0; ///< length of the decoded sound at 48 kHz
};

inline constexpr double kSilentLufs = -70; ///< the absolute gate of BS.1770: nothing below it counts

/// Measures sound as it comes. One thread at a time.
class LoudnessMeter {
public:
  /// Of sound with kMono, kStereo or kSurround channels. Of 5.1 the low frequencies do not count (BS.1770), but may
  /// have the highest peak.
  explicit LoudnessMeter(int channels = kStereo);
  ~LoudnessMeter();
  /// `count` samples of every channel, interleaved, at 48 kHz.
  void add(const float* samples, int64_t count);
  [[nodiscard]] Loudness loudness() const;

private:
  struct State;
  std::unique_ptr<State> m_state;
};

/// Decodes all of a source's sound that is heard, as stereo. Errors: those of AudioReader, Cancelled.
[[nodiscard]] Result<Loudness> measureLoudness(const Reading& reading, std::stop_token stop = {});

} // namespace tromb
