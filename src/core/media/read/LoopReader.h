// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "encoding/Codec.h"
#include "media/Frame.h"
#include "media/Reading.h"

#include <memory>
#include <stop_token>
#include <string>

namespace tromb {

/// A picture of a loop: red, green and blue of 8 bits, and when it is shown, in seconds.
struct LoopPicture {
  Frame frame;
  Rational begin;
  Rational end;
};

/// Reads a loop back picture by picture, as it is shown: a GIF with FFmpeg, an animated WebP with libwebp, since FFmpeg
/// cannot. One thread at a time; movable.
class LoopReader {
public:
  /// `kind` is Container::Gif or Container::Webp. Errors: those of probe, NotMedia, Cancelled.
  [[nodiscard]] static Result<LoopReader> open(const std::string& path, Container kind, std::stop_token stop = {});
  LoopReader(LoopReader&&) noexcept;
  LoopReader& operator=(LoopReader&&) noexcept;
  ~LoopReader();

  [[nodiscard]] Size size() const;
  [[nodiscard]] int times() const; ///< that it is shown; 0 for ever
  /// The next picture; an empty `frame` at the end. Errors: Decoder, Unreadable, Cancelled.
  [[nodiscard]] Result<LoopPicture> read();

private:
  struct State;
  explicit LoopReader(std::unique_ptr<State> state);
  std::unique_ptr<State> m_state;
};

} // namespace tromb
