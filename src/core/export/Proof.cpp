// SPDX-License-Identifier: GPL-3.0-or-later
#include "export/Proof.h"

#include "Printed.h"
#include "analysis/Loudness.h"
#include "analysis/SoundTarget.h"
#include "encoding/Encoding.h"
#include "export/Beside.h"
#include "export/Exporter.h"
#include "export/Judge.h"
#include "export/LoopProof.h"
#include "export/PictureProof.h"
#include "media/CanvasFrame.h"
#include "media/read/AudioReader.h"
#include "media/read/CodecString.h"
#include "media/read/IndexPlace.h"
#include "media/read/PacketFacts.h"
#include "media/read/Probe.h"
#include "media/read/VideoReader.h"
#include "picture/PictureSource.h"
#include "render/ElementPainter.h"
#include "render/Pictures.h"
#include "render/SoundMix.h"
#include "time/Timecode.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <nlohmann/json.hpp>
#include <numeric>
#include <optional>
#include <vector>

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

std::string at(double seconds) {
  return clockText(Rational(std::llround(seconds * 1000), 1000));
}

std::string colourText(const ColourTags& c) {
  return std::to_string(c.primaries) + "/" + std::to_string(c.transfer) + "/" + std::to_string(c.matrix) +
         (c.fullRange ? " full" : " limited");
}

/// The row of the table for a codec that was found in a file; null for one that is not made here.
const PictureCodec* codecFound(const std::string& name) {
  for (const PictureCodec& row : pictureCodecs())
    if (row.found == name) return &row;
  return nullptr;
}

/// Codec, profile, level, samples and colour, and how the file is laid out.
Status checkCodec(const MediaInfo& media, const Plan* plan, ProofReport& report) {
  const VideoInfo& v = *media.video;
  const auto add = [&](const char* code, const std::string& expected, const std::string& found, bool pass) {
    report.checks.push_back({code, verbatim(expected), verbatim(found), pass});
  };
  const PictureCodec* row = plan ? &plan->encoding().info() : codecFound(v.codec);
  report.checks.push_back({"codec",
                           plan  ? verbatim(std::string(row->found))
                           : row ? Message()
                                 : say("one that is made here"),
                           verbatim(v.codec), row && row->found == v.codec});
  const Profile* profile = plan ? row->profile(plan->encoding().profile) : nullptr;
  const std::string foundProfile = profileFound(v);
  // A Baseline stream that keeps to what Main has too is labelled so.
  add("profile", profile ? std::string(profile->found) : "", foundProfile,
      !profile || foundProfile == profile->found || (profile->word == "baseline" && foundProfile == "baseline"));
  const auto header = readStreamHeader(media);
  if (!header) return tl::unexpected(header.error());
  if (row && row->levels && header->level >= 0) {
    const Level* asked = plan ? row->levels->byName(plan->encoding().level) : nullptr;
    const auto levels = row->levels->levels();
    const auto found =
        std::find_if(levels.begin(), levels.end(), [&](const Level& l) { return l.idc == header->level; });
    const auto words = [](const Level& level, bool high) {
      return std::string(level.name) + (high ? " high tier" : "");
    };
    add("level", asked ? words(*asked, plan->encoding().highTier) : "",
        found == levels.end() ? std::to_string(header->level) : words(*found, header->highTier),
        !asked || (asked->idc == header->level && plan->encoding().highTier == header->highTier));
  } else if (row && row->levels) {
    report.checks.push_back({"level", {}, say("not written in files of %1", row->name), true, false});
  }
  if (!header->codecs.empty()) {
    const std::string codecs = plan ? codecsBegin(plan->encoding(), plan->format().depth) : "";
    add("codec-string", codecs, header->codecs, header->codecs.starts_with(codecs));
  }
  const std::string samples = plan ? pixelFormatName(plan->format()) : "";
  const auto usual = [&](const Samples& s) { return pixelFormatName({s.depth, s.chroma, {}}) == v.pixelFormat; };
  add("pixel-format", samples, v.pixelFormat,
      plan ? samples == v.pixelFormat : row && std::any_of(row->samples.begin(), row->samples.end(), usual));
  const ColourTags wanted = plan ? plan->format().colour : isHdr(v.colour) ? v.colour : kRec709;
  add("colour", colourText(wanted), colourText(v.colour), v.colour == wanted);
  const bool index = indexBeforeMedia(media.path);
  report.checks.push_back(
      {"index-first", say("before the media"), index ? say("before the media") : say("behind the media"), index});
  return {};
}

