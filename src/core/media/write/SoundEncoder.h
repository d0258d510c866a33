// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "encoding/Encoding.h"
#include "media/write/PictureEncoder.h"

#include <memory>
#include <span>

namespace tromb {

/// Encodes sound: interleaved samples at 48 kHz in, packets of the chosen codec and sample rate out. One thread at a
/// time; movable.
class SoundEncoder {
public:
  /// `sound` is resolved. See PictureEncoder::open. Errors: Encoder.
  [[nodiscard]] static Result<SoundEncoder> open(const SoundEncoding& sound, const std::string& name,
                                                 bool headersApart);
  SoundEncoder(SoundEncoder&&) noexcept;
  SoundEncoder& operator=(SoundEncoder&&) noexcept;
  ~SoundEncoder();

  /// The next samples. Errors: Encoder, and those of the sink.
  [[nodiscard]] Status add(std::span<const float> samples, const PacketSink& sink);
  /// Hands out what is left. Nothing may be added after it.
  [[nodiscard]] Status finish(const PacketSink& sink);
  /// What a muxer needs to know.
  [[nodiscard]] const AVCodecContext& context() const;

private:
  struct State;
  explicit SoundEncoder(std::unique_ptr<State> state);
  std::unique_ptr<State> m_state;
};

} // namespace tromb
