// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "encoding/Codec.h"
#include "geometry/Rect.h"
#include "time/FrameRate.h"

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace tromb {

/// Bits a second of the picture: what the encoders take.
inline constexpr int64_t kLeastBitRate = 10'000;
inline constexpr int64_t kMostBitRate = 1'000'000'000;
/// Seconds between key frames.
inline const Rational kLeastKeyDistance{1, 25};
inline const Rational kMostKeyDistance{20};
inline constexpr int kMostBPictures = 16;
inline constexpr int kMostReferences = 16;
inline constexpr size_t kMostTitleBytes = 1000;

/// Lossless entropy coding of H.264.
enum class Entropy { Usual, Cabac, Cavlc };

/// What the chapter marks of a file are made from.
enum class Chapters { None, Shots, Regions };
[[nodiscard]] const char* chaptersWord(Chapters chapters); ///< "none", "shots", "regions"
[[nodiscard]] bool chaptersByWord(std::string_view word, Chapters& chapters);

/// Where captions go: nowhere; into the picture; or into a file beside it, as SubRip or as WebVTT.
enum class CaptionPlace { None, Burned, SubRip, WebVtt };
[[nodiscard]] const char* captionPlaceWord(CaptionPlace place); ///< "none", "burned", "srt", "vtt"
[[nodiscard]] bool captionPlaceByWord(std::string_view word, CaptionPlace& place);

/// Where the sound of a deliverable goes: into the file of the picture; nowhere; into a file of its own and there is no
/// other; or into a file of its own beside that of the picture, which has none.
enum class SoundPlace { Within, None, Alone, Beside };
[[nodiscard]] const char* soundPlaceWord(SoundPlace place); ///< "with", "none", "only", "beside"
[[nodiscard]] bool soundPlaceByWord(std::string_view word, SoundPlace& place);
[[nodiscard]] const char* soundContentWord(SoundContent content); ///< "speech", "mixed", "music"
[[nodiscard]] bool soundContentByWord(std::string_view word, SoundContent& content);

/// How the sound of a deliverable is encoded.
struct SoundEncoding {
  std::optional<SoundCodec> codec; ///< empty: the usual one of the container
  int64_t bitRate = 0;             ///< bits a second; 0 = the usual one of the content
  SoundContent content = SoundContent::Mixed;
  int channels = 2;        ///< 1, 2, or 6 for 5.1
  int sampleRate = 48'000; ///< Hz
  SoundPlace place = SoundPlace::Within;
  std::string unknown; ///< see Project.h
  friend bool operator==(const SoundEncoding&, const SoundEncoding&) = default;
};

/// How a deliverable's picture and sound are encoded. Empty and 0 stand for the usual, which `resolved` fills in.
struct Encoding {
  Codec codec = Codec::H264;
  std::optional<Container> container; ///< empty: the codec's usual one
  std::optional<RateControl> rateControl;
  int passes = 1;
  std::optional<double> crf; ///< constant quality, on the codec's own scale
  int64_t bitRate = 0;       ///< average in bits per second
  int64_t maxBitRate = 0;    ///< peak: the fill rate of the decoder's buffer, bits per second; 0 = 1.5 × bitRate
  int64_t bufferBits = 0;    ///< size of the decoder's buffer; 0 = one second of the peak
  std::string profile;
  std::string level; ///< "4.1"; empty = the lowest that fits
  bool highTier = false;
  std::string speed;            ///< the encoder's own word
  bool hardware = false;        ///< by an encoder in graphics hardware, on machines where one works
  bool copies = false;          ///< pictures of sources that are as asked for already are copied, see copy/ShotCopy.h
  std::string tune;             ///< what the pictures are like; empty: anything
  Rational keySeconds{2};       ///< most time between two key frames
  bool openGroups = false;      ///< pictures may lean on some beyond a key frame
  bool keysAtCuts = true;       ///< the encoder sets extra key frames where the picture changes
  std::optional<int> bPictures; ///< in a row, at most
  int references = 0;           ///< 0 = the speed's usual number
  Entropy entropy = Entropy::Usual;
  SoundEncoding sound;
  Chapters chapters = Chapters::None;
  CaptionPlace captions = CaptionPlace::Burned;
  std::string title;
  std::string comment;
  std::string language; ///< ISO 639-2, three letters
  std::string unknown;  ///< see Project.h
  friend bool operator==(const Encoding&, const Encoding&) = default;

  [[nodiscard]] const PictureCodec& info() const { return infoOf(codec); }
  /// It must be encoded twice.
  [[nodiscard]] bool hasTwoPasses() const { return hasPicture() && (passes == 2 || info().palette); }
  /// Of a resolved one: a bit rate says how much is spent.
  [[nodiscard]] bool byBitRate() const {
    return rateControl == RateControl::Variable || rateControl == RateControl::Constant;
  }
  [[nodiscard]] bool captionsBeside() const {
    return captions == CaptionPlace::SubRip || captions == CaptionPlace::WebVtt;
  }
  [[nodiscard]] bool hasPicture() const { return sound.place != SoundPlace::Alone; }
};

/// The picture that is encoded.
struct EncodedPicture {
  Size size;
  FrameRate rate;
  CanvasFormat format;
  Rational pixelAspect{1};
};

/// The usual bit rate of H.264 for web delivery: 8 Mb/s for 1080p up to 30 frames, in proportion to the pixels, half as
/// much again above 30; rounded to 100 kb/s. Common practice, no published source.
[[nodiscard]] int64_t usualBitRate(Size canvas, const FrameRate& rate);

/// The encoding with everything usual filled in for a picture; the level too.
[[nodiscard]] Encoding resolved(const Encoding& encoding, const EncodedPicture& picture);

/// Succeeds if a resolved encoding is one that can be made. Errors: InvalidArgument, with the reason and the nearest
/// thing that can be.
[[nodiscard]] Status encodable(const Encoding& resolved, const EncodedPicture& picture);
/// Succeeds if the level of a resolved encoding carries the picture. Errors: InvalidArgument, with the level that does.
[[nodiscard]] Status levelCarries(const Encoding& resolved, const EncodedPicture& picture);
/// What keeps an encoding from being made, and why.
struct Hindrance {
  enum class By {
    Settings, ///< that do not go together
    Profile,  ///< the one that was chosen has not what is asked for; the usual one has
    Level,    ///< the one that was chosen is too low, or there is none that is high enough
    Buffer,   ///< the decoder's buffer alone is larger than the level has it
  };
  By by;
  Error why;
};
/// Everything that keeps a resolved encoding from being made, as encodable and levelCarries find it.
[[nodiscard]] std::vector<Hindrance> hindrances(const Encoding& resolved, const EncodedPicture& picture);
/// What a resolved encoding asks of its level.
[[nodiscard]] LevelTable::Demand demandOf(const Encoding& resolved, const EncodedPicture& picture);

/// The container of the sound of a resolved encoding: that of the picture, or its own.
[[nodiscard]] Container soundContainer(const Encoding& resolved);
/// Bits a second that sound takes: its bit rate, or what its samples take where nothing is lost (of FLAC two thirds of
/// that; common practice, no published source).
[[nodiscard]] int64_t bitRateOf(const SoundEncoding& resolved);
/// Bytes that picture and sound will take; nothing where that depends on the pictures alone.
[[nodiscard]] std::optional<int64_t> expectedBytes(const Encoding& resolved, const Rational& seconds);
/// Bytes that the container itself takes for so many pictures, and for sound within it: the places, lengths and times
/// of all packets (measured with FFmpeg's muxers, no published source).
[[nodiscard]] int64_t containerBytes(int64_t pictures, const Rational& secondsOfSound);
/// "H.264 High, level 4.1": for people.
[[nodiscard]] Message codecText(const Encoding& resolved);

/// How the `codecs` parameter of a file begins that is encoded so: by RFC 6381, ISO/IEC 14496-15 annex E and the AV1
/// Codec ISO Media File Format Binding, 5. Empty for codecs that have none, or none in the containers that they are put
/// into.
[[nodiscard]] std::string codecsBegin(const Encoding& resolved, int depth);

/// Bytes that a bit rate fills in a time, without the container: (video + audio) · s / 8.
[[nodiscard]] int64_t estimatedBytes(int64_t videoBitRate, int64_t audioBitRate, const Rational& seconds);

/// Video bits spent on a pixel: bit rate / (width · height · rate).
[[nodiscard]] double bitsPerPixel(int64_t bitRate, Size canvas, const FrameRate& rate);

/// Reads "8M", "192k", "2500000". Bits per second, 1 to 10^12.
[[nodiscard]] Result<int64_t> parseBitRate(std::string_view text);
/// "8 Mb/s", "192 kb/s": for people.
[[nodiscard]] std::string bitRateText(int64_t bitRate);
/// Reads "100 MB", "1.5GB", "700k", "2500000": bytes, thousands by thousands, 1 to 10^15.
[[nodiscard]] Result<int64_t> parseBytes(std::string_view text);
/// "61.4 MB" (10⁶): for people.
[[nodiscard]] std::string bytesText(int64_t bytes);

} // namespace tromb