/// The light levels of PQ, which players go by.
void checkLight(const VideoInfo& v, const ProofSubject& subject, ProofReport& report) {
  if (v.colour != kPq) return;
  const auto words = [](const ContentLight& light) {
    return light.most > 0 ? say("at most %1 cd/m², %2 on average", light.most, light.mostAverage) : say("none");
  };
  const bool known = subject.light.most > 0;
  report.checks.push_back({"light-levels", known ? words(subject.light) : Message(), words(v.light),
                           known ? v.light == subject.light : v.light.most >= v.light.mostAverage && v.light.most > 0});
}

/// Chapter marks of the file.
void checkTags(const MediaInfo& media, const Plan& plan, ProofReport& report) {
  const std::vector<Chapter> wanted = plan.chapters();
  if (wanted.empty() && media.chapters.empty()) return;
  constexpr double kMillisecond = 0.00101;
  bool same = wanted.size() == media.chapters.size();
  for (size_t i = 0; same && i < wanted.size(); ++i)
    same = wanted[i].title == media.chapters[i].title &&
           std::abs((wanted[i].begin - media.chapters[i].begin).toDouble()) < kMillisecond;
  const auto counted = [](size_t count) { return sayCounted("%n marks", "%n mark", int64_t(count)); };
  report.checks.push_back({"chapters", counted(wanted.size()),
                           same || wanted.size() != media.chapters.size() ? counted(media.chapters.size())
                                                                          : say("others than were asked for"),
                           same});
}

void checkPicture(const MediaInfo& media, const Plan* plan, const SeenPictures& seen, ProofReport& report) {
  const VideoInfo& v = *media.video;
  const auto add = [&](const char* code, const Message& expected, const Message& found, bool pass) {
    report.checks.push_back({code, expected, found, pass});
  };
  const auto addWords = [&](const char* code, const std::string& expected, const std::string& found, bool pass) {
    add(code, verbatim(expected), verbatim(found), pass);
  };
  const auto same = [&](const char* code, const std::string& expected, const std::string& found) {
    addWords(code, plan ? expected : "", found, !plan || expected == found);
  };

  same("canvas", plan ? sized(plan->canvas()) : "", sized(v.stored));
  const Rational aspect = plan ? plan->deliverable().pixelAspect : Rational(1);
  addWords("pixel-aspect", aspect.toString(), v.pixelAspect.toString(), v.pixelAspect == aspect);
  const std::string askedRate = plan ? plan->rate().value().toString() : "";
  const std::string rate = v.clock.rate().value().toString();
  add("rate", verbatim(askedRate), v.clock.variable() ? say("variable") : verbatim(rate),
      !plan || (!v.clock.variable() && rate == askedRate));
  same("frames", plan ? std::to_string(plan->frameCount()) : "", std::to_string(seen.frames));
  add("time-stamps", say("%1 out of step", 0), say("%1 out of step", seen.outOfStep), seen.outOfStep == 0);
  same("duration", plan ? printed("%.3f s", plan->duration().toDouble()) : "",
       printed("%.3f s", media.duration.toDouble()));
  if (seen.damaged > 0) report.curves.marks.push_back({"decoding", seen.firstDamaged});
  add("decoding", say("every picture whole"),
      seen.damaged == 0 ? say("every picture whole")
                        : say("%1 damaged, the first at %2", seen.damaged, at(seen.firstDamaged)),
      seen.damaged == 0);
  const bool askedBars = plan && std::any_of(plan->pieces().begin(), plan->pieces().end(),
                                             [](const PlanPiece& p) { return p.uncoveredPercent > 0; });
  add("bars", askedBars ? say("as framed") : verbatim("0,0,0,0"), verbatim(barsText(seen.bars)),
      askedBars || seen.bars.none());
}

