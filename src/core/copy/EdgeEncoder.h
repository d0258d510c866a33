// SPDX-License-Identifier: GPL-3.0-or-later
// For .cpp files of this folder.
#pragma once

#include "media/CodedUnits.h"
#include "media/Frame.h"
#include "media/MediaInfo.h"

#include <functional>
#include <memory>

struct AVStream;

namespace tromb {

/// FFmpeg's name of the encoder for pictures at cut edges of a codec (by FFmpeg's name); empty where there is none.
[[nodiscard]] const char* edgeEncoder(std::string_view codec);

/// Encodes a few pictures of H.264, H.265 or VP9 so that they can stand beside others of a stream that was encoded
/// elsewhere: in the same profile, level and colours, with parameter sets that have numbers of their own where there
/// are some, and in the order in which they are shown. The first can be entered, and nothing that follows the last
/// leans on them. One encoder for each edge; all of a stream have the same headers.
class EdgeEncoder {
public:
  /// `set`: one of the stream's, which those of the edges are to be like, under `numbers`; `crf`: the quality on the
  /// encoder's scale. Errors: Encoder.
  [[nodiscard]] static Result<EdgeEncoder> open(const AVStream& like, const VideoInfo& video, int pixelFormat,
                                                const SequenceSet& set, const SetNumbers& numbers, double crf,
                                                const std::string& path);
  EdgeEncoder(EdgeEncoder&&) noexcept;
  EdgeEncoder& operator=(EdgeEncoder&&) noexcept;
  ~EdgeEncoder();
  /// Its parameter sets, behind start codes; empty where the codec has none.
  [[nodiscard]] const std::string& headers() const;

  using Sink = std::function<Status(std::span<const uint8_t> packet)>;
  /// The next picture, and what is left. The packets come in the order of the pictures, one of each, behind start
  /// codes. Errors: Encoder, and those of the sink.
  [[nodiscard]] Status add(const Frame& picture, const Sink& sink);
  [[nodiscard]] Status finish(const Sink& sink);

private:
  struct State;
  explicit EdgeEncoder(std::unique_ptr<State> state);
  std::unique_ptr<State> m_state;
};

} // namespace tromb
