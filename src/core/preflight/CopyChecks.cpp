// SPDX-License-Identifier: GPL-3.0-or-later
#include "preflight/Checking.h"
#include "time/Timecode.h"

namespace tromb {
namespace {

std::string labelOf(const FrameClock& clock, int64_t frame) {
  return timecode(frame, clock.rate());
}

/// A fix that moves one end of the shot to a frame at which it is free.
Fix freed(const FrameClock& clock, int64_t frame, bool begins) {
  const Rational at = cutTime(clock, frame);
  Fix fix{begins ? say("Begin at %1", labelOf(clock, frame)) : say("End at %1", labelOf(clock, frame))};
  fix.changeShot = [at, begins](Shot& shot) { (begins ? shot.in : shot.out) = at; };
  return fix;
}

void tellCuts(Checking& c, const Deliverable& d, const PlanPiece& piece, const ShotCopy& copy) {
  const FrameClock& clock = piece.reading.file.video->clock;
  if (copy.encodedBefore > 0) {
    Finding& f = c.find("encoded-cut", &d, &piece.shot,
                        sayCounted("its first %n pictures are encoded, since it begins within a group",
                                   "its first picture is encoded, since it begins within a group", copy.encodedBefore));
    const bool both = copy.freeBefore && copy.freeBehind;
    if (both)
      f.fix = say("It would be free at %1 or %2", labelOf(clock, *copy.freeBefore), labelOf(clock, *copy.freeBehind));
    for (const auto& at : {copy.freeBehind, copy.freeBefore})
      if (at) {
        f.fixes.push_back(freed(clock, *at, true));
        if (!both) f.fix = say("It would be free at %1", labelOf(clock, *at));
      }
  }
  if (copy.encodedBehind > 0) {
    Finding& f = c.find("encoded-cut", &d, &piece.shot,
                        sayCounted("its last %n pictures are encoded, since it ends within a group",
                                   "its last picture is encoded, since it ends within a group", copy.encodedBehind));
    if (copy.freeEnd && *copy.freeEnd > piece.sourceFrame(0)) {
      f.fix = say("It would be free at %1", labelOf(clock, *copy.freeEnd));
      f.fixes.push_back(freed(clock, *copy.freeEnd, false));
    }
  }
}

} // namespace

void checkCopies(Checking& c, const Deliverable& d) {
  if (!d.encoding.copies || !d.encoding.info().joins) return;
  const auto plan = Plan::build(c.project, c.footage, d.id);
  if (!plan) return; // told by others
  const ShotCopies copies = planShotCopies(*plan, c.grounds.memory ? &c.grounds.memory->copies : nullptr);
  for (size_t i = 0; i < copies.shots.size(); ++i) {
    const PlanPiece& piece = plan->pieces()[i];
    const ShotCopy& copy = copies.shots[i];
    if (piece.frameCount == 0) continue;
    if (copy.encoded.why.empty()) {
      tellCuts(c, d, piece, copy);
      continue;
    }
    Finding& f = c.find("encoded-shot", &d, &piece.shot, copy.encoded.why);
    if (const std::string& level = copy.encoded.level; !level.empty()) {
      f.fix = say("Give the deliverable level %1", level);
      f.fixes = {{say("Use level %1", level), [level](Deliverable& each) { each.encoding.level = level; }}};
    }
  }
}

} // namespace tromb
