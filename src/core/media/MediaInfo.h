// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "geometry/PictureShape.h"
#include "time/FrameClock.h"

#include <nlohmann/json_fwd.hpp>
#include <optional>
#include <string>
#include <vector>

namespace tromb {

enum class MediaKind { Video, Still, Audio };
enum class Scan { Progressive, TopFieldFirst, BottomFieldFirst };

/// Code points of ITU-T H.273 as labelled in the file; 2 = unspecified.
struct ColourTags {
  int primaries = 2;
  int transfer = 2;
  int matrix = 2;
  bool fullRange = false;
  friend bool operator==(const ColourTags&, const ColourTags&) = default;
};

struct VideoInfo {
  int stream = 0;
  std::string codec;
  std::string profile; ///< empty when unknown
  int level = 0;       ///< the codec's own number, H.264: 10 × level; 0 when unknown
  Size stored;         ///< pixels as coded, before pixel aspect and rotation
  Rational pixelAspect{1, 1};
  int rotation = 0; ///< degrees clockwise that make the picture upright: 0, 90, 180, 270
  FrameClock clock;
  Scan scan = Scan::Progressive;
  std::string pixelFormat;
  int bitDepth = 8;
  bool alpha = false;
  ColourTags colour;
  int64_t bitRate = 0; ///< bits per second; 0 when unknown

  [[nodiscard]] bool hdr() const { return colour.transfer == 16 || colour.transfer == 18; }
  // How a project shows it; nothing of the file.
  Orientation orientation;
  Bars straightenedWithin; ///< the bars between whose middle it is straightened round

  [[nodiscard]] PictureShape shape(const Bars& bars = {}) const {
    return {stored, pixelAspect, rotation, bars, orientation};
  }
};

struct AudioInfo {
  int stream = 0;
  std::string codec;
  std::string profile;
  int channels = 0;
  std::string layout;
  int sampleRate = 0; ///< Hz
  int64_t bitRate = 0;
};

/// What a media file says of itself. Value.
struct MediaInfo {
  std::string path;
  MediaKind kind = MediaKind::Video;
  std::string container;
  Rational duration; ///< seconds; of the picture where there is one; 0 for stills
  int64_t sizeBytes = 0;
  std::optional<VideoInfo> video;
  std::vector<AudioInfo> audio;
};

/// Reads a file's facts without decoding pictures. Errors: Missing, Unreadable, NotMedia, Unsupported.
/// Thread-safe.
[[nodiscard]] Result<MediaInfo> probe(const std::string& path);

/// The object of `tromb-cli probe`.
[[nodiscard]] nlohmann::ordered_json toJson(const MediaInfo& info);

[[nodiscard]] const char* scanWord(Scan scan); ///< "progressive", "tff", "bff"

} // namespace tromb
