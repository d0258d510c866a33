// SPDX-License-Identifier: GPL-3.0-or-later
// The packets of a film's pictures by the numbers of their frames. For .cpp files of this folder.
#pragma once

#include "copy/CodedUnits.h"
#include "media/Av.h"
#include "media/MediaInfo.h"

#include <optional>

namespace tromb {

/// Reads the packets of a film's pictures. One thread at a time; movable.
class CopyPackets {
public:
  static constexpr int64_t kReordered = 32; ///< more frames than pictures are ever put out of their order by

  [[nodiscard]] static Result<CopyPackets> open(const MediaInfo& media, const std::stop_token& stop);

  struct Packet {
    int64_t frame = 0;                ///< that it holds
    int64_t stamp = 0;                ///< in the stream's ticks
    int64_t decodes = AV_NOPTS_VALUE; ///< where the file tells it
    Entry entry = Entry::None;
  };
  /// Makes the next packet one that lies at or before a frame, by so many frames more at least, and is a key.
  [[nodiscard]] Status goBefore(int64_t frame);
  /// Nothing at the end. `packet()` is the packet itself then. Errors: also Unsupported (a packet tells no times).
  [[nodiscard]] Result<std::optional<Packet>> next();
  [[nodiscard]] AVPacket& packet() { return *m_packet; }
  [[nodiscard]] const AVStream& stream() const { return m_file.stream(m_video.stream); }
  [[nodiscard]] std::span<const uint8_t> headers() const;
  [[nodiscard]] const std::optional<UnitFraming>& framing() const { return m_framing; }
  /// Pictures that are decoded after a key and shown before it may be left out, and others can be entered at it then.
  [[nodiscard]] bool leavesOutLeading() const;
  /// The time stamp of a frame; of the one behind the last as well.
  [[nodiscard]] int64_t stampOf(int64_t frame) const;

private:
  CopyPackets(const MediaInfo& media, av::InputFile file);
  VideoInfo m_video;
  std::string m_path;
  av::InputFile m_file;
  std::optional<UnitFraming> m_framing;
  av::PacketPtr m_packet;
};

} // namespace tromb
