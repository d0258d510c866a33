// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "media/write/Muxer.h"
#include "media/write/SoundEncoder.h"

#include <memory>
#include <optional>
#include <span>

namespace tromb {

/// A media file that is being written: encoders of the picture, of the sound or of both, put together by a muxer. One
/// thread at a time; movable.
class OutputFile {
public:
  enum class Holds { Picture, Sound, Both };
  /// Creates or empties `path`. Errors: CannotWrite, Encoder.
  [[nodiscard]] static Result<OutputFile> create(const std::string& path, const PictureStream& stream, Holds holds);
  /// Writes to an open, empty file, which must outlive this, as must `log`; `name` is for messages.
  [[nodiscard]] static Result<OutputFile> create(const Descriptor& file, const std::string& name,
                                                 const PictureStream& stream, Holds holds, PassLog* log = nullptr,
                                                 std::vector<Chapter> chapters = {});

  /// The next picture: see PictureEncoder::add.
  [[nodiscard]] Status addPicture(const Frame& canvas, int64_t lasts = 1);
  /// Takes from the picture's encoder what it holds back, and ends it.
  [[nodiscard]] Status finishPicture();
  /// After that: the pictures that follow are those of another encoder, which is told of `stream` and begins with a key
  /// frame. The first one's headers stand for both: error Encoder where its own are not the same.
  [[nodiscard]] Status nextEncoder(const PictureStream& stream);
  /// The next packet of the picture, as `onPicture` was shown it when another encoder of this stream made it; `before`:
  /// the one whose headers are PictureStream::headersBefore.
  [[nodiscard]] Status addPacket(AVPacket& packet, bool before = false);
  /// The headers of the picture's encoder, which those that follow have as well.
  [[nodiscard]] const std::string& headers() const { return m_headers; }
  /// Shown every packet of the picture that an encoder makes, before it is written.
  void setOnPicture(std::function<Status(const AVPacket& packet)> onPicture) { m_onPicture = std::move(onPicture); }
  /// The next sound samples, interleaved, at 48 kHz, of as many channels as the encoding has.
  [[nodiscard]] Status addSound(std::span<const float> samples);
  /// Flushes the encoders and writes the index. The file is complete only after this.
  [[nodiscard]] Status finish();

private:
  explicit OutputFile(Muxer muxer) : m_muxer(std::move(muxer)) {}
  [[nodiscard]] PacketSink sink(int stream);

  [[nodiscard]] PacketSink pictureSink();
  std::string m_name;
  std::string m_headers; ///< of the first encoder of the picture
  std::function<Status(const AVPacket& packet)> m_onPicture;
  PassLog* m_log = nullptr;
  std::unique_ptr<Descriptor> m_own; ///< where the file was opened here; the muxer writes to it
  Muxer m_muxer;
  std::optional<PictureEncoder> m_picture;
  int64_t m_ahead = 0;              ///< PictureStream::decodedAhead
  std::optional<int64_t> m_earlier; ///< that packets of the encoder before are decoded, in frames
  std::optional<SoundEncoder> m_sound;
  int m_pictureStream = 0;
  int m_soundStream = 0;
};

} // namespace tromb
