// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "Error.h"
#include "media/write/EncoderChannel.h"

#include <functional>
#include <optional>
#include <string>

struct AVCodecContext;
struct AVFrame;
struct AVPacket;

namespace tromb {

/// For the beginning of `main`, before threads are started: where this process was started to be an encoder, it works
/// as one until there is nothing left to do, and its exit code comes back. Otherwise nothing comes back, and the
/// program can start encoders from then on.
[[nodiscard]] std::optional<int> workAsEncoder(int argc, char** argv);
/// True if this program has called workAsEncoder.
[[nodiscard]] bool encodersCanBeStarted();

/// An encoder of the picture in a process of its own, which is this program once more: where a driver fails, hangs or
/// ends its process, an error is all that comes of it. Made and used by one thread, with which it ends; movable.
class EncoderProcess {
public:
  using Take = std::function<Status(AVPacket& packet)>;

  /// Starts and opens an encoder as a context of it is set, which is itself not to be opened; what a muxer needs to
  /// know is filled into it. `name` is of the file, for messages. Errors: Unsupported where the encoder says that it
  /// cannot; Encoder where it does not even say so.
  [[nodiscard]] static Result<EncoderProcess> start(AVCodecContext& set, const std::string& name);
  EncoderProcess(EncoderProcess&&) noexcept;
  EncoderProcess& operator=(EncoderProcess&&) noexcept;
  ~EncoderProcess();

  /// The next picture; hands out the packets that are ready. Errors: as `start`, and those of `take`.
  [[nodiscard]] Status add(const AVFrame& picture, const Take& take);
  /// Hands out what is left.
  [[nodiscard]] Status finish(const Take& take);

private:
  EncoderProcess(EncoderChannel channel, int process, std::string encoder, std::string name)
      : m_channel(std::move(channel)), m_process(process), m_encoder(std::move(encoder)), m_name(std::move(name)) {}
  [[nodiscard]] Status answer(const Take& take);
  /// What to say of a channel that gives nothing any more. Ends the process.
  [[nodiscard]] tl::unexpected<Error> lost();
  [[nodiscard]] tl::unexpected<Error> failed(const Message& how, ErrorCode code = ErrorCode::Encoder) const;
  /// Ends the process, of which it is known that it ends `byItself`, as after a crash, or not. The signal that it has
  /// ended by, or 0.
  int end(bool byItself);

  EncoderChannel m_channel;
  int m_process = -1;
  std::string m_encoder;
  std::string m_name;
};

} // namespace tromb
