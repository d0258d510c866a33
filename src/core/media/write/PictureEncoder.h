// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "encoding/Encoding.h"
#include "media/Frame.h"

#include <functional>
#include <memory>

struct AVCodecContext;
struct AVPacket;

namespace tromb {

/// The picture stream of a file that is being written.
struct PictureStream {
  EncodedPicture picture;
  Encoding encoding;       ///< resolved: bit rate and level filled in
  int rotation = 0;        ///< degrees clockwise that a player is to turn the picture
  bool mirrored = false;   ///< True if players are to mirror it left for right after turning.
  int threads = 0;         ///< Threads of the encoder; 0 for as many as suit this machine.
  ContentLight light = {}; ///< of all pictures, where it is known
  /// An encoder in graphics hardware, which then works in a process of its own; null: the codec's, in software.
  const HardwareEncoder* hardware = nullptr;
  bool everyPictureAlone = false; ///< all are key frames, whatever the encoding says
  int64_t first = 0;              ///< number of its first picture, where others of the same file lie before it
  static constexpr double kFullAtFirst = 0.9; ///< as the encoders have it
  double bufferFull = kFullAtFirst; ///< how full a decoder's buffer is before that one is taken out of it, 0 to 1
  /// The headers of another encoder, whose pictures lie before these in the same file; empty where there is none. Where
  /// the codec has parameter sets, those of this one get numbers of their own (see media/CodedUnits.h).
  std::string headersBefore = {};
  /// Frames by which others of the same file are decoded before they are shown, as copied ones are: these are, too.
  int64_t decodedAhead = 0;
};

/// What the first of two passes has learned of the pictures, for the second. One thread at a time; both passes of one
/// stream use the same.
struct PassLog {
  enum class Pass { Only, First, Second };
  Pass pass = Pass::Only;
  std::string folder; ///< of this pair of passes alone, for encoders that keep files
  std::string stats;  ///< for encoders that hand it over
  Frame palette;      ///< 256 colours, for encoders that have no more
};

/// Takes what an encoder has made; the packet may be changed. Its times are in the encoder's own ticks.
using PacketSink = std::function<Status(AVPacket& packet)>;

/// Encodes pictures, which all have the size and format of the stream. One thread at a time; movable.
class PictureEncoder {
public:
  /// `name` is of the file, for messages; `headersApart`: the container keeps the codec's headers once for all. `log`
  /// is needed for two passes only, and outlives this. Errors: Encoder, also where FFmpeg lacks it; Unsupported where
  /// graphics hardware says that it cannot.
  [[nodiscard]] static Result<PictureEncoder> open(const PictureStream& stream, const std::string& name,
                                                   bool headersApart, PassLog* log = nullptr);
  PictureEncoder(PictureEncoder&&) noexcept;
  PictureEncoder& operator=(PictureEncoder&&) noexcept;
  ~PictureEncoder();

  /// The next picture. It is shown for `lasts` ≥ 1 frames of the stream's rate: more than 1 makes the rate variable.
  /// Errors: as `open`, and those of the sink.
  [[nodiscard]] Status add(const Frame& canvas, int64_t lasts, const PacketSink& sink);
  /// Hands out what is left. Nothing may be added after it.
  [[nodiscard]] Status finish(const PacketSink& sink);
  /// What a muxer needs to know.
  [[nodiscard]] const AVCodecContext& context() const;
  /// FFmpeg's name of the codec.
  [[nodiscard]] const char* codec() const;
  /// What a container keeps for all packets, behind start codes where the codec has units.
  [[nodiscard]] const std::string& headers() const;

private:
  struct State;
  explicit PictureEncoder(std::unique_ptr<State> state);
  std::unique_ptr<State> m_state;
};

} // namespace tromb
