// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "Message.h"
#include "colour/CanvasFormat.h"
#include "encoding/Level.h"

#include <array>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace tromb {

/// Codecs of the picture, in the order of pictureCodecs.
enum class Codec { H264, Hevc, Vp9, Av1, Ffv1, Vc3, Gif, Webp };
/// Codecs of the sound, in the order of soundCodecs.
enum class SoundCodec { Aac, Opus, Mp3, Flac, Pcm16, Pcm24 };
/// What is heard: that settles how many bits a second sound needs.
enum class SoundContent { Speech, Mixed, Music };
/// Containers, in the order of containers().
enum class Container { Mp4, Mov, Mkv, Webm, Gif, Webp, M4a, Mp3, Wav, Flac, Ogg };

/// How the bits are shared out: by a constant quality, by an average that a peak may pass, evenly, or as the codec and
/// its profile settle it.
enum class RateControl { ConstantQuality, Variable, Constant, Settled };

/// How samples are stored, without colour.
struct Samples {
  int depth;
  Chroma chroma;
  friend bool operator==(const Samples&, const Samples&) = default;
};

/// A profile of a codec.
struct Profile {
  std::string_view word;  ///< "high"
  std::string_view found; ///< what FFmpeg calls it in a file, in small letters
  std::vector<Samples> samples;
  /// How its `codecs` parameter begins (RFC 6381 and the codecs' own rules); empty: it has none.
  std::string_view codecs = {};
  double factor = 1;            ///< of the levels' bit rates
  std::string_view option = {}; ///< what the encoder calls it; empty: `word`
};

/// Who can play some files of a codec: common practice, no published source.
struct Players {
  Message who;
  /// The highest level of these files, as it is written in the stream; 0: any.
  int mostLevel = 0;
  /// What these files hold; empty: any.
  std::optional<Samples> samples = {};
};

/// What the pictures are like: the word of it, and the encoder's options for it, as "key=value" pairs.
struct Tune {
  std::string_view word;
  std::string_view options;
};

/// How FFmpeg reaches an encoder in graphics hardware.
enum class HardwareInterface { Vaapi, Nvenc, Qsv };

/// An encoder in graphics hardware.
struct HardwareEncoder {
  std::string_view encoder; ///< FFmpeg's name
  HardwareInterface interface;
  std::vector<Samples> samples;
};

/// The numbers of constant quality.
struct QualityScale {
  double least;
  double most;
  double usual;
  bool whole = false; ///< without fractions
  bool rises = false; ///< more is better; otherwise less is
};

/// All that the rest of the program knows of a codec of the picture.
struct PictureCodec {
  Codec codec;
  std::string_view word;                      ///< "h264"
  std::string_view name;                      ///< "H.264", for people
  std::string_view encoder;                   ///< FFmpeg's name of the encoder
  std::string_view found;                     ///< FFmpeg's name of the codec in a file
  std::vector<HardwareEncoder> hardware = {}; ///< that FFmpeg may have and can tell all that is promised
  Message purpose;                            ///< what it is made for
  std::vector<Container> containers;          ///< the usual one first
  std::vector<Profile> profiles;              ///< the usual one of some samples first; empty: it has none
  std::vector<Samples> samples;
  const LevelTable* levels = nullptr;
  /// What follows the profile in the `codecs` parameter; null for codecs that have none.
  std::string (*codecsLevel)(const Level& level, bool highTier, int depth) = nullptr;
  bool highTier = false;                 ///< the encoder can be told to keep to the high tier of a level
  std::vector<RateControl> rateControls; ///< the usual one first
  QualityScale quality{};
  bool twoPasses = false;
  /// The header of a NAL unit of filler, where the encoder leaves it to others to pad a constant rate; may be empty.
  std::string_view filler = {};
  bool holdsPeak = false;          ///< the encoder keeps to a peak bit rate and a decoder's buffer
  bool intra = false;              ///< every picture stands alone
  bool bPictures = false;          ///< how many pictures lean on later ones, and references, may be chosen
  bool entropy = false;            ///< CABAC or CAVLC may be chosen
  bool joins = false;              ///< pictures of sources can stand beside its encoder's as they are
  std::vector<std::string> speeds; ///< the encoder's own words, fastest first; may be empty
  std::string usualSpeed;
  std::vector<Tune> tunes;
  double bitRateShare = 1;           ///< of what H.264 needs for the same look
  std::string_view tag = {};         ///< the sample entry in MP4 and MOV (ISO/IEC 14496-15); empty: the muxer's own
  Size least{16, 16};                ///< smallest picture that the encoder takes
  bool hdr = false;                  ///< carries the labels of BT.2100
  bool loop = false;                 ///< repeats for ever, and is silent
  bool palette = false;              ///< its colours are chosen from all pictures in a first pass
  int mostRate = 0;                  ///< frames a second; 0: any
  std::vector<Players> players = {}; ///< the first that holds; the last one holds for all files of the codec