/// Bit rates, the decoder's buffer, and how far key pictures lie apart.
Status checkPackets(const MediaInfo& media, const Plan* plan, ProofReport& report) {
  const Encoding* e = plan ? &plan->encoding() : nullptr;
  const bool held = e && e->maxBitRate > 0;
  const auto facts = readPackets(media, held ? DecoderBuffer{e->maxBitRate, e->bufferBits} : DecoderBuffer{});
  if (!facts) return tl::unexpected(facts.error());
  const double most = held ? double(e->maxBitRate) : 0;
  const double buffer = held ? double(e->bufferBits) : 0;
  const double seconds = media.duration.toDouble();
  // ITU-T H.264 Annex C: in any time T at most R·T + B bits leave a buffer of B filled at R.
  const auto limited = [&](const char* code, double found, double limit) {
    report.checks.push_back({code, most > 0 ? say("at most %1", bitRateText(int64_t(limit))) : Message(),
                             verbatim(bitRateText(int64_t(found))), most <= 0 || found <= limit * 1.001});
  };
  limited("average-bit-rate", facts->average, most + (seconds > 0 ? buffer / seconds : 0));
  limited("peak-bit-rate", facts->peakSecond, most + buffer);
  report.curves.seconds = seconds;
  report.curves.bitRate = facts->bitsBySecond;
  report.curves.mostBitRate = most > 0 ? most + buffer : 0;
  if (most > 0)
    for (size_t second = 0; second < facts->bitsBySecond.size(); ++second)
      if (double(facts->bitsBySecond[second]) > (most + buffer) * 1.001)
        report.curves.marks.push_back({"peak-bit-rate", double(second)});
  if (held) {
    constexpr double kRounding = 0.001; // the encoder reckons in whole bits of its own ticks
    const bool enough = facts->shortBits <= kRounding * buffer;
    if (!enough) report.curves.marks.push_back({"decoder-buffer", facts->shortAt});
    report.checks.push_back({"decoder-buffer", say("always full enough"),
                             enough ? say("always full enough")
                                    : say("too empty by %1 %, the first time at %2",
                                          printed("%.1f", 100 * facts->shortBits / buffer), at(facts->shortAt)),
                             enough});
  }
  if (held && *e->rateControl == RateControl::Constant) {
    // What is padded leaves no time in which nothing could be sent: at most one picture's share finds no room.
    const double share = most / plan->rate().toDouble();
    const bool even = facts->overflowBits <= share * 1.01;
    report.checks.push_back({"constant-rate", say("padded"), even ? say("padded") : say("not padded"), even});
  }
  if (e) {
    const int64_t apart = (e->keySeconds * plan->rate().value()).nearest();
    const int64_t limit = e->info().intra ? 1 : std::max<int64_t>(1, apart);
    // What is copied keeps its own groups: they are told.
    report.checks.push_back(
        {"key-distance", e->copies ? Message() : sayCounted("at most %n pictures", "at most %n picture", limit),
         sayCounted("%n pictures", "%n picture", facts->keyDistance), e->copies || facts->keyDistance <= limit});
  }
  return {};
}

/// A comparison of contents: its code, the expected value, and the words in which faults are counted.
struct Kinds {
  std::vector<std::pair<const char*, Message>> checks;
  Message (*counted)(int64_t count);
};

Kinds pictureKinds() {
  return {{{"order", say("each picture in its place")},
           {"content", say("equal to what was composed")},
           {"position", say("equal to what was composed")},
           {"sharpness", say("equal to what was composed")},
           {"edges", say("equal to what was composed")}},
          [](int64_t count) { return sayCounted("%n pictures", "%n picture", count); }};
}

Kinds soundKinds() {
  return {{{"sound-lateness", say("in step")},
           {"sound-content", say("equal to the mix")},
           {"sound-level", say("equal to the mix")}},
          [](int64_t count) { return sayCounted("%n half seconds", "%n half second", count); }};
}

/// What comparing the contents has found, a line for each kind.
void checkContents(const Kinds& kinds, const std::map<std::string, Fault>& faults, ProofReport& report) {
  for (const auto& [code, expected] : kinds.checks) {
    const auto at_ = faults.find(code);
    if (at_ == faults.end()) {
      report.checks.push_back({code, expected, expected});
      continue;
    }
    const Fault& f = at_->second;
    for (const double time : f.times) report.curves.marks.push_back({code, time});
    report.checks.push_back(
        {code, expected, say("%1, the first at %2: %3", kinds.counted(f.count), at(f.first), f.what), false});
  }
}

