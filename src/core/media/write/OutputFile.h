// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "encoding/Encoding.h"
#include "io/Descriptor.h"
#include "media/Frame.h"

#include <memory>
#include <span>

namespace tromb {

/// The picture stream of a file that is being written.
struct PictureStream {
  Size size;
  FrameRate rate;
  Encoding encoding; ///< resolved: bit rate and level filled in
  Rational pixelAspect{1};
  int rotation = 0;      ///< degrees clockwise that a player is to turn the picture
  bool mirrored = false; ///< True if players are to mirror it left for right after turning.
  int threads = 0;       ///< Threads of the encoder; 0 for as many as suit this machine.
  int keyFrameEvery = 0; ///< frames; 1 = each stands alone; 0 = two seconds
};

/// Writes H.264 and, when asked, AAC 48 kHz stereo into an MP4 with its index first. One thread at a time.
/// Key frames at most 2 s apart; the decoder's buffer holds one second of the peak rate.
class OutputFile {
public:
  /// Creates or empties `path`. Errors: CannotWrite, Encoder, InvalidArgument.
  [[nodiscard]] static Result<OutputFile> create(const std::string& path, const PictureStream& picture, bool sound);
  /// Writes to an open, empty file, which must outlive this; `name` is for messages.
  [[nodiscard]] static Result<OutputFile> create(const Descriptor& file, const std::string& name,
                                                 const PictureStream& picture, bool sound);
  OutputFile(OutputFile&&) noexcept;
  OutputFile& operator=(OutputFile&&) noexcept;
  ~OutputFile();

  /// The next picture: 8-bit 4:2:0 of the stream's size. It is shown for `lasts` ≥ 1 frames of the stream's rate:
  /// more than 1 makes the rate variable.
  [[nodiscard]] Status addPicture(const Frame& canvas, int64_t lasts = 1);
  /// The next sound samples, interleaved stereo at 48 kHz.
  [[nodiscard]] Status addSound(std::span<const float> samples);
  /// Flushes the encoders and writes the index. The file is complete only after this.
  [[nodiscard]] Status finish();

private:
  struct State;
  explicit OutputFile(std::unique_ptr<State> state);
  std::unique_ptr<State> m_state;
};

} // namespace tromb