  [[nodiscard]] const Profile* profile(std::string_view wanted) const;
  /// The usual profile for some samples; null where it has none.
  [[nodiscard]] const Profile* profileFor(const Samples& s) const;
  [[nodiscard]] bool takes(const Samples& s) const;
  [[nodiscard]] bool takes(RateControl control) const;
  [[nodiscard]] bool takes(Container container) const;
  /// Who can play files with these samples and of this level (as it is written in the stream; 0 where there is none).
  [[nodiscard]] const Message& playedBy(const Samples& s, int level) const;
  /// The format itself if it can hold it, else the nearest that it can: its usual samples, and Rec. 709 where it
  /// carries no high dynamic range.
  [[nodiscard]] CanvasFormat fitting(CanvasFormat format) const;
};

/// All that the rest of the program knows of a codec of the sound.
struct SoundCodecInfo {
  SoundCodec codec;
  std::string_view word; ///< "aac"
  std::string_view name; ///< "AAC", for people
  std::string_view encoder;
  std::string_view found;
  std::vector<Container> containers; ///< of picture and sound
  Container alone;                   ///< of sound alone
  std::vector<int> channels;
  std::vector<int> sampleRates; ///< Hz, the usual one first
  int64_t leastBitRate = 0;     ///< bit/s; 0 where it loses nothing and takes what it needs
  int64_t mostBitRate = 0;
  /// Of stereo, by what is heard, in the order of SoundContent.
  std::array<int64_t, 3> usualBitRates{};
  std::string_view option{}; ///< of the encoder, with its value; empty for none
  std::string_view optionValue{};

  [[nodiscard]] bool lossless() const { return mostBitRate == 0; }
};

struct ContainerInfo {
  Container container;
  std::string_view word;  ///< "mp4", and the ending of files
  std::string_view name;  ///< "MP4", for people
  std::string_view muxer; ///< FFmpeg's name
  bool boxes = false;     ///< of ISO/IEC 14496-12, whose index may stand before or behind the media
  bool picture = true;    ///< false: of sound alone
  bool sound = true;      ///< false: of the picture alone
  bool chapters = true;   ///< has a place for chapter marks
  int ticks = 0;          ///< a second, of the times in it; 0: as fine as is wanted
};

/// The one table of what can be made. Immutable; thread-safe.
[[nodiscard]] const std::vector<PictureCodec>& pictureCodecs();
[[nodiscard]] const std::vector<SoundCodecInfo>& soundCodecs();
[[nodiscard]] const std::vector<ContainerInfo>& containers();

[[nodiscard]] inline const PictureCodec& infoOf(Codec codec) {
  return pictureCodecs()[size_t(codec)];
}
[[nodiscard]] inline const SoundCodecInfo& infoOf(SoundCodec codec) {
  return soundCodecs()[size_t(codec)];
}
[[nodiscard]] inline const ContainerInfo& infoOf(Container container) {
  return containers()[size_t(container)];
}

/// The row of a table with this word; null where there is none.
template <typename Row> [[nodiscard]] const Row* byWord(const std::vector<Row>& table, std::string_view word) {
  for (const Row& row : table)
    if (row.word == word) return &row;
  return nullptr;
}

[[nodiscard]] const char* rateControlWord(RateControl control); ///< "crf", "vbr", "cbr", "settled"
[[nodiscard]] bool rateControlByWord(std::string_view word, RateControl& control);

} // namespace tromb
