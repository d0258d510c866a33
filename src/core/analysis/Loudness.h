// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "media/Reading.h"
#include "media/SoundFormat.h"

#include <array>
#include <cstdint>
#include <memory>
#include <stop_token>
#include <vector>

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
  /// Loudness of the last three seconds (short-term loudness, EBU Tech 3341), or of those that there are; kSilentLufs
  /// where nothing is heard.
  [[nodiscard]] double shortTermLufs() const;

private:
  struct State;
  std::unique_ptr<State> m_state;
};

/// How loud sound is while it is heard.
struct SoundLevel {
  std::array<float, kStereo> peakDb{kNoPeakDb, kNoPeakDb}; ///< highest sample of each channel, dB of full scale
  float momentaryLufs = kNoPeakDb; ///< of the last 0.4 s (EBU Tech 3341); kNoPeakDb: nothing is heard
  static constexpr float kNoPeakDb = -120;
};

/// Tells the level of stereo sound as it is played. One thread at a time.
class LevelMeter {
public:
  LevelMeter();
  ~LevelMeter();
  /// `count` samples, interleaved, at 48 kHz.
  void add(const float* samples, int64_t count);
  /// The level since it was last asked for: peaks begin anew.
  [[nodiscard]] SoundLevel take();

private:
  struct State;
  std::unique_ptr<State> m_state;
};

/// A tenth of a second of sound.
struct SoundTenth {
  int16_t peak = kSilentTenth; ///< its highest sample in tenths of a dB of full scale; kSilentTenth and up
  bool clipped = false;        ///< some samples that follow each other stand at full scale
  static constexpr int16_t kSilentTenth = -1200;
  friend bool operator==(const SoundTenth&, const SoundTenth&) = default;
};
inline constexpr int kTenthsASecond = 10;

/// Looks for the peaks of sound as it comes. One thread at a time.
class PeakMeter {
public:
  /// Stereo, interleaved, at 48 kHz.
  void add(const float* samples, int64_t count);
  /// One a tenth of a second, the last one may be shorter.
  [[nodiscard]] const std::vector<SoundTenth>& tenths() const { return m_tenths; }

private:
  std::vector<SoundTenth> m_tenths;
  int64_t m_samples = 0;
  std::array<int, kStereo> m_atFullScale{}; ///< samples in a row, of each channel
};

/// What a source sounds like.
struct Heard {
  Loudness loudness;
  std::vector<SoundTenth> tenths;
};

/// Decodes all of a source's sound that is heard, as stereo. Errors: those of AudioReader, Cancelled.
[[nodiscard]] Result<Heard> measureSound(const Reading& reading, std::stop_token stop = {});

} // namespace tromb
