// SPDX-License-Identifier: GPL-3.0-or-later
#include "preflight/Preflight.h"

#include "destination/NewDeliverable.h"
#include "geometry/LegalSize.h"
#include "media/SoundFormat.h"
#include "media/write/Available.h"
#include "preflight/Limits.h"
#include "project/Choices.h"
#include "time/Cadence.h"
#include "time/Timecode.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdio>
#include <nlohmann/json.hpp>

namespace tromb {
namespace {

/// The time in which something may cross the picture without judder: the trade's seven-second rule (common practice, no
/// published source).
constexpr double kSecondsAWidth = 7;
constexpr int kNamedShots = 5; ///< of those that a finding is of; the rest is counted

std::string withOneDecimal(double value) {
  std::array<char, 32> text{};
  std::snprintf(text.data(), text.size(), "%.1f", value);
  return text.data();
}

/// What this version does not do with a source: said before the export, not found after it.
void checkFootage(const Project& project, const Footage& footage, std::vector<Finding>& findings) {
  for (const Shot& shot : project.shots) {
    const auto at = footage.find(shot.source);
    if (at == footage.end() || !at->second || !at->second->video) continue;
    const MediaInfo& media = *at->second;
    const Reading reading = readingOf(*project.source(shot.source), media);
    if (media.kind == MediaKind::Video && reading.scan != Scan::Progressive)
      findings.push_back({"interlaced",
                          Severity::Note,
                          "",
                          shot.name,
                          say("the footage is interlaced and is de-interlaced, one picture of each pair of fields"),
                          {}});
    if (const auto beyond = secondsBeyondSource(shot, media))
      findings.push_back({"beyond-source", Severity::Error, "", shot.name,
                          say("the shot ends %1 after its source does", clockText(*beyond)),
                          say("Set its out point anew, or find the whole file again")});
    if (media.video->alpha)
      findings.push_back(
          {"transparent",
           Severity::Note,
           "",
           shot.name,
           say("the picture may be transparent: what lies under it shows through, else the framing's colour"),
           {}});
    const auto heardIn = [&project](int channels) {
      return std::any_of(project.deliverables.begin(), project.deliverables.end(), [channels](const Deliverable& d) {
        return d.encoding.sound.place != SoundPlace::None && d.encoding.sound.channels == channels;
      });
    };
    for (const int place : reading.heard) {
      const AudioInfo& sound = media.audio[size_t(place)];
      if (sound.downMixDb <= 0 || shot.muted || (!heardIn(kStereo) && !heardIn(kMono))) continue;
      findings.push_back(
          {"down-mixed",
           Severity::Note,
           "",
           shot.name,
           heardIn(kStereo) ? say("%1 channels are mixed down to stereo, %2 dB lower so that nothing clips",
                                  sound.channels, withOneDecimal(sound.downMixDb))
                            : say("%1 channels are mixed down to mono, lowered so that nothing clips", sound.channels),
           {}});
    }
    const bool inSdr = std::any_of(project.deliverables.begin(), project.deliverables.end(),
                                   [](const Deliverable& d) { return !isHdr(d.format.colour); });
    if (isHdr(colourOf(*project.source(shot.source), *media.video)) && inSdr)
      findings.push_back({"hdr", Severity::Note, "", shot.name,
                          say("the footage is HDR: its highlights are rolled off in Rec. 709"),
                          say("Look at bright parts, or deliver in HLG or PQ")});
    if (shot.speed != Rational(1) && !media.audio.empty())
      findings.push_back(
          {"silent-speed", Severity::Note, "", shot.name, say("shots with a changed speed have no sound"), {}});
  }
}

/// True when a shot lies on a source's picture in some deliverable.
bool liesOn(const Project& project, const std::string& shot, const std::string& source) {
  return std::any_of(project.deliverables.begin(), project.deliverables.end(),
                     [&](const Deliverable& d) { return d.framingOf(shot).liesOn(source); });
}

/// A still under a picture is seen, too: it is not to be enlarged unknown.
void checkStill(const Project& project, const Footage& footage, const Deliverable& d, const Shot& shot,
                std::vector<Finding>& findings) {
  const Framing framing = d.framingOf(shot.id);
  const auto at = framing.liesOn(framing.still) ? footage.find(framing.still) : footage.end();
  if (at == footage.end() || !at->second || !at->second->video) return;
  const PictureShape shape = shapeIn(d, *project.source(framing.still), *at->second->video);
  const double sharp = detail(shape, place(shape, d.canvas, Framing()));
  if (sharp >= kSharpDetail) return;
  findings.push_back({"soft-still", Severity::Warning, d.name, shot.name,
                      say("the still under the picture is enlarged: detail %1, below 1.00", detailText(sharp)),
                      say("Take a larger still, or another ground")});
}

void checkSources(const Project& project, const Footage& footage, std::vector<Finding>& findings) {
  for (const Source& source : project.sources) {
    const auto at = footage.find(source.id);
    if (at == footage.end() || at->second) continue;
    const bool missing = at->second.error().code == ErrorCode::Missing;
    std::string shots;
    int more = -kNamedShots;
    for (const Shot& shot : project.shots)
      if ((shot.source == source.id || liesOn(project, shot.id, source.id)) && ++more <= 0)
        shots += (shots.empty() ? "" : ", ") + shot.name;
    if (more > 0) shots += " and " + std::to_string(more) + " more";
    const Error& error = at->second.error();
    // Its hint is left out: there is one for the project.
    Message what = error.where.empty() ? say("%1: %2", error.path, error.message)
                                       : say("%1: %2 (at %3)", error.path, error.message, error.where);
    findings.push_back(
        {missing ? "source-missing" : "source-unreadable", Severity::Error, "", shots, std::move(what),
         missing ? say("Put the file back or remove the shot") : say("Replace the file or remove the shot")});
  }
}

void checkCanvas(const Deliverable& d, std::vector<Finding>& findings) {
  if (isLegalSize(d.canvas)) return;
  const auto [lowW, highW] = legalNeighbours(d.canvas.width);
  const auto [lowH, highH] = legalNeighbours(d.canvas.height);
  findings.push_back({"odd-size",
                      Severity::Error,
                      d.name,
                      "",
                      say("4:2:0 video cannot have %1: both sides must be even", sizeText(d.canvas)),
                      say("Use %1 or %2", sizeText({lowW, lowH}), sizeText({highW, highH})),
                      {},
                      {},
                      {{say("Use %1", sizeText({lowW, lowH})),
                        [size = Size{lowW, lowH}](Deliverable& each) { chooseCanvas(each, size); }}}});
}

void checkEncoding(const Deliverable& d, std::vector<Finding>& findings) {
  const Encoding e = resolvedEncoding(d);
  const auto tell = [&](const char* code, const Status& holds, Fix fix) {
    if (!holds) findings.push_back({code, Severity::Error, d.name, "", holds.error().message, holds.error().hint});
    if (!holds) findings.back().fixes = {std::move(fix)};
  };
  tell("settings", encodable(e, pictureOf(d)),
       {say("Make it possible"), [](Deliverable& each) { makeEncodable(each); }});
  const bool silent = e.sound.place == SoundPlace::None;
  for (const Message& why :
       {e.hasPicture() ? whyUnavailable(e.codec) : Message(), silent ? Message() : whyUnavailable(*e.sound.codec)})
    if (!why.empty()) findings.push_back({"settings", Severity::Error, d.name, "", why, say("Choose another codec")});
  tell("level-too-low", levelCarries(e, pictureOf(d)), {say("The lowest level that carries it"), [](Deliverable& each) {
                                                          each.encoding.level.clear();
                                                          each.encoding.highTier = false;
                                                        }});
}

/// What its destination does not take.
void checkLimits(const Project& project, const Deliverable& d, std::vector<Finding>& findings) {
  for (const SpecLine& line : limitLines(project, d))
    if (line.standing == Standing::Broken)
      findings.push_back({line.code,
                          line.weight,
                          d.name,
                          "",
                          say("%1: %2", line.what, line.value),
                          line.fixes.empty() ? line.reason : line.fixes.front().words,
                          {},
                          {},
                          line.fixes});
}

/// A deliverable of sound alone needs some.
void checkHeard(const Project& project, const Footage& footage, const Deliverable& d, std::vector<Finding>& findings) {
  if (!hasSound(project, footage))
    findings.push_back({"no-sound", Severity::Error, d.name, "", say("there is no sound in the running order"),
                        say("Bring in sound, or deliver the picture too")});
}

/// The same windows, but each covers its share of the canvas.
Fix filling(const std::string& shot) {
  return {say("Fill the canvas"), [shot](Deliverable& d) {
            Framing framing = d.framingOf(shot);
            for (Window& window : framing.windows) window.base = WindowBase::Fill;
            d.framings[shot] = framing;
          }};
}

struct Cell {
  const Shot* shot;
  PictureShape shape;
  double detail;
  double uncovered;
  double travel; ///< window widths a second of running order
};

void checkCells(const Deliverable& d, const std::vector<Cell>& cells, std::vector<Finding>& findings) {
  for (const Cell& cell : cells) {
    if (cell.uncovered > 0) {
      findings.push_back({"bars",
                          Severity::Warning,
                          d.name,
                          cell.shot->name,
                          say("bars over %1 % of the canvas", withOneDecimal(cell.uncovered)),
                          say("Fill the canvas, or show the whole picture over a backdrop"),
                          {},
                          {},
                          {filling(cell.shot->id)}});
    }
    if (cell.detail < kSharpDetail)
      findings.push_back(
          {"soft", d.sharpOnly ? Severity::Error : Severity::Warning, d.name, cell.shot->name,
           d.sharpOnly ? say("the picture is enlarged: detail %1, below 1.00, in a deliverable that is never to be",
                             detailText(cell.detail))
                       : say("the picture is enlarged: detail %1, below 1.00", detailText(cell.detail)),
           say("Zoom out, use two stacked windows or a backdrop, or make the canvas smaller")});
  }
  for (const Cell& cell : cells) {
    if (cell.travel <= 1 / kSecondsAWidth) continue;
    findings.push_back({"fast-move", Severity::Note, d.name, cell.shot->name,
                        say("the framing travels a picture's width in %1 s", withOneDecimal(1 / cell.travel)),
                        say("Give the move more time or a shorter way; the usual measure is 7 s a width")});
  }
  // A canvas that none of its pictures can fill sharply is too large in itself.
  Size best{};
  for (const Cell& cell : cells) {
    const Size sharp = largestSharpCanvas(cell.shape, d.canvas.ratio());
    if (sharp.width > best.width) best = sharp;
  }
  if (!cells.empty() && (best.width < d.canvas.width * kSharpDetail || best.height < d.canvas.height * kSharpDetail))
    findings.push_back(
        {"enlarged-canvas", Severity::Warning, d.name, "",
         say("the canvas %1 is larger than any shot can fill without enlarging", sizeText(d.canvas)),
         best.width > 0 ? say("The largest canvas of this shape that stays sharp is %1", sizeText(best)) : Message()});
  if (best.width > 0 && !findings.empty() && findings.back().code == "enlarged-canvas" &&
      findings.back().deliverable == d.name)
    findings.back().fixes = {{say("Use %1", sizeText(best)), [best](Deliverable& each) { chooseCanvas(each, best); }}};
}

} // namespace

std::vector<Finding> preflight(const Project& project, const Footage& footage,
                               const std::vector<std::string>& deliverableIds) {
  std::vector<Finding> findings;
  checkSources(project, footage, findings);
  checkFootage(project, footage, findings);
  for (const Deliverable& d : project.deliverables) {
    if (!deliverableIds.empty() &&
        std::find(deliverableIds.begin(), deliverableIds.end(), d.id) == deliverableIds.end())
      continue;
    checkEncoding(d, findings);
    checkLimits(project, d, findings);
    if (d.encoding.sound.place == SoundPlace::Alone) { // how it is framed does not matter
      checkHeard(project, footage, d, findings);
      continue;
    }
    checkCanvas(d, findings);
    std::vector<Cell> cells;
    for (const Shot& shot : project.shots) {
      const auto at = footage.find(shot.source);
      if (at == footage.end() || !at->second || !at->second->video) continue;
      const VideoInfo& video = *at->second->video;
      const PictureShape shape = shapeIn(d, *project.source(shot.source), video);
      const Framing framing = framingIn(d, shot, shape);
      const double in = shot.in.toDouble();
      const double out = shot.out.toDouble();
      checkStill(project, footage, d, shot, findings);
      const Shortfall least = worst(shape, d.canvas, framing, shot.subjects, in, out);
      const double speed = fastestTravel(shape, d.canvas, framing, shot.subjects, in, out) * shot.speed.toDouble();
      cells.push_back({&shot, shape, least.detail, least.uncoveredPercent, speed});
      const Cadence cadence(video.clock.rate(), d.rate, shot.speed);
      const bool slowMotion = project.source(shot.source)->slowMotion;
      if (at->second->kind == MediaKind::Video && !slowMotion && (video.clock.variable() || !cadence.even()))
        findings.push_back(
            {"rate-mismatch", Severity::Note, d.name, shot.name, cadenceText(video.clock, d.rate, shot.speed),
             video.clock.variable() ? Message() : say("Deliver at the rate that was shot for even motion")});
      if (const FrameRate shotAt = matchedRate(d.destination, video.clock.rate());
          !findings.empty() && findings.back().code == "rate-mismatch" && findings.back().shot == shot.name &&
          !video.clock.variable() && Cadence(video.clock.rate(), shotAt, shot.speed).even())
        findings.back().fixes = {
            {say("Deliver at %1", shotAt.name()), [shotAt](Deliverable& each) { each.rate = shotAt; }}};
    }
    checkCells(d, cells, findings);
  }
  // Names of deliverables are their own; those of shots need not be, and a finding of several names no one shot.
  for (Finding& f : findings) {
    if (const Deliverable* d = project.deliverableNamed(f.deliverable)) f.deliverableId = d->id;
    const auto named = [&f](const Shot& shot) { return shot.name == f.shot; };
    if (f.shotId.empty() && !f.shot.empty())
      if (const auto shot = std::find_if(project.shots.begin(), project.shots.end(), named);
          shot != project.shots.end())
        f.shotId = shot->id;
  }
  std::stable_sort(findings.begin(), findings.end(),
                   [](const Finding& a, const Finding& b) { return a.severity > b.severity; });
  return findings;
}

const char* severityWord(Severity severity) {
  return severity == Severity::Error ? "error" : severity == Severity::Warning ? "warning" : "note";
}

nlohmann::ordered_json toJson(const std::vector<Finding>& findings) {
  auto list = nlohmann::ordered_json::array();
  for (const Finding& f : findings)
    list.push_back({{"code", f.code},
                    {"severity", severityWord(f.severity)},
                    {"deliverable", f.deliverable},
                    {"shot", f.shot},
                    {"message", f.message.text()},
                    {"fix", f.fix.text()}});
  return {{"findings", list}};
}

std::string detailText(double detail) {
  std::array<char, 32> text{};
  // Rounded down: 0.999 must not read as sharp.
  std::snprintf(text.data(), text.size(), "%.2f", std::floor(detail * 100 + 1e-6) / 100);
  return text.data();
}

std::string sizeText(Size size) {
  return std::to_string(size.width) + "×" + std::to_string(size.height);
}

} // namespace tromb
