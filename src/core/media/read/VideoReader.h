// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "media/Frame.h"
#include "media/MediaInfo.h"

#include <memory>
#include <optional>
#include <stop_token>

namespace tromb {

/// A decoded frame and its number, counted from the source's first frame.
struct NumberedFrame {
  int64_t number = 0;
  Frame frame;
  bool damaged = false; ///< True if parts of the picture could not be decoded and were guessed.
};

struct ReadOptions {
  int threads = 0; ///< Threads of the decoder; 0 for one on each processor.
  /// Pictures tell how coarsely they are coded, see meanQuantiser. The decoder has one thread then: with several FFmpeg
  /// copies the quantisers of a picture that another thread may still be decoding.
  bool quantisers = false;
  std::optional<Scan> scan = {}; ///< how the pictures are scanned; empty: as the file says
  bool scanCertain = false;      ///< see Reading
  /// For whoever looks at some pictures only: those that no other depends on may be left out, edges of blocks are not
  /// smoothed, and fields are not put together unless they are read one by one. Quicker than all of it.
  bool roughly = false;
  bool byFields = false; ///< see Reading; without effect where the scan is progressive
  std::stop_token stop;  ///< ends every call, also later ones, with Cancelled
};

/// How coarsely a picture is coded: the mean quantiser of its blocks, on the codec's own scale (H.264: 0 to 51); −1
/// where it does not tell.
[[nodiscard]] double meanQuantiser(const Frame& picture);

/// Decodes a file's pictures as they are stored, fields apart; what a project makes of them is PictureReader's. Each is
/// placed by its own time stamp, whichever way it was reached. All have the size of the source: where a file changes
/// its size in the middle they are brought to it. One thread at a time; cheap to move.
class VideoReader {
public:
  /// Opens the picture stream that `info` describes. Errors: those of InputFile; Unreadable where the file is another
  /// than the one described; Unsupported, Decoder.
  [[nodiscard]] static Result<VideoReader> open(const MediaInfo& info, const ReadOptions& options = {});
  VideoReader(VideoReader&&) noexcept;
  VideoReader& operator=(VideoReader&&) noexcept;
  ~VideoReader();

  /// Numbers are those of frames, or of fields where the pictures are read by fields; of a whole picture among them,
  /// the second is missing.
  ///
  /// The picture that is shown as frame `number`: that frame; where the file lacks it or it is lost, the one before it
  /// that there is, as it would stay on screen; before the first, the first. The number that comes back tells. Beyond
  /// the end it is the last. Quick where numbers ascend; where it lies far behind a key frame, everything between them
  /// is decoded, which `unasked` ends: the reader goes on from there. Errors: Decoder (nothing can be decoded),
  /// Unreadable, Cancelled.
  [[nodiscard]] Result<NumberedFrame> shown(int64_t number, const std::stop_token& unasked = {});
  /// The picture alone of `shown`.
  [[nodiscard]] Result<Frame> frameAt(int64_t number, const std::stop_token& unasked = {});

  /// Makes the next `read` return frame `number`, or the first after it where it is missing from the file.
  [[nodiscard]] Status goTo(int64_t number);
  /// Makes the next `read` return the key frame at or before `number`: quick, where any picture near it will do.
  [[nodiscard]] Status goNear(int64_t number);
  /// The next frame, or an empty `frame` at the end. Errors: Unreadable, Cancelled.
  [[nodiscard]] Result<NumberedFrame> read();
  /// True once the file has broken off in reading, where a whole one goes on.
  [[nodiscard]] bool brokenOff() const;

private:
  struct State;
  explicit VideoReader(std::unique_ptr<State> state);
  std::unique_ptr<State> m_state;
};

} // namespace tromb
