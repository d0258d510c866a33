// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/Measured.h"

#include "analysis/BarMeter.h"
#include "analysis/InformationMeter.h"
#include "analysis/RepeatMeter.h"
#include "analysis/ScanMeter.h"
#include "io/AtomicFile.h"
#include "io/Digest.h"
#include "io/JsonReader.h"
#include "media/Av.h"
#include "media/read/VideoReader.h"

#include <algorithm>
#include <filesystem>

extern "C" {
#include <libavutil/pixdesc.h>
}

namespace tromb {
namespace {

constexpr int kStretches = 14;
constexpr int kPicturesAStretch = 6;
constexpr int kPicturesWhereRepeated = 26; ///< … where some of them are the one before
constexpr double kPicturesShare = 0.8;     ///< of the progress, where there is sound too
constexpr double kMostSeconds = 1e9;       ///< of a source, that is believed
constexpr double kMostChange = 1000;       ///< temporal information is at most a spread of code values
constexpr int kStoreVersion = 5;           ///< raised when a measure changes, so that old ones are made again

constexpr size_t kMostStored = 64'000'000;

/// Its first plane holds whole samples of one kind, 8 to 16 bits each.
bool hasLumaPlane(const Frame& frame) {
  const AVPixFmtDescriptor& d = *av_pix_fmt_desc_get(AVPixelFormat(frame->format));
  constexpr uint64_t kOther = AV_PIX_FMT_FLAG_PAL | AV_PIX_FMT_FLAG_BITSTREAM | AV_PIX_FMT_FLAG_BE |
                              AV_PIX_FMT_FLAG_HWACCEL | AV_PIX_FMT_FLAG_FLOAT | AV_PIX_FMT_FLAG_BAYER;
  const int depth = d.comp[0].depth;
  return (d.flags & kOther) == 0 && d.comp[0].plane == 0 && depth >= 8 && depth <= 16 &&
         d.comp[0].step == (depth > 8 ? 2 : 1);
}

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
  RepeatMeter repeats;
  const int64_t count = media.video->clock.frameCount();
  for (int i = 0; i < kStretches; ++i) {
    InformationMeter information;
    std::vector<double> changes;
    double seconds = 0;
    if (const Status there = reader->goNear(count * (2 * i + 1) / (2 * kStretches)); !there)
      return tl::unexpected(there.error());
    for (int n = 0; n < (repeats.repeats() ? kPicturesWhereRepeated : kPicturesAStretch); ++n) {
      if (stop.stop_requested()) return fail(ErrorCode::Cancelled, say("measuring was stopped"), media.path);
      const auto picture = reader->read();
      if (!picture) return tl::unexpected(picture.error());
      if (!picture->frame) break;
      if (n == 0) {
        bars.add(picture->frame);
        seconds = media.video->clock.timeOf(std::clamp<int64_t>(picture->number, 0, count - 1)).toDouble();
      }
      scan.add(picture->frame);
      if (!hasLumaPlane(picture->frame)) continue;
      const double change = information.add(picture->frame, InformationMeter::Of::Motion).temporal;
      if (n == 0) continue;
      changes.push_back(change);
      repeats.add(picture->number, change);
    }
    scan.endStretch();
    repeats.endStretch();
    // Of each stretch the change in the middle: a cut is no motion, nor is a picture that is repeated.
    std::sort(changes.begin(), changes.end());
    constexpr double kLeastLively = 0.2; // of the change beside the liveliest, which may be a cut
    if (changes.size() > 1)
      std::erase_if(changes,
                    [least = kLeastLively * changes[changes.size() - 2]](double each) { return each < least; });
    const bool another = measured.motion.empty() || measured.motion.back().seconds < seconds;
    if (!changes.empty() && another) measured.motion.push_back({seconds, changes[changes.size() / 2]});
    if (onFraction) onFraction(double(i + 1) / kStretches);
  }
  measured.bars = upright(withMargin(bars.bars()), *media.video);
  measured.scan = scan.scan();
  if (!media.video->clock.variable()) measured.repeats = repeats.cycle();
  measured.repeated = repeats.share();
  return measured;
}

Result<Measured> measure(const MediaInfo& media, std::stop_token stop, const std::function<void(double)>& onFraction) {
  const double share = media.audio.empty() ? 1 : kPicturesShare;
  auto measured = measurePictures(media, stop, [&](double fraction) {
    if (onFraction) onFraction(fraction * share);
  });
  if (!measured || media.audio.empty()) return measured;
  const Reading usual = readAsStated(media);
  const auto takeSound = [&measured](const Heard& heard) {
    measured->loudness = heard.loudness;
    measured->tenths = heard.tenths;
  };
  const auto sound = measureSound(usual, stop);
  if (!sound) return tl::unexpected(sound.error());
  takeSound(*sound);
  for (int place = 0; place < int(media.audio.size()) && measured->loudness->integratedLufs <= kSilentLufs; ++place) {
    if (std::find(usual.heard.begin(), usual.heard.end(), place) != usual.heard.end()) continue;
    Reading other = usual;
    other.heard = {place};
    const auto heard = measureSound(other, stop);
    if (!heard) return tl::unexpected(heard.error());
    if (heard->loudness.integratedLufs <= kSilentLufs) continue;
    takeSound(*heard);
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

double Measured::motionIn(double from, double to) const {
  double most = -1;
  for (const Motion& each : motion)
    if (each.seconds >= from && each.seconds < to) most = std::max(most, each.change);
  if (most >= 0 || motion.empty()) return std::max(most, 0.0);
  const double middle = (from + to) / 2;
  return std::min_element(motion.begin(), motion.end(),
                          [&](const Motion& a, const Motion& b) {
                            return std::abs(a.seconds - middle) < std::abs(b.seconds - middle);
                          })
      ->change;
}

std::string MeasuredStore::pathOf(const std::string& fingerprint) const {
  return m_folder + "/" + cacheName(fingerprint) + ".json";
}

std::optional<Measured> MeasuredStore::find(const std::string& fingerprint) const {
  const auto text = readWholeFile(pathOf(fingerprint), kMostStored);
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
  if (node.has("motion"))
    node.get("motion").elements([&](const JsonNode& each) {
      measured.motion.push_back(
          {each.get("seconds").number(0, kMostSeconds), each.get("change").number(0, kMostChange)});
    });
  if (node.has("repeats")) {
    const JsonNode repeats = node.get("repeats");
    measured.repeats = Repeats{int(repeats.get("cycle").integer(2, Repeats::kMostCycle)),
                               uint32_t(repeats.get("fresh").integer(1, (1 << Repeats::kMostCycle) - 1))};
    if (!measured.repeats->valid()) return {};
  }
  measured.repeated = node.get("repeated").number(0, 1);
  if (node.has("peaks"))
    node.get("peaks").elements([&](const JsonNode& each) {
      measured.tenths.push_back({int16_t(each.integer(SoundTenth::kSilentTenth, 1000)), false});
    });
  if (node.has("clipped"))
    node.get("clipped").elements([&](const JsonNode& each) {
      const auto at = size_t(each.integer(0, int64_t(measured.tenths.size()) - 1));
      if (at < measured.tenths.size()) measured.tenths[at].clipped = true;
    });
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
  if (measured.repeats) root["repeats"] = {{"cycle", measured.repeats->cycle}, {"fresh", measured.repeats->fresh}};
  root["repeated"] = measured.repeated;
  if (const auto& loudness = measured.loudness)
    root["loudness"] = {{"integratedLufs", loudness->integratedLufs},
                        {"truePeakDbtp", loudness->truePeakDbtp},
                        {"samples", loudness->samples}};
  for (const Measured::Motion& each : measured.motion)
    root["motion"].push_back({{"seconds", each.seconds}, {"change", each.change}});
  for (size_t i = 0; i < measured.tenths.size(); ++i) {
    root["peaks"].push_back(measured.tenths[i].peak);
    if (measured.tenths[i].clipped) root["clipped"].push_back(i);
  }
  for (const int place : measured.heard) root["heard"].push_back(place);
  (void)writeFileAtomically(pathOf(fingerprint), root.dump());
}

} // namespace tromb
