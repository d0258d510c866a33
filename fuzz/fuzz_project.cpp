// SPDX-License-Identifier: GPL-3.0-or-later
// A project file: what is taken can be written, read again as the same, checked and planned.
#include "Input.h"
#include "preflight/Preflight.h"
#include "project/Footage.h"
#include "project/ProjectFile.h"
#include "render/Plan.h"

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* data, size_t size) {
  using namespace tromb;
  const auto project = fromText({reinterpret_cast<const char*>(data), size}, "/none");
  if (!project) return 0;
  const auto again = fromText(toText(*project, "/none"), "/none");
  fuzz::hold(again && *again == *project);
  // As if every source were there, and of one kind.
  MediaInfo media;
  media.path = "/none/a.mp4";
  media.duration = Rational(10);
  media.video.emplace();
  media.video->stored = {1920, 1080};
  media.video->clock = FrameClock(FrameRate(Rational(30000, 1001)), 299);
  media.audio.push_back({});
  Footage footage;
  for (const Source& source : project->sources) footage.insert_or_assign(source.id, media);
  (void)preflight(*project, footage);
  for (const Deliverable& d : project->deliverables) {
    const auto plan = Plan::build(*project, footage, d.id);
    if (!plan || plan->frameCount() == 0) continue;
    for (const int64_t frame : {int64_t(0), plan->frameCount() / 2, plan->frameCount() - 1}) {
      const Plan::At at = plan->at(frame);
      (void)at.piece->placements(at.frame, plan->rate());
    }
  }
  return 0;
}
