// SPDX-License-Identifier: GPL-3.0-or-later
#include "preflight/Spec.h"

#include "Printed.h"
#include "copy/ShotCopy.h"
#include "destination/NewDeliverable.h"
#include "geometry/LegalSize.h"
#include "media/write/Available.h"
#include "preflight/Density.h"
#include "preflight/Hindrances.h"
#include "preflight/Limits.h"
#include "preflight/Preflight.h"
#include "project/Choices.h"
#include "project/Timing.h"
#include "time/Cadence.h"
#include "time/Timecode.h"

#include <algorithm>
#include <cmath>

namespace tromb {
namespace {

constexpr int kLeastCanvas = 240; ///< pixels a side; nothing smaller is worth offering

/// "244 800": thousands apart, by thin spaces.
std::string grouped(int64_t number) {
  std::string digits = std::to_string(number);
  for (int at = int(digits.size()) - 3; at > 0; at -= 3) digits.insert(size_t(at), "\u202f");
  return digits;
}

/// Who can play a file.
Message playersText(const Encoding& e, const CanvasFormat& format) {
  if (!e.hasPicture()) return say("everything that plays sound");
  const LevelTable* levels = e.info().levels;
  return e.info().playedBy({format.depth, format.chroma}, levels ? levels->byName(e.level)->idc : 0);
}

void addPlaying(const Deliverable& d, const Encoding& e, std::vector<SpecLine>& lines) {
  const auto line = [&](const char* code, Message what, Message value, Standing standing = Standing::Told,
                        Message reason = {}, std::vector<Fix> fixes = {}) {
    lines.push_back(
        {code, SpecTopic::Playing, standing, std::move(what), std::move(value), std::move(reason), std::move(fixes)});
  };
  std::optional<Hindrance> hindrance; // of the level, or of the buffer alone
  for (Hindrance& each : hindrances(e, pictureOf(d))) {
    if (each.by == Hindrance::By::Level || each.by == Hindrance::By::Buffer) {
      hindrance = std::move(each);
      continue;
    }
    const bool profile = each.by == Hindrance::By::Profile;
    line(profile ? "profile" : "settings", profile ? say("Profile") : say("Settings"), each.why.message,
         Standing::Broken, each.why.hint, {*mending(each.by, d)});
  }
  for (const Message& why : {e.hasPicture() ? whyUnavailable(e.codec) : Message(),
                             e.sound.place == SoundPlace::None ? Message() : whyUnavailable(*e.sound.codec)})
    if (!why.empty()) line("settings", say("Settings"), why, Standing::Broken, say("Choose another codec"));
  if (!e.hasPicture()) {
    line("players", say("Played by"), playersText(e, d.format));
    return;
  }
  if (!isLegalSize(d.canvas)) {
    const auto [lowW, highW] = legalNeighbours(d.canvas.width);
    const auto [lowH, highH] = legalNeighbours(d.canvas.height);
    const auto use = [](Size size) {
      return Fix{say("Use %1", sizeText(size)), [size](Deliverable& each) { chooseCanvas(each, size); }};
    };
    line("size", say("Canvas"), say("video cannot have %1", sizeText(d.canvas)), Standing::Broken,
         say("Both sides must be even"), {use({lowW, lowH}), use({highW, highH})});
    return;
  }
  const PictureCodec& codec = e.info();
  const Level* level = codec.levels ? codec.levels->byName(e.level) : nullptr;
  const auto brokenBy = [&](Hindrance::By by) { return hindrance && hindrance->by == by; };
  const auto fixesOf = [&](Hindrance::By by) {
    const auto fix = mending(by, d);
    return fix ? std::vector<Fix>{*fix} : std::vector<Fix>();
  };
  if (level) {
    const bool broken = brokenBy(Hindrance::By::Level);
    line("level", say("Level"),
         hindrance || !d.encoding.level.empty() ? codecText(e) : say("%1, the lowest that carries it", codecText(e)),
         broken ? Standing::Broken : Standing::Met, broken ? hindrance->why.message : Message(),
         broken ? fixesOf(Hindrance::By::Level) : std::vector<Fix>());
  } else {
    line("level", say("Codec"), codecText(e));
  }
  line("players", say("Played by"), playersText(e, d.format));
  constexpr int kMacroblock = 256; // samples: 16 by 16
  const auto roundUp = [](int side) { return int64_t(side + 15) / 16 * 16; };
  const Rational blocks = Rational(roundUp(d.canvas.width) * roundUp(d.canvas.height) / kMacroblock) * d.rate.value();
  const double pixels = double(d.canvas.width) * d.canvas.height * d.rate.toDouble();
  line("work", say("To decode"),
       say("%1 million pixels, %2 macroblocks a second", decimals(pixels / 1e6, 1), grouped(blocks.nearest())));
  const int64_t coded = codec.levels ? codec.levels->codedSamples(d.canvas) : int64_t(d.canvas.width) * d.canvas.height;
  const int pictures = 1 + (level && !codec.intra ? codec.levels->maxReferences(*level, d.canvas) : 1);
  const double planes = d.format.chroma == Chroma::C420 ? 1.5 : d.format.chroma == Chroma::C422 ? 2 : 3;
  const double bytes = double(coded) * planes * (d.format.depth > 8 ? 2 : 1) * pictures;
  line("memory", say("Memory"),
       sayCounted("%1 MB for %n pictures", "%1 MB for one picture", pictures, decimals(bytes / 1e6, 0)));
  if (e.bufferBits > 0 && codec.holdsPeak && *e.rateControl != RateControl::ConstantQuality) {
    const bool broken = brokenBy(Hindrance::By::Buffer);
    line("buffer", say("Buffer"),
         say("%1 Mb, %2 s at the peak of %3", decimals(double(e.bufferBits) / 1e6, 1),
             decimals(double(e.bufferBits) / double(e.maxBitRate), 1), bitRateText(e.maxBitRate)),
         broken ? Standing::Broken : Standing::Told, broken ? hindrance->why.message : Message(),
         broken ? fixesOf(Hindrance::By::Buffer) : std::vector<Fix>());
  }
}

/// `copying`: the plan of a deliverable that copies, else null.
void addSize(const Rational& length, const Deliverable& d, const Encoding& e, const Plan* copying,
             const SpecGrounds& grounds, std::vector<SpecLine>& lines) {
  if (const auto density = densityOf(d, e)) {
    const bool byQuality = *e.rateControl == RateControl::ConstantQuality;
    lines.push_back({"density",
                     SpecTopic::Size,
                     *density == Density::Blocky ? Standing::Broken
                     : *density == Density::Good ? Standing::Met
                                                 : Standing::Near,
                     byQuality ? say("Quality") : say("Bits a pixel"),
                     byQuality ? densityWords(*density) : say("%1: %2", bitsAPixelText(d, e), densityWords(*density)),
                     {},
                     *density == Density::Good ? std::vector<Fix>() : std::vector<Fix>{usualDensity(e)}});
  }
  if (length <= Rational(0)) {
    lines.push_back({"bytes",
                     SpecTopic::Size,
                     Standing::Told,
                     say("File"),
                     say("depends on the length: there is no shot yet"),
                     {},
                     {}});
    return;
  }
  const auto measured = grounds.measured(d);
  const auto bytes = measured ? measured : copying ? expectedBytes(*copying) : expectedBytes(e, length);
  lines.push_back({"bytes",
                   SpecTopic::Size,
                   Standing::Told,
                   say("File"),
                   measured ? say("%1 for %2, by a sample", bytesText(*bytes), clockText(length))
                   : bytes  ? say("about %1 for %2", bytesText(*bytes), clockText(length))
                            : say("depends on the pictures: a sample tells"),
                   {},
                   {}});
  if (bytes)
    lines.push_back(
        {"sending",
         SpecTopic::Size,
         Standing::Told,
         say("To send"),
         *bytes * 8 < grounds.lineSpeed
             ? say("less than a second at %1", bitRateText(grounds.lineSpeed))
             : say("%1 at %2", clockText(Rational(*bytes * 8, grounds.lineSpeed)), bitRateText(grounds.lineSpeed)),
         {},
         {}});
}

/// What a deliverable that copies can copy, as far as that is told without reading files.
void addCopies(const Plan& plan, std::vector<SpecLine>& lines) {
  int64_t shots = 0;
  int64_t copied = 0;
  Message why;
  for (const PlanPiece& piece : plan.pieces()) {
    if (piece.frameCount == 0) continue;
    ++shots;
    WhyEncoded encoded = whyEncoded(plan, piece);
    copied += encoded.why.empty() ? 1 : 0;
    if (why.empty() && !encoded.why.empty()) why = say("'%1': %2", piece.shot.name, encoded.why);
  }
  lines.push_back({"copying",
                   SpecTopic::Playing,
                   copied == shots ? Standing::Met : Standing::Near,
                   say("Copied"),
                   copied == shots
                       ? sayCounted("all %n shots; a check tells their cuts", "the shot; a check tells its cuts", shots)
                       : sayCounted("at most %1 of %n shots", "not the shot", shots, copied),
                   std::move(why),
                   {}});
}

/// What is done with a source's pictures on their way to the deliverable.
std::vector<Message> treatmentOf(const Source& source, const MediaInfo& media, const Deliverable& d) {
  std::vector<Message> done;
  const Reading reading = readingOf(source, media);
  const VideoInfo& video = *media.video;
  if (media.kind == MediaKind::Video && reading.scan != Scan::Progressive) done.push_back(say("de-interlaced"));
  const ColourTags from = colourOf(source, video);
  if (isHdr(from) && !isHdr(d.format.colour)) done.push_back(say("tone-mapped to Rec. 709"));
  if (!isHdr(from) && isHdr(d.format.colour)) done.push_back(say("put at reference white"));
  if (media.kind == MediaKind::Video && !isHdr(from) && !isHdr(d.format.colour) &&
      from.matrix != d.format.colour.matrix)
    done.push_back(say("its matrix converted"));
  if (!source.bars.none()) done.push_back(say("burned-in bars cut away"));
  return done;
}

void addSources(const Project& project, const Footage& footage, const Deliverable& d, std::vector<SpecLine>& lines) {
  if (d.encoding.sound.place == SoundPlace::Alone) return;
  for (const SourceInCanvas& each : sourcesIn(project, footage, d)) {
    const Source& source = *project.source(each.source);
    const MediaInfo& media = *footage.at(each.source);
    SpecLine line{"source", SpecTopic::Source, Standing::Met, verbatim(each.name), {}, {}, {}};
    line.value = say("detail %1", detailText(each.detail));
    if (each.uncoveredPercent > 0) {
      line.standing = Standing::Broken;
      line.value = say("bars over %1 %", decimals(each.uncoveredPercent, 1));
    } else if (each.detail < kSharpDetail) {
      line.standing = Standing::Near;
      line.value = say("soft %1", detailText(each.detail));
      const Size sharp = largestSharpCanvas(each.shape, d.canvas.ratio());
      if (std::min(sharp.width, sharp.height) >= kLeastCanvas)
        line.fixes.push_back({say("Use %1", sizeText(sharp)), [sharp](Deliverable& x) { chooseCanvas(x, sharp); }});
    }
    if (media.kind == MediaKind::Video && !source.slowMotion) {
      const ShotCadence cadence = cadenceIn(d, wholeShot(d, source, media), source, media);
      const FrameClock& clock = cadence.clock;
      const FrameRate shot = cadence.byFields ? media.video->clock.rate() : clock.rate();
      const Rational speed = *cadence.frames.time().speed();
      const Message words = cadenceWords(clock, d.rate, speed);
      line.value = speed == Rational(1) ? say("%1 · %2: %3", line.value, shot.name(), words)
                                        : say("%1 · %2: %3 at %4", line.value, shot.name(), words, speedText(speed));
      const FrameRate matched = matchedRate(d.destination, shot);
      if (!clock.variable() && !Cadence(clock.rate(), d.rate, speed).even()) {
        if (line.standing == Standing::Met) line.standing = Standing::Near;
        if (matched != d.rate && Cadence(shot, matched).even())
          line.fixes.insert(line.fixes.begin(),
                            {say("Deliver at %1", matched.name()), [matched](Deliverable& x) { x.rate = matched; }});
      }
    }
    for (const Message& done : treatmentOf(source, media, d)) line.value = say("%1 · %2", line.value, done);
    lines.push_back(std::move(line));
  }
}

} // namespace

std::vector<SourceInCanvas> sourcesIn(const Project& project, const Footage& footage, const Deliverable& d) {
  std::vector<SourceInCanvas> found;
  for (const Source& source : project.sources) {
    const auto at = footage.find(source.id);
    if (at == footage.end() || !at->second || !at->second->video) continue;
    SourceInCanvas one;
    one.source = source.id;
    one.name = sourceName(source);
    one.shape = shapeIn(d, source, *at->second->video);
    const Shortfall filling = worst(one.shape, d.canvas, one.framing, {}, 0, 0);
    one.detail = filling.detail;
    one.uncoveredPercent = filling.uncoveredPercent;
    bool shown = project.shots.empty();
    bool first = true;
    for (const Shot& shot : project.shots) {
      if (shot.source != source.id) continue;
      shown = true;
      const Framing framing = framingIn(d, shot, one.shape);
      const Shortfall least =
          worst(one.shape, d.canvas, framing, shot.subjects, shot.in.toDouble(), shot.out.toDouble());
      const bool worse = least.uncoveredPercent > one.uncoveredPercent ||
                         (least.uncoveredPercent == one.uncoveredPercent && least.detail < one.detail);
      if (!first && !worse) continue;
      first = false;
      one.framing = framing;
      one.detail = least.detail;
      one.uncoveredPercent = least.uncoveredPercent;
      one.subjects = shot.subjects;
      one.seconds = (shot.in + shot.out) / Rational(2);
    }
    if (shown) found.push_back(std::move(one));
  }
  return found;
}

std::vector<SpecLine> specLines(const Project& project, const Footage& footage, const Deliverable& d,
                                const SpecGrounds& grounds) {
  std::vector<SpecLine> lines;
  const Encoding e = resolvedEncoding(d);
  addSources(project, footage, d, lines);
  addPlaying(d, e, lines);
  std::optional<Plan> copying;
  if (d.encoding.copies && d.encoding.info().joins)
    if (auto plan = planWith(project, footage, d)) copying.emplace(std::move(*plan));
  if (copying) addCopies(*copying, lines);
  addSize(durationIn(project, footage, d), d, e, copying ? &*copying : nullptr, grounds, lines);
  for (SpecLine& line : limitLines(project, footage, d, grounds)) lines.push_back(std::move(line));
  return lines;
}

} // namespace tromb