/// The checks that cannot be made, and why.
void leftOut(const Kinds& kinds, const Message& why, ProofReport& report) {
  for (const auto& [code, expected] : kinds.checks) report.checks.push_back({code, expected, why, true, false});
}

const char* layoutWord(int channels) {
  return channels == kMono ? "mono" : channels == kStereo ? "stereo" : "5.1";
}

/// Which channels a file says that its sound has; whether surrounds stand behind or at the sides makes no difference.
/// Where a container has no place for it, six are taken as those of 5.1 by all.
std::string layoutText(const AudioInfo& audio) {
  const bool known = audio.channels <= kStereo || audio.layout.starts_with("5.1") || audio.layout == "6 channels";
  return known ? layoutWord(audio.channels) : std::to_string(audio.channels) + " channels";
}

/// What comparing the pictures has found.
void checkSeen(const ProofSubject& subject, const SeenPictures& seen, ProofReport& report) {
  if (!subject.plan || !subject.traces)
    leftOut(pictureKinds(), say("not compared: the project it was made from is not given"), report);
  else if (!seen.compared)
    leftOut(pictureKinds(), say("not compared: the canvas is another"), report);
  else if (seen.judged == 0)
    leftOut(pictureKinds(), say("cannot be told: the bit rate is too low for any picture to be judged"), report);
  else
    checkContents(pictureKinds(), seen.faults, report);
}

/// How much the pictures are like what was composed; nothing particular is asked for.
void tellLikeness(const SeenPictures& seen, double framesASecond, ProofReport& report) {
  report.curves.likeness = seen.likeness;
  report.curves.framesASecond = framesASecond;
  const auto least = report.curves.leastLike(1);
  if (least.empty()) return;
  report.checks.push_back({"likeness",
                           {},
                           say("SSIM %1 on average, %2 at least, at %3", printed("%.3f", report.curves.meanLikeness()),
                               printed("%.3f", least.front().ssim), at(least.front().at))});
}

/// A loop has no labels, no levels and no buffer.
Status checkLoop(const ProofSubject& subject, const std::stop_token& stop, const std::function<void(int64_t)>& onFrame,
                 ProofReport& report) {
  const Plan& plan = *subject.plan;
  const auto seen = seeLoop(subject.path, plan, subject.traces, stop, onFrame);
  if (!seen) return tl::unexpected(seen.error());
  const auto add = [&](const char* code, const Message& expected, const Message& found) {
    report.checks.push_back({code, expected, found, expected == found});
  };
  add("canvas", verbatim(sized(plan.canvas())), verbatim(sized(seen->size)));
  add("frames", verbatim(std::to_string(plan.frameCount())), verbatim(std::to_string(seen->pictures.frames)));
  add("time-stamps", say("%1 out of step", 0), say("%1 out of step", seen->pictures.outOfStep));
  const auto seconds = [](const Rational& time) { return verbatim(printed("%.3f s", time.toDouble())); };
  // The time of the last picture is rounded by some encoders a millisecond more.
  const Rational tick = Rational(1, infoOf(*plan.encoding().container).ticks) + Rational(1, 1000);
  const Rational off = seen->duration - plan.duration();
  report.checks.push_back(
      {"duration", seconds(plan.duration()), seconds(seen->duration), off < tick && Rational(0) - off < tick});
  const auto shown = [](int times) { return times == 0 ? say("for ever") : sayCounted("%n times", "once", times); };
  add("repeats", shown(0), shown(seen->times));
  const Bars& bars = seen->pictures.bars;
  const bool askedBars = std::any_of(plan.pieces().begin(), plan.pieces().end(),
                                     [](const PlanPiece& p) { return p.uncoveredPercent > 0; });
  report.checks.push_back(
      {"bars", askedBars ? say("as framed") : verbatim("0,0,0,0"), verbatim(barsText(bars)), askedBars || bars.none()});
  checkSeen(subject, seen->pictures, report);
  tellLikeness(seen->pictures, plan.rate().toDouble(), report);
  report.curves.seconds = seen->duration.toDouble();
  return {};
}

