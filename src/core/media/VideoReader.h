// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "media/MediaInfo.h"
#include "picture/Frame.h"

#include <memory>

namespace tromb {

/// A decoded frame and its number, counted from the source's first frame.
struct NumberedFrame {
  int64_t number = 0;
  Frame frame;
};

/// Decodes a source's pictures in order of presentation. One thread at a time; cheap to move.
class VideoReader {
public:
  /// Opens the picture stream that `info` describes. `threads` 0 = one a processor.
  [[nodiscard]] static Result<VideoReader> open(const MediaInfo& info, int threads = 0);
  VideoReader(VideoReader&&) noexcept;
  VideoReader& operator=(VideoReader&&) noexcept;
  ~VideoReader();

  /// Makes the next `read` return frame `number`, or the first after it where it is missing from the file.
  /// Reading on is preferred to seeking when the frame lies shortly ahead.
  [[nodiscard]] Status goTo(int64_t number);

  /// Makes the next `read` return the key frame at or before `number`: quick, where any picture near it will do.
  [[nodiscard]] Status goNear(int64_t number);

  /// The next frame, or an empty `frame` at the end. Errors: Decoder, Unreadable, with the frame's number.
  [[nodiscard]] Result<NumberedFrame> read();

  /// Single access: the frame `number`, or the nearest that the file holds (a still always gives its picture).
  [[nodiscard]] Result<Frame> frameAt(int64_t number);

private:
  struct State;
  explicit VideoReader(std::unique_ptr<State> state);
  std::unique_ptr<State> m_state;
};

} // namespace tromb
