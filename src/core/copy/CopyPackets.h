// SPDX-License-Identifier: GPL-3.0-or-later
// The packets of a film's pictures by the numbers of their frames. For .cpp files of this folder.
#pragma once

#include "media/CodedUnits.h"
#include "media/MediaInfo.h"
#include "media/read/FileIndex.h"

#include <memory>
#include <optional>
#include <stop_token>

struct AVPacket;
struct AVStream;

namespace tromb {

/// Reads the packets of a film's pictures. One thread at a time; movable.
class CopyPackets {
public:
  static constexpr int64_t kReordered = 32; ///< more frames than pictures are ever put out of their order by

  [[nodiscard]] static Result<CopyPackets> open(const MediaInfo& media, const std::stop_token& stop);

  CopyPackets(CopyPackets&&) noexcept;
  CopyPackets& operator=(CopyPackets&&) noexcept;
  ~CopyPackets();

  struct Packet {
    int64_t frame = 0;                     ///< that it holds
    int64_t stamp = 0;                     ///< in the stream's ticks
    int64_t decodes = FileIndex::kNoStamp; ///< where the file tells it
    Entry entry = Entry::None;
  };
  /// Makes the next packet one that lies at or before a frame, by so many frames more at least, and is a key.
  [[nodiscard]] Status goBefore(int64_t frame);
  /// Nothing at the end. `packet()` is the packet itself then. Errors: also Unsupported (a packet tells no times).
  [[nodiscard]] Result<std::optional<Packet>> next();
  [[nodiscard]] AVPacket& packet();
  /// Of `packet()`, whose entry is Open: see CodedUnits.h.
  void breakLink();
  [[nodiscard]] const AVStream& stream() const;
  [[nodiscard]] std::span<const uint8_t> headers() const;
  [[nodiscard]] const std::optional<UnitFraming>& framing() const;
  /// Pictures that are decoded after a key and shown before it may be left out, and others can be entered at it then.
  [[nodiscard]] bool leavesOutLeading() const;
  /// The time stamp of a frame; of the one behind the last as well.
  [[nodiscard]] int64_t stampOf(int64_t frame) const;

private:
  struct State;
  explicit CopyPackets(std::unique_ptr<State> state);
  std::unique_ptr<State> m_state;
};

} // namespace tromb
