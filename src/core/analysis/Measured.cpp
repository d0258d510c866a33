// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/Measured.h"

#include "analysis/BarMeter.h"
#include "analysis/ScanMeter.h"
#include "io/AtomicFile.h"
#include "io/Digest.h"
#include "io/JsonReader.h"
#include "media/read/VideoReader.h"

#include <algorithm>
#include <filesystem>

namespace tromb {
namespace {

constexpr int kStretches = 14;
constexpr int kPicturesAStretch = 6;
constexpr double kPicturesShare = 0.8; ///< of the progress, where there is sound too
constexpr int kStoreVersion = 2;       ///< raised when a measure changes, so that old ones are made again

/// From the stored raster to the upright one.
Bars upright(const Bars& bars, const VideoInfo& video) {
  return shownAs(bars, {video.rotation, video.mirrored, 0});
}

} // namespace

Result<Measured> measurePictures(const MediaInfo& media, std::stop_token stop,
                                 const std::function<void(double)>& onFraction) {
  Measured measured;
  if (media.kind != MediaKind::Video) return measured;
  ReadOptions options;
  options.scan = Scan::Progressive; // measuring needs the fields as they are, before de-interlacing
  auto reader = VideoReader::open(media, options);
  if (!reader) return tl::unexpected(reader.error());
  BarMeter bars;
  ScanMeter scan;
  const int64_t count = media.video->clock.frameCount();
  for (int i = 0; i < kStretches; ++i) {
    if (const Status there = reader->goNear(count * (2 * i + 1) / (2 * kStretches)); !there)
      return tl::unexpected(there.error());
    for (int n = 0; n < kPicturesAStretch; ++n) {
      if (stop.stop_requested()) return fail(ErrorCode::Cancelled, say("measuring was stopped"), media.path);
      const auto picture = reader->read();
      if (!picture) return tl::unexpected(picture.error());
      if (!picture->frame) break;
      if (n == 0) bars.add(picture->frame);
      scan.add(picture->frame);
    }
    scan.endStretch();
    if (onFraction) onFraction(double(i + 1) / kStretches);
  }
  measured.bars = upright(withMargin(bars.bars()), *media.video);
  measured.scan = scan.scan();
  return measured;
}

Result<Measured> measure(const MediaInfo& media, std::stop_token stop, const std::function<void(double)>& onFraction) {
  const double share = media.audio.empty() ? 1 : kPicturesShare;
  auto measured = measurePictures(media, stop, [&](double fraction) {
    if (onFraction) onFraction(fraction * share);
  });
  if (!measured || media.audio.empty()) return measured;
  const Reading usual = readAsStated(media);
  const auto loudness = measureLoudness(usual, stop);
  if (!loudness) return tl::unexpected(loudness.error());
  measured->loudness = *loudness;
  for (int place = 0; place < int(media.audio.size()) && measured->loudness->integratedLufs <= kSilentLufs; ++place) {
    if (std::find(usual.heard.begin(), usual.heard.end(), place) != usual.heard.end()) continue;
    Reading other = usual;
    other.heard = {place};
    const auto heard = measureLoudness(other, stop);
    if (!heard) return tl::unexpected(heard.error());
    if (heard->integratedLufs <= kSilentLufs) continue;
    measured->loudness = *heard;
    measured->heard = other.heard;
  }
  if (onFraction) onFraction(1);
  return measured;
}

bool takeIn(Source& source, const Measured& measured) {
  const Source before = source;
  if (source.barsBy == FactBy::Nobody) {
    source.barsBy = FactBy::Measure;
    source.bars = measured.bars;
  }
  if (source.scanBy == FactBy::Nobody && measured.scan) {
    source.scanBy = FactBy::Measure;
    source.scan = measured.scan;
  }
  if (source.soundBy == FactBy::Nobody && !measured.heard.empty()) {
    source.soundBy = FactBy::Measure;
    source.sound = measured.heard;
  }
  return source.bars != before.bars || source.scan != before.scan || source.sound != before.sound;
}

std::string MeasuredStore::pathOf(const std::string& fingerprint) const {
  return m_folder + "/" + cacheName(fingerprint) + ".json";
}

std::optional<Measured> MeasuredStore::find(const std::string& fingerprint) const {
  const auto text = readWholeFile(pathOf(fingerprint), 65'536);
  if (!text) return {};
  const Json root = parseJson(*text).value_or(Json());
  JsonFault fault;
  const JsonNode node(root, fault);
  if (node.get("version").integer(0, 1'000'000) != kStoreVersion) return {};
  Measured measured;
  const JsonNode bars = node.get("bars");
  const auto side = [&](const char* key) { return int(bars.get(key).integer(0, 16'384)); };
  measured.bars = {side("left"), side("top"), side("right"), side("bottom")};
  if (node.has("scan")) measured.scan = Scan(node.get("scan").integer(0, 2));
  if (node.has("loudness")) {
    const JsonNode loudness = node.get("loudness");
    measured.loudness =
        Loudness{loudness.get("integratedLufs").number(-200, 100), loudness.get("truePeakDbtp").number(-200, 100),
                 loudness.get("samples").integer(0, INT64_MAX)};
  }
  if (node.has("heard"))
    node.get("heard").elements([&](const JsonNode& each) { measured.heard.push_back(int(each.integer(0, 1000))); });
  if (fault.error) return {};
  return measured;
}

void MeasuredStore::keep(const std::string& fingerprint, const Measured& measured) const {
  std::error_code ignored;
  std::filesystem::create_directories(m_folder, ignored);
  const Bars& b = measured.bars;
  Json root{{"version", kStoreVersion},
            {"bars", {{"left", b.left}, {"top", b.top}, {"right", b.right}, {"bottom", b.bottom}}}};
  if (measured.scan) root["scan"] = int(*measured.scan);
  if (const auto& loudness = measured.loudness)
    root["loudness"] = {{"integratedLufs", loudness->integratedLufs},
                        {"truePeakDbtp", loudness->truePeakDbtp},
                        {"samples", loudness->samples}};
  for (const int place : measured.heard) root["heard"].push_back(place);
  (void)writeFileAtomically(pathOf(fingerprint), root.dump());
}

} // namespace tromb
