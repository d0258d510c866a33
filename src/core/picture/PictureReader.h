// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "media/Reading.h"
#include "media/read/VideoReader.h"
#include "picture/Straightener.h"

#include <optional>

namespace tromb {

/// Decodes a source's pictures as they are to be read: fields put together as the reading says, labelled with
/// its colours, and straightened. Bars,
/// turning and mirroring are left to whoever lays them out (Reading::shape). One thread at a time; cheap to move.
class PictureReader {
public:
  /// What `options` say of the scan and of fields is replaced by the reading's. Errors: those of VideoReader.
  [[nodiscard]] static Result<PictureReader> open(const Reading& reading, ReadOptions options = {});

  /// These are VideoReader's; where pictures are repeated, numbers count each once. Errors: also Unsupported, where a
  /// picture cannot be straightened.
  [[nodiscard]] Result<NumberedFrame> shown(int64_t number, const std::stop_token& unasked = {});
  [[nodiscard]] Result<Frame> frameAt(int64_t number, const std::stop_token& unasked = {});
  [[nodiscard]] Status goTo(int64_t number) { return m_reader.goTo(frameOf(number)); }
  [[nodiscard]] Status goNear(int64_t number) { return m_reader.goNear(frameOf(number)); }
  [[nodiscard]] Result<NumberedFrame> read();
  [[nodiscard]] bool brokenOff() const { return m_reader.brokenOff(); }

private:
  explicit PictureReader(VideoReader reader) : m_reader(std::move(reader)) {}
  [[nodiscard]] Result<NumberedFrame> asRead(Result<NumberedFrame> picture) const;
  [[nodiscard]] int64_t frameOf(int64_t number) const { return m_repeats ? m_repeats->frameOf(number) : number; }
  VideoReader m_reader;
  std::optional<Repeats> m_repeats;
  std::optional<ColourTags> m_colour;
  std::optional<Straightener> m_straightener;
};

} // namespace tromb
