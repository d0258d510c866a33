// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "encoding/Codec.h"
#include "io/Descriptor.h"
#include "media/MediaInfo.h"
#include "media/write/PictureEncoder.h"

#include <memory>
#include <string>
#include <vector>

struct AVStream;

namespace tromb {

/// Puts packets of streams into a container, with its index first where the container has one. One thread at a time;
/// movable.
class Muxer {
public:
  /// What is said of the whole file; empty for nothing.
  struct Tags {
    std::string title;
    std::string comment;
    std::string language; ///< of all streams, ISO 639-2
    std::vector<Chapter> chapters;
  };

  /// Writes to an open, empty file, which must outlive this; `name` is for messages. Errors: Encoder.
  [[nodiscard]] static Result<Muxer> create(const Descriptor& file, const std::string& name, Container container);
  Muxer(Muxer&&) noexcept;
  Muxer& operator=(Muxer&&) noexcept;
  ~Muxer();

  /// True if encoders are to keep their headers out of the stream.
  [[nodiscard]] bool headersApart() const;
  /// Adds streams; before `begin` alone. Return the number of the stream.
  [[nodiscard]] int addPicture(const PictureEncoder& encoder, const std::string& headers, const PictureStream& stream);
  [[nodiscard]] int addSound(const AVCodecContext& encoder);
  /// One whose packets are copied from another file, in the ticks of that; with `headers` in place of its own where
  /// there are some.
  [[nodiscard]] int addCopy(const AVStream& source, const std::string& headers = {});
  /// Errors: CannotWrite, and Encoder where the container does not take a stream.
  [[nodiscard]] Status begin(const Tags& tags);
  /// Takes over the packet, whose times are in the ticks of its stream's encoder. Errors: CannotWrite.
  [[nodiscard]] Status write(int stream, AVPacket& packet);
  /// Writes the index. The file is complete only after this.
  [[nodiscard]] Status finish();

private:
  struct State;
  explicit Muxer(std::unique_ptr<State> state);
  std::unique_ptr<State> m_state;
};

} // namespace tromb
