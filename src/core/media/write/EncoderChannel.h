// SPDX-License-Identifier: GPL-3.0-or-later
// What a program and an encoder in a process of its own say to each other. For .cpp files of this folder.
#pragma once

#include "io/Descriptor.h"

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>

namespace tromb {

/// The number under which the process of an encoder finds its end of the channel, and the argument that makes a program
/// one.
inline constexpr int kEncoderChannel = 3;
inline constexpr const char* kEncoderArgument = "--work-as-encoder";

/// One end of a connection between two processes of the same program. Says whole messages. One thread at a time.
class EncoderChannel {
public:
  enum class Kind : uint32_t {
    Setup,    ///< to the encoder: its name, FFmpeg's options of all encoders, and its own; each ended by a zero
    Opened,   ///< from it: a Facts, and the codec's headers
    Picture,  ///< to it: a Stamp, and the samples of all planes without gaps
    Finish,   ///< to it: there are no more
    Packet,   ///< from it: a Stamp, and the packet
    Answered, ///< from it: it has taken the picture, or has finished
    Failed    ///< from it: what is wrong, in FFmpeg's words
  };
  struct Facts {
    int32_t delay; ///< pictures that a decoder holds back
    int32_t profile;
    int32_t level;
  };
  struct Stamp {
    int64_t shown;   ///< in ticks of the encoder
    int64_t decoded; ///< in ticks of the encoder
    int32_t flags;   ///< FFmpeg's, of a packet
    int32_t zero = 0;
  };
  struct Received {
    Kind kind{};
    std::string bytes;
  };

  /// `patience`: milliseconds that the other end may take for each piece of a message; negative for ever.
  EncoderChannel(Descriptor end, int patience) : m_end(std::move(end)), m_patience(patience) {}
  /// False where the other end is gone, or takes nothing for too long.
  [[nodiscard]] bool send(Kind kind, std::string_view head, std::string_view body = {}) const;
  /// Nothing where the other end is gone, or says nothing for too long.
  [[nodiscard]] std::optional<Received> receive() const;
  /// True once it has been waited for in vain; otherwise the other end is gone.
  [[nodiscard]] bool silent() const { return m_silent; }

private:
  [[nodiscard]] bool wait(short events) const;
  [[nodiscard]] bool put(const void* bytes, size_t count) const;
  [[nodiscard]] bool take(void* bytes, size_t count) const;
  Descriptor m_end;
  int m_patience;
  mutable bool m_silent = false;
};

/// A plain structure as bytes, and back; nothing where there are too few.
template <typename Plain> [[nodiscard]] std::string_view bytesOf(const Plain& value) {
  return {reinterpret_cast<const char*>(&value), sizeof value};
}
template <typename Plain> [[nodiscard]] bool takePlain(std::string_view& bytes, Plain& value) {
  if (bytes.size() < sizeof value) return false;
  bytes.copy(reinterpret_cast<char*>(&value), sizeof value);
  bytes.remove_prefix(sizeof value);
  return true;
}

} // namespace tromb