Status checkSound(const MediaInfo& media, const ProofSubject& subject, const std::stop_token& stop,
                  ProofReport& report) {
  const Plan* plan = subject.plan;
  const bool expected = plan ? plan->hasSound() : !media.audio.empty();
  const auto formatText = [](const std::string& codec, const std::string& layout, int rate) {
    return codec + " " + layout + " " + std::to_string(rate);
  };
  const std::string format =
      media.audio.empty()
          ? ""
          : formatText(media.audio.front().codec, layoutText(media.audio.front()), media.audio.front().sampleRate);
  SoundEncoding usual;
  usual.codec = SoundCodec::Aac;
  const SoundEncoding& asked = plan ? plan->encoding().sound : usual;
  const SoundCodecInfo& codec = infoOf(*asked.codec);
  const std::string wanted =
      expected ? formatText(std::string(codec.found), layoutWord(asked.channels), asked.sampleRate) : "";
  const auto orNone = [](const std::string& words) { return words.empty() ? say("none") : verbatim(words); };
  report.checks.push_back({"sound", orNone(wanted), orNone(format), format == wanted});
  if (media.audio.empty()) return {};
  if (report.curves.seconds <= 0) report.curves.seconds = media.duration.toDouble();
  const int found = media.audio.front().channels;
  const int channels = subject.traces                         ? subject.traces->channels()
                       : found == kMono || found == kSurround ? found
                                                              : kStereo;
  auto reader = AudioReader::open(readAsStated(media), stop, channels);
  if (!reader) return tl::unexpected(reader.error());
  LoudnessMeter meter(channels);
  std::optional<SoundJudge> judge;
  if (subject.traces && expected) judge.emplace(*subject.traces, plan ? asked.bitRate : 0);
  std::vector<float> buffer(size_t(kSoundRate * channels));
  for (int64_t got = kSoundRate; got == kSoundRate;) {
    const auto read = reader->read(buffer.data(), kSoundRate);
    if (!read) return tl::unexpected(read.error());
    got = *read;
    meter.add(buffer.data(), got);
    if (got > 0) report.curves.loudness.push_back(float(meter.shortTermLufs()));
    if (judge) judge->add({buffer.data(), size_t(got * channels)});
  }
  const AudioReader::Damage damage = reader->damage();
  report.checks.push_back({"sound-decoding", say("all of it whole"),
                           damage.packets == 0
                               ? say("all of it whole")
                               : sayCounted("%n packets damaged, the first at %1", "%n packet damaged, the first at %1",
                                            damage.packets, at(double(damage.first) / kSoundRate)),
                           damage.packets == 0});
  const Loudness loudness = meter.loudness();
  // The decoder hands out the padding of the last AAC frame too: one frame of 1024 samples is the measure.
  const Rational length = plan ? plan->duration() : media.duration;
  const double difference = double(loudness.samples) / kSoundRate - length.toDouble();
  report.checks.push_back({"sound-length", say("within 0.0214 s of the picture"),
                           verbatim(printed("%+.4f s", difference)), std::abs(difference) <= 1024.5 / kSoundRate});
  ProofCheck check{
      "loudness", {}, verbatim(printed("%.1f LUFS, %.1f dBTP", loudness.integratedLufs, loudness.truePeakDbtp))};
  // Loudness is set for the whole running order, so a region has no target of its own.
  if (plan && plan->output().loudnessLufs && plan->regionName().empty()) {
    const double target = *plan->output().loudnessLufs;
    const double peak = plan->output().mostPeakDbtp;
    check.expected = say("%1 LUFS within %2, at most %3 dBTP", printed("%.1f", target),
                         printed("%.1f", kLoudnessTolerance), printed("%.1f", peak));
    report.curves.loudnessTarget = target;
    check.pass = std::abs(loudness.integratedLufs - target) <= kLoudnessTolerance && loudness.truePeakDbtp <= peak;
  }
  report.checks.push_back(check);
  if (!judge) {
    leftOut(soundKinds(), say("not compared: the project it was made from is not given"), report);
    return {};
  }
  const auto faults = judge->faults();
  if (!faults) return tl::unexpected(faults.error());
  checkContents(soundKinds(), *faults, report);
  return {};
}

/// Adds a check for what was damaged or missing in the sources.
void checkLosses(const std::vector<SourceLoss>& losses, ProofReport& report) {
  for (const SourceLoss& loss : losses)
    report.checks.push_back({loss.kind == SourceLoss::Kind::Pictures ? "source-pictures" : "source-sound",
                             say("all there"), lossText(loss), false});
}

} // namespace

