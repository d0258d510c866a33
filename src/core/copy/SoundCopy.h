// SPDX-License-Identifier: GPL-3.0-or-later
// For .cpp files of this folder.
#pragma once

#include "media/write/Muxer.h"

#include <memory>
#include <stop_token>

struct AVStream;

namespace tromb {

/// Copies the packets of one stream of sound, part for part. Where packets cannot be parted, each part begins with the
/// packet that keeps it nearest to its pictures: never more than half a packet off, and nothing adds up. One thread at
/// a time; movable.
class SoundCopy {
public:
  /// `begin`: seconds on the file's clock of its first picture. Errors: those of InputFile.
  [[nodiscard]] static Result<SoundCopy> open(const MediaInfo& media, int stream, const std::stop_token& stop);
  SoundCopy(SoundCopy&&) noexcept;
  SoundCopy& operator=(SoundCopy&&) noexcept;
  ~SoundCopy();
  [[nodiscard]] const AVStream& stream() const;
  /// It is stream `number` of a muxer; `early`: that may begin before its first picture.
  void into(int number, bool early);

  /// Begins with a part: what lies at `from` in the file is heard at `at` in the new one, until `end`; seconds. After
  /// the last one its sound goes on up to the end of a packet.
  [[nodiscard]] Status begin(const Rational& from, const Rational& at, const Rational& end, bool last);
  /// Writes what is heard before a time of the new file.
  [[nodiscard]] Status writeUntil(const Rational& time, Muxer& muxer);

private:
  struct State;
  explicit SoundCopy(std::unique_ptr<State> state);
  std::unique_ptr<State> m_state;
};

} // namespace tromb
