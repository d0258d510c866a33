// SPDX-License-Identifier: GPL-3.0-or-later
#include "media/MediaInfo.h"

#include "media/Av.h"
#include "media/Reading.h"

#include <algorithm>
#include <cmath>
#include <nlohmann/json.hpp>

namespace tromb {
namespace {

std::string wordOr(const char* name) {
  return name ? name : "unknown";
}

} // namespace

std::vector<int> usualSound(const std::vector<AudioInfo>& audio) {
  if (audio.empty()) return {};
  const auto preferred = std::find_if(audio.begin(), audio.end(), [](const AudioInfo& a) { return a.preferred; });
  const auto place = preferred == audio.end() ? 0 : int(preferred - audio.begin());
  const auto pairs = [&](int left, int right) {
    if (left < 0 || right >= int(audio.size())) return false;
    const AudioInfo& a = audio[size_t(left)];
    const AudioInfo& b = audio[size_t(right)];
    return a.channels == 1 && b.channels == 1 && a.sampleRate == b.sampleRate && a.codec == b.codec &&
           a.title == b.title;
  };
  if (pairs(place, place + 1)) return {place, place + 1};
  return {place};
}

Reading readAsStated(const MediaInfo& file) {
  Reading reading;
  reading.file = file;
  if (file.video) reading.scan = file.video->scan;
  reading.heard = usualSound(file.audio);
  return reading;
}

const char* scanWord(Scan scan) {
  return scan == Scan::Progressive ? "progressive" : scan == Scan::TopFieldFirst ? "tff" : "bff";
}

nlohmann::ordered_json toJson(const MediaInfo& info) {
  using json = nlohmann::ordered_json;
  static const char* const kKinds[] = {"video", "still", "audio"};
  json object{{"path", info.path},
              {"kind", kKinds[int(info.kind)]},
              {"container", info.container},
              {"durationSeconds", info.duration.toDouble()},
              {"sizeBytes", info.sizeBytes}};
  if (info.video) {
    const VideoInfo& v = *info.video;
    const SizeF upright = v.shape().uprightWithBars();
    object["video"] = {{"codec", v.codec},
                       {"profile", v.profile},
                       {"level", v.level},
                       {"width", v.stored.width},
                       {"height", v.stored.height},
                       {"displayWidth", int(std::lround(upright.width))},
                       {"displayHeight", int(std::lround(upright.height))},
                       {"pixelAspect", v.pixelAspect.toString()},
                       {"rotation", v.rotation},
                       {"mirrored", v.mirrored},
                       {"frameRate", v.clock.rate().value().toString()},
                       {"variableFrameRate", v.clock.variable()},
                       {"frameCount", v.clock.frameCount()},
                       {"timecode", v.timecode ? json(v.timecode->labelOf(0, v.clock.rate())) : json()},
                       {"scan", scanWord(v.scan)},
                       {"pixelFormat", v.pixelFormat},
                       {"bitDepth", v.bitDepth},
                       {"colour",
                        {{"primaries", wordOr(av_color_primaries_name(AVColorPrimaries(v.colour.primaries)))},
                         {"transfer", wordOr(av_color_transfer_name(AVColorTransferCharacteristic(v.colour.transfer)))},
                         {"matrix", wordOr(av_color_space_name(AVColorSpace(v.colour.matrix)))},
                         {"range", v.colour.fullRange ? "full" : "limited"}}},
                       {"hdr", v.hdr()},
                       {"bitRate", v.bitRate}};
  }
  object["audio"] = json::array();
  for (const AudioInfo& a : info.audio)
    object["audio"].push_back({{"codec", a.codec},
                               {"channels", a.channels},
                               {"layout", a.layout},
                               {"sampleRate", a.sampleRate},
                               {"bitRate", a.bitRate}});
  return object;
}

} // namespace tromb
