// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "Error.h"
#include "media/Frame.h"

#include <functional>
#include <memory>

struct AVCodecContext;
struct AVPacket;

namespace tromb {

/// Decodes what an encoder hands out, without a file in between. One thread at a time; movable.
class PacketDecoder {
public:
  using Take = std::function<Status(const Frame& picture)>;

  /// For the packets of an open encoder that keeps its headers apart. Errors: Decoder where FFmpeg cannot read them.
  [[nodiscard]] static Result<PacketDecoder> open(const AVCodecContext& encoder);
  PacketDecoder(PacketDecoder&&) noexcept;
  PacketDecoder& operator=(PacketDecoder&&) noexcept;
  ~PacketDecoder();

  /// The next packet, in decoding order; hands out the pictures that are ready, in the order in which they are shown.
  /// Errors: Decoder, and those of `take`.
  [[nodiscard]] Status add(const AVPacket& packet, const Take& take);
  /// Hands out what is left. Nothing may be added after it.
  [[nodiscard]] Status finish(const Take& take);

private:
  struct State;
  explicit PacketDecoder(std::unique_ptr<State> state);
  std::unique_ptr<State> m_state;
};

} // namespace tromb