Message ProofCheck::title() const {
  static const std::map<std::string, Message> kTitles{
      {"canvas", say("canvas")},
      {"pixel-aspect", say("pixel aspect ratio")},
      {"rate", say("frame rate")},
      {"frames", say("frames")},
      {"time-stamps", say("time stamps")},
      {"duration", say("duration")},
      {"codec", say("codec")},
      {"profile", say("profile")},
      {"level", say("level")},
      {"codec-string", say("codec string")},
      {"decoder-buffer", say("decoder's buffer")},
      {"constant-rate", say("constant bit rate")},
      {"chapters", say("chapter marks")},
      {"light-levels", say("light levels")},
      {"key-distance", say("distance of key frames")},
      {"pixel-format", say("pixel format")},
      {"colour", say("colour labels")},
      {"index-first", say("place of the index")},
      {"decoding", say("decoding")},
      {"bars", say("bars")},
      {"order", say("order of the pictures")},
      {"content", say("contents of the pictures")},
      {"position", say("position of the pictures")},
      {"sharpness", say("sharpness")},
      {"edges", say("edges")},
      {"likeness", say("likeness to what was composed")},
      {"average-bit-rate", say("average bit rate")},
      {"peak-bit-rate", say("peak bit rate")},
      {"sound", say("sound")},
      {"repeats", say("how often it is shown")},
      {"sound-within", say("sound in the file of the picture")},
      {"sound-decoding", say("decoding of the sound")},
      {"sound-length", say("length of the sound")},
      {"loudness", say("loudness")},
      {"sound-lateness", say("sound and picture in step")},
      {"sound-content", say("contents of the sound")},
      {"sound-level", say("level of the sound")},
      {"source-pictures", say("pictures of the sources")},
      {"source-sound", say("sound of the sources")},
  };
  const auto at = kTitles.find(code);
  return at == kTitles.end() ? verbatim(code) : at->second;
}

ProofCurves::Height ProofCurves::bitRateHeight() const {
  constexpr double kFarAbove = 3;
  constexpr double kFree = 1.06;
  double most = 1;
  for (const float bits : bitRate) most = std::max(most, double(bits));
  const bool limited = mostBitRate > 0 && mostBitRate < kFarAbove * most;
  return {kFree * (limited ? std::max(most, mostBitRate) : most), limited};
}

std::vector<ProofCurves::Unlike> ProofCurves::leastLike(size_t most) const {
  std::vector<size_t> order(likeness.size());
  std::iota(order.begin(), order.end(), size_t(0));
  std::stable_sort(order.begin(), order.end(), [this](size_t a, size_t b) { return likeness[a] < likeness[b]; });
  std::vector<Unlike> found;
  for (const size_t frame : order) {
    if (found.size() == most || framesASecond <= 0) break;
    const double at = double(frame) / framesASecond;
    const auto near = [at](const Unlike& other) { return std::abs(other.at - at) < 1; };
    if (std::none_of(found.begin(), found.end(), near)) found.push_back({int64_t(frame), at, likeness[frame]});
  }
  return found;
}

std::vector<float> ProofCurves::likenessIn(size_t parts) const {
  std::vector<float> least(std::min(parts, likeness.size()), 1.0F);
  for (size_t i = 0; i < likeness.size(); ++i) {
    float& part = least[i * least.size() / likeness.size()];
    part = std::min(part, likeness[i]);
  }
  return least;
}

double likenessFloor(double least) {
  for (const double floor : {0.98, 0.95, 0.9, 0.8, 0.5})
    if (least > floor + 0.25 * (1 - floor)) return floor;
  return 0;
}

double ProofCurves::likenessFloor() const {
  return tromb::likenessFloor(likeness.empty() ? 1 : double(*std::min_element(likeness.begin(), likeness.end())));
}

double ProofCurves::meanLikeness() const {
  const double sum = std::accumulate(likeness.begin(), likeness.end(), 0.0);
  return likeness.empty() ? 1 : sum / double(likeness.size());
}

bool ProofReport::passed() const {
  return std::all_of(checks.begin(), checks.end(), [](const ProofCheck& c) { return c.pass; });
}

