// SPDX-License-Identifier: GPL-3.0-or-later
// For .cpp files of this folder.
#pragma once

#include "media/Av.h"
#include "media/write/Muxer.h"

#include <optional>

namespace tromb {

/// Copies the packets of one stream of sound, part for part. Where packets cannot be parted, each part begins with the
/// packet that keeps it nearest to its pictures: never more than half a packet off, and nothing adds up. One thread at
/// a time; movable.
class SoundCopy {
public:
  /// `begin`: seconds on the file's clock of its first picture. Errors: those of InputFile.
  [[nodiscard]] static Result<SoundCopy> open(const MediaInfo& media, int stream, const std::stop_token& stop);
  [[nodiscard]] const AVStream& stream() const { return m_file.stream(m_stream); }
  /// It is stream `number` of a muxer; `early`: that may begin before its first picture.
  void into(int number, bool early) {
    m_number = number;
    m_early = early;
  }

  /// Begins with a part: what lies at `from` in the file is heard at `at` in the new one, until `end`; seconds. After
  /// the last one its sound goes on up to the end of a packet.
  [[nodiscard]] Status begin(const Rational& from, const Rational& at, const Rational& end, bool last);
  /// Writes what is heard before a time of the new file.
  [[nodiscard]] Status writeUntil(const Rational& time, Muxer& muxer);

private:
  SoundCopy(const MediaInfo& media, av::InputFile file, int stream);
  [[nodiscard]] Result<bool> read();
  [[nodiscard]] int64_t samplesIn(const AVPacket& packet) const;
  [[nodiscard]] Status write(AVPacket& packet, int64_t at, Muxer& muxer) const;
  [[nodiscard]] int64_t samples(const Rational& seconds) const;

  av::InputFile m_file;
  int m_stream;
  Rational m_begin;
  int m_rate;
  int m_sampleBytes; ///< of all channels, where packets can be parted; else 0
  int m_number = 0;
  bool m_early = false;
  bool m_first = true; ///< nothing was written yet
  av::PacketPtr m_packet;
  av::PacketPtr m_before; ///< the packet before the one in hand, where the file's sound begins with it
  bool m_inHand = false;  ///< m_packet is to be written next
  int64_t m_done = 0;     ///< samples written: where the next packet is heard
  int64_t m_end = 0;      ///< samples, of the part in the new file
  bool m_last = false;
};

} // namespace tromb
