// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "media/read/AudioReader.h"
#include "time/TimeMap.h"

#include <memory>
#include <stop_token>
#include <vector>

namespace tromb {

/// Sound of a source in the direction of a shot: forwards from its in point, or backwards from its out point. One
/// thread at a time.
class DirectedSound {
public:
  /// Errors: those of AudioReader.
  [[nodiscard]] static Result<DirectedSound> open(const Reading& reading, const TimeMap& time, int channels,
                                                  std::stop_token stop = {});
  /// Makes the next `read` begin where so many samples of the source have passed; may be negative.
  [[nodiscard]] Status goTo(int64_t passed);
  /// Fills `count` samples of every channel, with silence where the source has none. Errors: those of AudioReader.
  [[nodiscard]] Status read(float* out, int64_t count);
  [[nodiscard]] const AudioReader& reader() const { return m_reader; }

private:
  DirectedSound(AudioReader reader, const TimeMap& time, int channels);
  [[nodiscard]] Status readBackwards(float* out, int64_t count);
  AudioReader m_reader;
  int m_channels;
  bool m_back;
  int64_t m_origin;           ///< sample of the source at which the shot begins
  int64_t m_passed = 0;       ///< of the next sample
  std::vector<float> m_block; ///< backwards: already turned round
  int64_t m_blockFrom = 0;    ///< samples passed at its beginning
};

/// What is heard of a shot: its sound at its speed, also where that changes, with its pitch kept (Rubber Band) or going
/// up and down with the speed (libsamplerate). Sound stays with its picture: in the middle of what an ear takes for one
/// event it lies within 6 ms of its place between a quarter and four times the speed, and within 20 ms, half a frame of
/// 25 pictures a second, beyond. One thread at a time; cheap to move.
class ShotSound {
public:
  /// `time` is no held picture's: that is silent. Errors: those of AudioReader.
  [[nodiscard]] static Result<ShotSound> open(const Reading& reading, const TimeMap& time, bool pitchFollows,
                                              int channels, std::stop_token stop = {});
  ShotSound(ShotSound&&) noexcept;
  ShotSound& operator=(ShotSound&&) noexcept;
  ~ShotSound();

  /// Fills the next `count` samples of the shot, each of every channel, interleaved; from its beginning on. Errors:
  /// those of AudioReader.
  [[nodiscard]] Status read(float* out, int64_t count);
  /// Makes the next `read` begin at this sample of the shot, at once. What is heard there lies where it lies when all
  /// before it is read; at the source's own speed it is the same to the sample.
  [[nodiscard]] Status goTo(int64_t sample);
  /// As AudioReader::damage, in samples of the source.
  [[nodiscard]] AudioReader::Damage damage(int64_t from, int64_t to) const;

private:
  class Stretch;
  class Kept;
  class Following;
  ShotSound(DirectedSound sound, const TimeMap& time, bool pitchFollows, int channels);
  std::unique_ptr<DirectedSound> m_sound; ///< does not move, since the stretch reads from it
  std::unique_ptr<Stretch> m_stretch;     ///< null at the source's own speed
  TimeMap m_time;
  bool m_pitchFollows;
  int m_channels;
};

} // namespace tromb