Message lossText(const SourceLoss& loss) {
  const std::string from = clockText(loss.first);
  if (loss.kind == SourceLoss::Kind::Sound)
    return sayCounted("%n packets of sound from %1 on are damaged or missing in %2",
                      "%n packet of sound at %1 is damaged or missing in %2", loss.count, from, loss.path);
  if (loss.shot.empty())
    return sayCounted("%n frames from %1 on are damaged or missing in %2", "%n frame at %1 is damaged or missing in %2",
                      loss.count, from, loss.path);
  return sayCounted("%n frames from %1 on in '%2' are damaged or missing in %3",
                    "%n frame at %1 in '%2' is damaged or missing in %3", loss.count, from, loss.shot, loss.path);
}

namespace {

/// The file of the picture, and the sound that is in it, unless it lies beside it.
Status checkFilm(const ProofSubject& subject, bool beside, const std::stop_token& stop,
                 const std::function<void(int64_t)>& onFrame, ProofReport& report) {
  const Plan* plan = subject.plan;
  const auto media = probe(subject.path, {.stop = stop, .indexFolder = {}});
  if (!media) return tl::unexpected(media.error());
  if (!plan && media->kind == MediaKind::Audio) return checkSound(*media, subject, stop, report);
  if (media->kind != MediaKind::Video)
    return fail(ErrorCode::NotMedia, say("the file holds no moving picture"), subject.path);
  // Sound is measured in parallel with the pictures; each thread opens the file by itself.
  ProofReport ofSound;
  Beside<Status> sound(stop);
  if (!beside) sound.begin([&, over = sound.token()] { return checkSound(*media, subject, over, ofSound); });
  const auto seen = seePictures(*media, plan, subject.traces, stop, onFrame);
  if (!seen) return tl::unexpected(seen.error());
  checkPicture(*media, plan, *seen, report);
  if (const Status done = checkCodec(*media, plan, report); !done) return done;
  checkLight(*media->video, subject, report);
  if (plan) checkTags(*media, *plan, report);
  checkSeen(subject, *seen, report);
  tellLikeness(*seen, media->video->clock.rate().toDouble(), report);
  if (const Status done = checkPackets(*media, plan, report); !done) return done;
  if (!beside) {
    if (const Status done = sound.take(); !done) return done;
    report.checks.insert(report.checks.end(), ofSound.checks.begin(), ofSound.checks.end());
    report.curves.loudness = std::move(ofSound.curves.loudness);
    report.curves.loudnessTarget = ofSound.curves.loudnessTarget;
    auto& marks = report.curves.marks;
    marks.insert(marks.end(), ofSound.curves.marks.begin(), ofSound.curves.marks.end());
    return {};
  }
  report.checks.push_back(
      {"sound-within", say("none"), media->audio.empty() ? say("none") : say("some"), media->audio.empty()});
  return {};
}

Status checkSoundFile(const ProofSubject& subject, const std::string& path, const std::stop_token& stop,
                      ProofReport& report) {
  const auto media = probe(path, {.stop = stop, .indexFolder = {}});
  if (!media) return tl::unexpected(media.error());
  if (const Status done = checkSound(*media, subject, stop, report); !done) return done;
  if (!subject.plan->encoding().hasPicture()) checkTags(*media, *subject.plan, report);
  return {};
}

} // namespace

Result<ProofReport> proofFile(const ProofSubject& subject, std::stop_token stop,
                              const std::function<void(int64_t)>& onFrame) {
  const Plan* plan = subject.plan;
  const bool alone = plan && !plan->encoding().hasPicture();
  const bool beside = plan && plan->hasSound() && plan->encoding().sound.place == SoundPlace::Beside;
  ProofReport report;
  Status done;
  if (!alone)
    done = plan && plan->encoding().info().loop ? checkLoop(subject, stop, onFrame, report)
                                                : checkFilm(subject, beside, stop, onFrame, report);
  if (done && alone) done = checkSoundFile(subject, subject.path, stop, report);
  if (done && beside) {
    const std::string given = subject.soundPath;
    done = checkSoundFile(subject, given.empty() ? soundPath(subject.path, plan->encoding()) : given, stop, report);
  }
  if (!done) return tl::unexpected(done.error());
  checkLosses(subject.losses, report);
  for (const SourceLoss& loss : subject.losses)
    report.curves.marks.push_back(
        {loss.kind == SourceLoss::Kind::Pictures ? "source-pictures" : "source-sound", loss.first.toDouble()});
  std::stable_sort(report.curves.marks.begin(), report.curves.marks.end(),
                   [](const ProofCurves::Mark& a, const ProofCurves::Mark& b) { return a.at < b.at; });
  return report;
}

