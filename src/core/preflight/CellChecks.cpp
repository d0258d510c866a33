// SPDX-License-Identifier: GPL-3.0-or-later
#include "Printed.h"
#include "destination/Destination.h"
#include "destination/NewDeliverable.h"
#include "geometry/LegalSize.h"
#include "preflight/Checking.h"
#include "project/Choices.h"
#include "project/Timing.h"
#include "time/Cadence.h"

#include <algorithm>
#include <cmath>

namespace tromb {
namespace {

/// The time in which something may cross the picture without judder: the trade's seven-second rule (common practice, no
/// published source).
constexpr double kNoMotion = 2;    ///< … in which nothing moves but noise (house rule)
constexpr double kFastMotion = 20; ///< temporal information of a picture in which much moves (house rule)
/// A change of speed that is not noticed, as between 24 and 25 (common practice, no published source).
constexpr double kUnseenSpeed = 0.05;
constexpr double kSubjectStepsASecond = 5; ///< at which it is looked where a subject is
constexpr int kMostSubjectSteps = 3000;

/// The same windows, but each covers its share of the canvas.
Fix filling(const std::string& shot) {
  return {say("Fill the canvas"), [shot](Deliverable& d) {
            Framing framing = d.framingOf(shot);
            for (Window& window : framing.windows) window.base = WindowBase::Fill;
            d.framings[shot] = framing;
          }};
}

/// How one shot is shown in one deliverable.
struct ShownShot {
  const Shot& shot;
  const Source& source;
  const MediaInfo& media;
  PictureShape shape;
  Framing framing;
};

/// A still under a picture is seen, too: it is not to be enlarged unknown.
void checkStill(Checking& c, const Deliverable& d, const ShownShot& s) {
  const MediaInfo* still = s.framing.liesOn(s.framing.still) ? c.media(s.framing.still) : nullptr;
  if (!still || !still->video) return;
  const PictureShape shape = shapeIn(d, *c.source(s.framing.still), *still->video);
  const double sharp = detail(shape, place(shape, d.canvas, Framing()));
  if (sharp < kSharpDetail)
    c.find("soft-still", &d, &s.shot,
           say("the still under the picture is enlarged: detail %1, below 1.00", detailText(sharp)),
           say("Take a larger still, or another ground"));
}

void checkFilling(Checking& c, const Deliverable& d, const ShownShot& s, const Shortfall& worst) {
  if (worst.uncoveredPercent > 0)
    c.find("bars", &d, &s.shot, say("bars over %1 % of the canvas", printed("%.1f", worst.uncoveredPercent)),
           say("Fill the canvas, or show the whole picture over a backdrop"))
        .fixes = {filling(s.shot.id)};
  if (worst.detail >= kSharpDetail) return;
  const Message fix = say("Zoom out, use two stacked windows or a backdrop, or make the canvas smaller");
  if (d.sharpOnly)
    c.find("never-enlarge", &d, &s.shot,
           say("the picture is enlarged: detail %1, below 1.00, in a deliverable that is never to be",
               detailText(worst.detail)),
           fix);
  else
    c.find("soft", &d, &s.shot, say("the picture is enlarged: detail %1, below 1.00", detailText(worst.detail)), fix);
}

void checkMotion(Checking& c, const Deliverable& d, const ShownShot& s) {
  if (s.media.kind != MediaKind::Video || s.source.slowMotion) return;
  const ShotCadence cadence = cadenceIn(d, s.shot, s.source, s.media);
  const FrameClock& clock = cadence.clock;
  const TimeMap& time = cadence.frames.time();
  const FrameRate shot = cadence.byFields ? s.media.video->clock.rate() : clock.rate();
  if (time.held()) return;
  // Where nothing moves, nobody sees which frames are shown.
  const Measured* measured = c.measured(s.source.id);
  const bool known = measured && !measured->motion.empty();
  const double motion = known ? measured->motionIn(s.shot.in.toDouble(), s.shot.out.toDouble()) : 0;
  if (known && motion < kNoMotion) return;
  const Message words = cadence.words();
  const Treatment treatment = treatmentIn(d, s.shot);
  if (treatment == Treatment::Mixed || treatment == Treatment::Interpolated) {
    const bool between =
        clock.variable() || !time.speed() || Cadence(clock.rate(), d.rate, *time.speed()).ratio().den() != 1;
    if (!between) return;
    const bool mixed = treatment == Treatment::Mixed;
    Finding& f = c.find(mixed ? "mixed-frames" : "interpolated-frames", &d, &s.shot,
                        mixed ? say("neighbouring frames are mixed: what moves is seen twice")
                              : say("frames are made between those that were shot: fine and crossing parts may tear"),
                        mixed ? say("Keep the time of frames, so that none is mixed")
                              : say("Watch it through, or keep the time of frames, so that all are as they were shot"));
    if (!s.shot.treatment)
      f.fixes = {{say("Keep time"), [](Deliverable& each) { each.treatment = Treatment::KeepTime; }}};
    return;
  }
  if (clock.variable()) {
    c.find("rate-mismatch", &d, &s.shot, words);
    return;
  }
  const auto [least, most] = time.speeds();
  const Cadence slowest(clock.rate(), d.rate, least);
  const Cadence fastest(clock.rate(), d.rate, most);
  const FrameRate matched = matchedRate(d.destination, shot);
  std::vector<Fix> fixes;
  if (matched != d.rate && least == most && Cadence(shot, matched, least).even())
    fixes = {{say("Deliver at %1", matched.name()), [matched](Deliverable& each) { each.rate = matched; }}};
  // As 24 is shown at 25, and the other way round.
  const double onceSpeed = d.rate.value().toDouble() / shot.value().toDouble();
  if (least == most && least == Rational(1) && std::abs(onceSpeed - 1) <= kUnseenSpeed && onceSpeed != 1) {
    Fix once{say("Show each frame once, at %1", speedText(d.rate.value() / shot.value()))};
    once.changeShot = [](Shot& each) { each.treatment = Treatment::EveryFrame; };
    fixes.push_back(std::move(once));
  }
  const Message fix = say("Deliver at the rate that was shot for even motion");
  if (least == most && !slowest.even())
    c.find("rate-mismatch", &d, &s.shot, words, fix).fixes = fixes;
  else if (slowest.ratio() < Rational(1))
    c.find("doubled-frames", &d, &s.shot, words,
           least < Rational(1) ? say("Show it at its own speed for livelier motion") : fix)
        .fixes = fixes;
  if (fastest.ratio() > Rational(1) && motion >= kFastMotion)
    c.find("dropped-frames", &d, &s.shot, say("%1, and much moves in it", words),
           say("Deliver at the rate that was shot, or slow the shot down"))
        .fixes = std::move(fixes);
}

/// Where a point of a picture lies on the canvas, in shares of it.
struct OnCanvas {
  double x = 0;
  double y = 0;
  bool shown = false; ///< it is inside the window
};
OnCanvas onCanvas(const Placement& placement, SizeF picture, Size canvas, const MovePlace& at) {
  const double across = (at.x * picture.width - placement.window.x) / placement.window.width;
  const double down = (at.y * picture.height - placement.window.y) / placement.window.height;
  constexpr double kEdge = 1e-6; // what is rounded away lies on the edge
  return {(placement.canvas.x + across * placement.canvas.width) / canvas.width,
          (placement.canvas.y + down * placement.canvas.height) / canvas.height,
          across > -kEdge && across < 1 + kEdge && down > -kEdge && down < 1 + kEdge};
}

/// Where a shot's subjects are all along.
void seeSubjects(const CellBasis& b, CellFacts& facts) {
  if (b.subjects.empty()) return;
  const double in = b.in.toDouble();
  const double length = b.out.toDouble() - in;
  const bool rests = !moves(b.framing, b.subjects) &&
                     std::none_of(b.subjects.begin(), b.subjects.end(), [](const Subject& s) { return moves(s.move); });
  const int steps = rests ? 1 : std::clamp(int(length * kSubjectStepsASecond), 1, kMostSubjectSteps);
  for (int n = 0; n < steps; ++n) {
    const double at = in + length * (n + 0.5) / steps;
    size_t window = 0;
    bool out = false;
    bool cut = false;
    bool under = false;
    for (const Placement& placement : place(b.shape, b.canvas, b.framing, b.subjects, at)) {
      if (placement.isGround()) continue;
      if (window >= b.subjects.size()) break;
      const OnCanvas p = onCanvas(placement, b.shape.picture(), b.canvas, placeAt(b.subjects[window++].move, at));
      cut = cut || !p.shown;
      out =
          out || !p.shown || p.x < b.safe.left || p.x > 1 - b.safe.right || p.y < b.safe.top || p.y > 1 - b.safe.bottom;
      if (!p.shown) continue;
      for (const CoveredPart& part : b.covered) {
        if (p.x < part.part.x || p.x > part.part.right() || p.y < part.part.y || p.y > part.part.bottom()) continue;
        under = true;
        facts.by = part.by;
      }
    }
    facts.outside += double(out) / steps;
    facts.cut += double(cut) / steps;
    facts.covered += double(under) / steps;
  }
}

CellFacts see(const CellBasis& b) {
  CellFacts facts;
  const double in = b.in.toDouble();
  const double out = b.out.toDouble();
  facts.least = worst(b.shape, b.canvas, b.framing, b.subjects, in, out);
  facts.travel = fastestTravel(b.shape, b.canvas, b.framing, b.subjects, in, out);
  seeSubjects(b, facts);
  return facts;
}

/// The facts of a cell: seen, or remembered where they rest on the same.
CellFacts factsOf(const Checking& c, const Deliverable& d, const ShownShot& s, const Destination* to) {
  CellBasis basis{s.shape,
                  d.canvas,
                  s.framing,
                  s.shot.subjects,
                  s.shot.in,
                  s.shot.out,
                  to ? to->safe : SafeInsets(),
                  to ? to->covered : std::vector<CoveredPart>()};
  if (!c.grounds.memory) return see(basis);
  auto& [known, facts] = c.grounds.memory->cells[{d.id, s.shot.id}];
  if (known == basis) return facts;
  facts = see(basis);
  known = std::move(basis);
  return facts;
}

void checkSubjects(Checking& c, const Deliverable& d, const ShownShot& s, const CellFacts& facts) {
  const double length = (s.shot.out - s.shot.in).toDouble();
  const auto seconds = [length](double share) { return printed("%.1f", length * share); };
  const Message fix = say("Move the window, or put the subject's wanted place elsewhere");
  if (facts.outside > 0)
    c.find("subject-outside", &d, &s.shot,
           facts.cut == facts.outside ? say("the subject is cut away for %1 s", seconds(facts.cut))
           : facts.cut > 0 ? say("the subject is outside the safe area for %1 s, and cut away for %2 s of it",
                                 seconds(facts.outside), seconds(facts.cut))
                           : say("the subject is outside the safe area for %1 s", seconds(facts.outside)),
           fix);
  if (facts.covered > 0)
    c.find("subject-covered", &d, &s.shot, say("the subject is under '%1' for %2 s", facts.by, seconds(facts.covered)),
           fix);
}

} // namespace

std::shared_ptr<CellMemory> newCellMemory() {
  return std::make_shared<CellMemory>();
}

void checkCells(Checking& c, const Deliverable& d) {
  const auto to = destination(d.destination);
  Size best{}; // of the canvases that some shot fills sharply
  bool any = false;
  for (const Shot& shot : c.project.shots) {
    const MediaInfo* media = c.media(shot.source);
    if (!media || !media->video) continue;
    const Source& source = *c.source(shot.source);
    const PictureShape shape = shapeIn(d, source, *media->video);
    const ShownShot s{shot, source, *media, shape, framingIn(d, shot, shape)};
    const CellFacts facts = factsOf(c, d, s, to.get());
    checkStill(c, d, s);
    checkFilling(c, d, s, facts.least);
    checkMotion(c, d, s);
    checkSubjects(c, d, s, facts);
    const double travel = facts.travel * shot.time().speeds().most.toDouble();
    if (travel > 1 / kSecondsAWidth)
      c.find("fast-move", &d, &shot, say("the framing travels a picture's width in %1 s", printed("%.1f", 1 / travel)),
             say("Give the move more time or a shorter way; the usual measure is 7 s a width"));
    const Size sharp = largestSharpCanvas(shape, d.canvas.ratio());
    if (sharp.width > best.width) best = sharp;
    any = true;
  }
  // A canvas that none of its pictures can fill sharply is too large in itself.
  if (!any || (best.width >= d.canvas.width * kSharpDetail && best.height >= d.canvas.height * kSharpDetail)) return;
  Finding& f = c.find("enlarged-canvas", &d, nullptr,
                      say("the canvas %1 is larger than any shot can fill without enlarging", sizeText(d.canvas)),
                      best.width > 0 ? say("The largest canvas of this shape that stays sharp is %1", sizeText(best))
                                     : Message());
  if (best.width > 0)
    f.fixes = {{say("Use %1", sizeText(best)), [best](Deliverable& each) { chooseCanvas(each, best); }}};
}

} // namespace tromb
