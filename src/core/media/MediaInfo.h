// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "colour/ColourTags.h"
#include "geometry/PictureShape.h"
#include "time/FrameClock.h"
#include "time/Timecode.h"

#include <memory>
#include <nlohmann/json_fwd.hpp>
#include <optional>
#include <string>
#include <vector>

namespace tromb {

struct FileIndex;
namespace av {
struct StreamParameters;
}

enum class MediaKind { Video, Still, Audio };
enum class Scan { Progressive, TopFieldFirst, BottomFieldFirst };

struct VideoInfo {
  int stream = 0;
  std::string codec;
  std::string profile; ///< empty when unknown
  int level = 0;       ///< the codec's own number, H.264: 10 × level; 0 when unknown
  Size stored;         ///< pixels as coded, before pixel aspect and rotation
  Rational pixelAspect{1, 1};
  int rotation = 0;      ///< degrees clockwise that make the picture upright: 0, 90, 180, 270
  bool mirrored = false; ///< True if the picture is to be mirrored left for right after turning.
  FrameClock clock;
  std::optional<SourceTimecode> timecode; ///< empty: the file gives its pictures no labels, or they vary in rate
  int64_t firstStamp = 0;                 ///< The time stamp of picture 0, in the stream's ticks.
  Scan scan = Scan::Progressive;
  std::string pixelFormat;
  int bitDepth = 8;
  bool alpha = false; ///< True if the picture may be transparent.
  ColourTags colour;
  ContentLight light;  ///< as the file says
  int64_t bitRate = 0; ///< bits per second; 0 when unknown

  [[nodiscard]] bool hdr() const { return isHdr(colour); }
  /// The shape of its picture, upright; without bars that are cut away, turned and mirrored as somebody wants it.
  [[nodiscard]] PictureShape shape(const Bars& bars = {}, const Orientation& orientation = {}) const {
    return {stored, pixelAspect, rotation, bars, orientation, mirrored, alpha};
  }
};

struct AudioInfo {
  int stream = 0;
  bool preferred = false; ///< the file says that it is to be heard where nobody chooses
  std::string title;      ///< what the file calls it: a title, else a language; may be empty
  std::string codec;
  std::string profile;
  int channels = 0;
  std::string layout;
  int sampleRate = 0; ///< Hz
  int64_t bitRate = 0;
  double downMixDb = 0; ///< how much its channels are lowered where they are mixed down to two, so that nothing clips
};

/// Which of a file's sound streams are heard where nobody has chosen, as places in `audio`: the one that the file
/// prefers, else the first; two mono streams that belong together, as left and right. Empty without sound.
[[nodiscard]] std::vector<int> usualSound(const std::vector<AudioInfo>& audio);

/// A mark in a file from which on something else is shown.
struct Chapter {
  Rational begin; ///< seconds
  Rational end;   ///< seconds, exclusive; of files that tell no ends, where the next one begins
  std::string title;
};

/// What a media file says of itself, and nothing that anybody thinks of it: see Reading. Value.
struct MediaInfo {
  std::string path;
  MediaKind kind = MediaKind::Video;
  std::string container;
  Rational duration; ///< seconds; of the picture where there is one; 0 for stills
  int64_t sizeBytes = 0;
  std::optional<VideoInfo> video;
  std::vector<AudioInfo> audio;
  std::vector<Chapter> chapters; ///< in order
  Rational begin; ///< seconds on the file's own clock that are time 0: those of its first picture, else of its sound
  std::shared_ptr<const FileIndex> index; ///< null where the container tells all itself
  /// For readers, which find it out themselves where it is null
  std::shared_ptr<const av::StreamParameters> parameters;
};

/// The object of `tromb-cli probe`.
[[nodiscard]] nlohmann::ordered_json toJson(const MediaInfo& info);

[[nodiscard]] const char* scanWord(Scan scan); ///< "progressive", "tff", "bff"

} // namespace tromb