Result<TraceFile> composeTraces(const Plan& plan, const std::string& folder, std::vector<SourceLoss>& losses,
                                std::stop_token stop) {
  auto traces = TraceFile::create(folder, plan.canvas(), plan.encoding().sound.channels);
  if (!traces) return traces;
  ElementPainter painter(plan, stop);
  for (const PlanPiece& piece : plan.pieces()) {
    if (piece.frameCount == 0) continue;
    auto source = sourceFor(piece, stop);
    if (!source) return tl::unexpected(source.error());
    auto composer = composerFor(piece);
    if (!composer) return tl::unexpected(composer.error());
    SourceLoss loss{piece.reading.file.path, piece.shot.name, SourceLoss::Kind::Pictures, 0, {}};
    for (int64_t n = 0; n < piece.frameCount; ++n) {
      const auto picture = source->shown(piece.shown(n));
      if (!picture) return tl::unexpected(picture.error());
      if (picture->damaged && loss.count++ == 0) loss.first = plan.rate().timeOf(piece.firstFrame + n);
      auto canvas = composer->compose(picture->frame, piece.placements(n, plan.rate()));
      if (canvas) canvas = painter.paint(piece.firstFrame + n, std::move(*canvas));
      if (!canvas) return tl::unexpected(canvas.error());
      const PictureTrace trace = PictureTrace::of(*canvas, traces->shape(), uint32_t(piece.firstFrame + n));
      if (const Status kept = traces->addPicture(trace, 1); !kept) return tl::unexpected(kept.error());
    }
    if (loss.count > 0) losses.push_back(loss);
  }
  if (!plan.hasSound()) return traces;
  const auto gain = soundGainDb(plan, stop);
  if (!gain) return tl::unexpected(gain.error());
  SoundMix mix(std::vector<Plan>{plan}, *gain, stop);
  int64_t skip = mix.leadIn(0);
  const int64_t end = Rational::nearestProduct(plan.duration(), Rational(kSoundRate));
  for (int64_t done = 0; done < end;) {
    if (stop.stop_requested()) return fail(ErrorCode::Cancelled, say("the proof was stopped"));
    const auto chunk = mix.next(0);
    if (!chunk) return tl::unexpected(chunk.error());
    const int64_t from = std::min(skip, SoundMix::kChunkSamples);
    skip -= from;
    const int64_t count = std::min(end - done, SoundMix::kChunkSamples - from);
    const Status kept = traces->addSound({(*chunk)->data() + from * mix.channels(), size_t(count * mix.channels())});
    if (!kept) return tl::unexpected(kept.error());
    done += count;
  }
  for (const SoundMix::Loss& loss : mix.losses())
    losses.push_back({loss.path, {}, SourceLoss::Kind::Sound, loss.packets, loss.first});
  return traces;
}

nlohmann::ordered_json toJson(const ProofReport& report) {
  constexpr size_t kUnlikeInReport = 5;
  auto list = nlohmann::ordered_json::array();
  for (const ProofCheck& c : report.checks)
    list.push_back({{"code", c.code},
                    {"expected", c.expected.text()},
                    {"found", c.found.text()},
                    {"pass", c.pass},
                    {"made", c.made}});
  auto marks = nlohmann::ordered_json::array();
  for (const ProofCurves::Mark& mark : report.curves.marks) marks.push_back({{"code", mark.code}, {"at", mark.at}});
  auto unlike = nlohmann::ordered_json::array();
  const auto rounded = [](double ssim) { return std::round(ssim * 1e4) / 1e4; };
  for (const ProofCurves::Unlike& each : report.curves.leastLike(kUnlikeInReport))
    unlike.push_back({{"frame", each.frame}, {"at", each.at}, {"ssim", rounded(each.ssim)}});
  auto ssim = nlohmann::ordered_json::array();
  for (const float each : report.curves.likeness) ssim.push_back(rounded(double(each)));
  return {{"pass", report.passed()},
          {"checks", list},
          {"seconds", report.curves.seconds},
          {"bitRate", report.curves.bitRate},
          {"loudness", report.curves.loudness},
          {"ssim", std::move(ssim)},
          {"leastLike", unlike},
          {"marks", marks}};
}

} // namespace tromb
