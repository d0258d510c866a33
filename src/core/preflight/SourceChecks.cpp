// SPDX-License-Identifier: GPL-3.0-or-later
#include "Printed.h"
#include "media/read/FileIndex.h"
#include "preflight/Checking.h"
#include "time/Timecode.h"

#include <algorithm>
#include <unordered_map>

namespace tromb {
namespace {

constexpr size_t kNamedShots = 5; ///< of those that a finding is of; the rest is counted

/// The shots that show each source, in running order: they are made from it, or lie on it in some deliverable.
std::unordered_map<std::string_view, std::vector<const Shot*>> shotsBySource(const Project& project) {
  std::unordered_map<std::string_view, std::vector<const Shot*>> shown;
  for (const Shot& shot : project.shots) {
    const auto add = [&](std::string_view source) {
      std::vector<const Shot*>& all = shown[source];
      if (all.empty() || all.back() != &shot) all.push_back(&shot);
    };
    add(shot.source);
    for (const Deliverable& d : project.deliverables)
      if (const auto framing = d.framings.find(shot.id);
          framing != d.framings.end() && framing->second.liesOn(framing->second.still))
        add(framing->second.still);
  }
  return shown;
}

/// A finding of a source, with the shots that show it.
void findOf(Checking& c, const Source& source, const std::vector<const Shot*>& shots, const char* code, Message message,
            Message fix) {
  Finding& f = c.find(code, nullptr, nullptr, std::move(message), std::move(fix));
  f.sourceId = source.id;
  if (!shots.empty()) f.shotId = shots.front()->id;
  for (size_t i = 0; i < std::min(shots.size(), kNamedShots); ++i) f.shot += (i == 0 ? "" : ", ") + shots[i]->name;
  if (shots.size() > kNamedShots) f.shot += " and " + std::to_string(shots.size() - kNamedShots) + " more";
}

void checkFiles(Checking& c) {
  const auto shown = shotsBySource(c.project);
  static const std::vector<const Shot*> kNone;
  for (const Source& source : c.project.sources) {
    const auto known = shown.find(source.id);
    const std::vector<const Shot*>& shots = known == shown.end() ? kNone : known->second;
    if (c.grounds.changed.contains(source.id))
      findOf(c, source, shots, "source-changed",
             say("%1 is another file than it was when it was brought in", source.path),
             say("Look at its shots, or find the file that it was"));
    const auto at = c.footage.find(source.id);
    if (at == c.footage.end() || at->second) continue;
    const Error& error = at->second.error();
    // Its hint is left out: there is one for the project.
    const Message what = error.where.empty() ? say("%1: %2", error.path, error.message)
                                             : say("%1: %2 (at %3)", error.path, error.message, error.where);
    if (error.code == ErrorCode::Missing)
      findOf(c, source, shots, "source-missing", what, say("Put the file back or remove the shot"));
    else
      findOf(c, source, shots, "source-unreadable", what, say("Replace the file or remove the shot"));
  }
}

/// What is done with a shot's pictures, whatever the framing.
void checkPictures(Checking& c, const Shot& shot, const Source& source, const MediaInfo& media) {
  const Reading reading = readingOf(source, media);
  const bool moving = media.kind == MediaKind::Video;
  if (moving && reading.scan != Scan::Progressive)
    c.find("interlaced", nullptr, &shot,
           say("the footage is interlaced and is de-interlaced, to frames or where its rate needs them to fields"));
  if (media.index && media.index->backward + int64_t(media.index->jumps.size()) > 0)
    c.find("backward-stamps", nullptr, &shot,
           sayCounted(
               "the file's time stamps go back or jump at %n places: its pictures are put in order, and time goes on "
               "evenly there",
               "the file's time stamps go back or jump at one place: its pictures are put in order, and time goes on "
               "evenly there",
               media.index->backward + int64_t(media.index->jumps.size())),
           say("Watch it there, or copy the file again from where it was recorded"));
  const Measured* measured = c.measured(source.id);
  constexpr double kManyRepeated = 0.15;
  const auto cycle = moving && measured ? measured->repeats : std::nullopt;
  if (cycle && !source.repeats)
    c.find("repeated-pictures", nullptr, &shot,
           say("its pictures were made at %1 and are repeated to %2", cycle->clockOf(media.video->clock).rate().name(),
               media.video->clock.rate().name()),
           say("Take it at %1 in the footage, so that each is shown evenly",
               cycle->clockOf(media.video->clock).rate().name()));
  else if (moving && measured && !cycle && measured->repeated >= kManyRepeated)
    c.find("repeated-pictures", nullptr, &shot,
           say("about %1 % of its pictures repeat the one before, in no fixed order",
               printed("%.0f", measured->repeated * 100)),
           say("Watch how it moves; a lower rate may show no fewer pictures"));
  if (moving && reading.scan == Scan::Progressive && measured &&
      measured->scan.value_or(Scan::Progressive) != Scan::Progressive)
    c.find("combed", nullptr, &shot, say("the pictures show the comb of two fields, and are read as progressive"),
           say("Let the source be read as interlaced"));
  if (media.video->alpha)
    c.find("transparent", nullptr, &shot,
           say("the picture may be transparent: what lies under it shows through, else the framing's colour"));
  const bool hdr = isHdr(colourOf(source, *media.video));
  const auto into = [&c](bool high) {
    return std::any_of(c.project.deliverables.begin(), c.project.deliverables.end(),
                       [high](const Deliverable& d) { return isHdr(d.format.colour) == high; });
  };
  if (hdr && into(false))
    c.find("hdr", nullptr, &shot, say("the footage is HDR: its highlights are rolled off in Rec. 709"),
           say("Look at bright parts, or deliver in HLG or PQ"));
  if (!hdr && into(true))
    c.find("sdr-in-hdr", nullptr, &shot,
           say("the footage is not HDR: its white is as bright as a page, not as a light"),
           say("Deliver in Rec. 709, or grade it before"));
}

} // namespace

void checkSources(Checking& c) {
  checkFiles(c);
  for (const Shot& shot : c.project.shots) {
    const MediaInfo* media = c.media(shot.source);
    if (!media || !media->video) continue;
    if (const auto beyond = secondsBeyondSource(shot, *media)) {
      Finding& f =
          c.find("beyond-source", nullptr, &shot, say("the shot ends %1 after its source does", clockText(*beyond)),
                 say("Set its out point anew, or find the whole file again"));
      if (shot.in < media->duration)
        f.fixes = {{say("End it with its source"), {}, [end = media->duration](Shot& each) {
                      each.out = end;
                      bringOnTicks(each);
                    }}};
    }
    checkPictures(c, shot, *c.source(shot.source), *media);
  }
}

} // namespace tromb
