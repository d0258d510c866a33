// SPDX-License-Identifier: GPL-3.0-or-later
#include "export/Proof.h"

#include "analysis/BarMeter.h"
#include "analysis/Loudness.h"
#include "delivery/H264Level.h"
#include "media/PacketSizes.h"
#include "media/read/AudioReader.h"
#include "media/read/BoxList.h"
#include "media/read/VideoReader.h"

#include <algorithm>
#include <array>
#include <cctype>
#include <cmath>
#include <cstdio>
#include <nlohmann/json.hpp>

namespace tromb {
namespace {

/// EBU R 128: what is delivered may deviate from the target by this much, in LU, where it is not made live.
constexpr double kLoudnessTolerance = 0.5;

std::string sized(Size s) {
  return std::to_string(s.width) + "×" + std::to_string(s.height);
}

std::string barsText(const Bars& b) {
  return std::to_string(b.left) + "," + std::to_string(b.top) + "," + std::to_string(b.right) + "," +
         std::to_string(b.bottom);
}

template <typename... Values> std::string printed(const char* format, Values... values) {
  std::array<char, 128> text{};
  std::snprintf(text.data(), text.size(), format, values...);
  return text.data();
}

std::string lower(std::string text) {
  for (char& c : text) c = char(std::tolower(static_cast<unsigned char>(c)));
  return text;
}

/// What decoding every picture showed.
struct Pictures {
  int64_t frames = 0;
  int64_t outOfStep = 0; ///< pictures whose time stamp is not that of their place
  Bars bars;             ///< the worst of all shots
};

Result<Pictures> decodeAll(const MediaInfo& media, const Plan* plan, const std::stop_token& stop,
                           const std::function<void(int64_t)>& onFrame) {
  auto reader = VideoReader::open(media);
  if (!reader) return tl::unexpected(reader.error());
  Pictures seen;
  BarMeter meter;
  const auto take = [&] {
    const Bars b = meter.bars();
    seen.bars = {std::max(seen.bars.left, b.left), std::max(seen.bars.top, b.top), std::max(seen.bars.right, b.right),
                 std::max(seen.bars.bottom, b.bottom)};
    meter = {};
  };
  size_t piece = 0;
  for (;;) {
    if (stop.stop_requested()) return fail(ErrorCode::Cancelled, "the proof was stopped", media.path);
    const auto got = reader->read();
    if (!got) return tl::unexpected(got.error());
    if (!got->frame) break;
    while (plan && piece + 1 < plan->pieces().size() && seen.frames >= plan->pieces()[piece + 1].firstFrame) {
      take(); // each shot is judged by itself
      ++piece;
    }
    meter.add(got->frame);
    if (got->number != seen.frames) ++seen.outOfStep;
    ++seen.frames;
    if (onFrame) onFrame(seen.frames);
  }
  take();
  return seen;
}

void checkPicture(const MediaInfo& media, const Plan* plan, const Pictures& seen, ProofReport& report) {
  const VideoInfo& v = *media.video;
  const auto add = [&](const char* code, const std::string& expected, const std::string& found, bool pass) {
    report.checks.push_back({code, expected, found, pass});
  };
  const auto same = [&](const char* code, const std::string& expected, const std::string& found) {
    add(code, plan ? expected : "", found, !plan || expected == found);
  };

  same("canvas", plan ? sized(plan->canvas()) : "", sized(v.stored));
  add("pixel-aspect", "1/1", v.pixelAspect.toString(), v.pixelAspect == Rational(1));
  same("rate", plan ? plan->rate().value().toString() : "",
       v.clock.variable() ? "variable" : v.clock.rate().value().toString());
  same("frames", plan ? std::to_string(plan->frameCount()) : "", std::to_string(seen.frames));
  add("time-stamps", "0 out of step", std::to_string(seen.outOfStep) + " out of step", seen.outOfStep == 0);
  same("duration", plan ? printed("%.3f s", plan->duration().toDouble()) : "",
       printed("%.3f s", media.duration.toDouble()));
  add("codec", "h264", v.codec, v.codec == "h264");
  const std::string asked = plan ? plan->encoding().profile : "";
  const std::string profile = lower(v.profile);
  // x264 writes Baseline in its constrained form.
  add("profile", asked, profile,
      !plan || profile == asked || (asked == "baseline" && profile == "constrained baseline"));
  const H264Level* level = plan ? levelByName(plan->encoding().level) : nullptr;
  add("level", level ? std::string(level->name) : "", printed("%.3g", v.level / 10.0), !level || v.level == level->idc);
  add("pixel-format", "yuv420p", v.pixelFormat, v.pixelFormat == "yuv420p");
  const ColourTags& c = v.colour;
  add("colour", "1/1/1 limited",
      std::to_string(c.primaries) + "/" + std::to_string(c.transfer) + "/" + std::to_string(c.matrix) +
          (c.fullRange ? " full" : " limited"),
      c == ColourTags{1, 1, 1, false});
  const bool index = indexBeforeMedia(media.path);
  add("index-first", "before the media", index ? "before the media" : "behind the media", index);

  const bool askedBars = plan && std::any_of(plan->pieces().begin(), plan->pieces().end(),
                                             [](const PlanPiece& p) { return p.uncoveredPercent > 0; });
  add("bars", askedBars ? "as framed" : "0,0,0,0", barsText(seen.bars), askedBars || seen.bars.none());
}

Status checkBitRates(const MediaInfo& media, const Plan* plan, ProofReport& report) {
  const auto rates = measureBitRates(media);
  if (!rates) return tl::unexpected(rates.error());
  const double most = plan ? double(plan->encoding().maxBitRate) : 0;
  const double seconds = media.duration.toDouble();
  // ITU-T H.264 Annex C: in any time T at most R·T + B bits leave a buffer of B filled at R; here B = R · 1 s.
  const auto limited = [&](const char* code, double found, double limit) {
    report.checks.push_back({code, most > 0 ? "at most " + bitRateText(int64_t(limit)) : "",
                             bitRateText(int64_t(found)), most <= 0 || found <= limit * 1.001});
  };
  limited("average-bit-rate", rates->average, most + (seconds > 0 ? most / seconds : 0));
  limited("peak-bit-rate", rates->peakSecond, 2 * most);
  return {};
}

Status checkSound(const MediaInfo& media, const Plan* plan, const std::stop_token& stop, ProofReport& report) {
  const bool expected = plan ? plan->hasSound() : !media.audio.empty();
  const std::string format = media.audio.empty() ? "none"
                                                 : media.audio.front().codec + " " + media.audio.front().layout + " " +
                                                       std::to_string(media.audio.front().sampleRate);
  const std::string wanted = expected ? "aac stereo 48000" : "none";
  report.checks.push_back({"sound", wanted, format, format == wanted});
  if (media.audio.empty()) return {};
  const auto loudness = measureLoudness(media, stop);
  if (!loudness) return tl::unexpected(loudness.error());
  // The decoder hands out the padding of the last AAC frame too: one frame of 1024 samples is the measure.
  const double difference = double(loudness->samples) / kSoundRate - media.duration.toDouble();
  report.checks.push_back({"sound-length", "within 0.0214 s of the picture", printed("%+.4f s", difference),
                           std::abs(difference) <= 1024.5 / kSoundRate});
  ProofCheck check{"loudness", "", printed("%.1f LUFS, %.1f dBTP", loudness->integratedLufs, loudness->truePeakDbtp)};
  // A region alone is as loud as it happens to be in the whole.
  if (plan && plan->output().loudnessLufs && plan->regionName().empty()) {
    const double target = *plan->output().loudnessLufs;
    const double peak = plan->output().mostPeakDbtp;
    check.expected = printed("%.1f LUFS within %.1f, at most %.1f dBTP", target, kLoudnessTolerance, peak);
    check.pass = std::abs(loudness->integratedLufs - target) <= kLoudnessTolerance && loudness->truePeakDbtp <= peak;
  }
  report.checks.push_back(check);
  return {};
}

} // namespace

bool ProofReport::passed() const {
  return std::all_of(checks.begin(), checks.end(), [](const ProofCheck& c) { return c.pass; });
}

bool indexBeforeMedia(const std::string& path) {
  for (const Box& box : topBoxes(path))
    if (box.is("moov") || box.is("mdat")) return box.is("moov");
  return false;
}

Result<ProofReport> proofFile(const std::string& path, const Plan* plan, std::stop_token stop,
                              const std::function<void(int64_t)>& onFrame) {
  const auto media = probe(path);
  if (!media) return tl::unexpected(media.error());
  if (media->kind != MediaKind::Video) return fail(ErrorCode::NotMedia, "the file holds no moving picture", path);
  const auto seen = decodeAll(*media, plan, stop, onFrame);
  if (!seen) return tl::unexpected(seen.error());
  ProofReport report;
  checkPicture(*media, plan, *seen, report);
  if (const Status done = checkBitRates(*media, plan, report); !done) return tl::unexpected(done.error());
  if (const Status done = checkSound(*media, plan, stop, report); !done) return tl::unexpected(done.error());
  return report;
}

nlohmann::ordered_json toJson(const ProofReport& report) {
  auto list = nlohmann::ordered_json::array();
  for (const ProofCheck& c : report.checks)
    list.push_back({{"code", c.code}, {"expected", c.expected}, {"found", c.found}, {"pass", c.pass}});
  return {{"pass", report.passed()}, {"checks", list}};
}

} // namespace tromb
