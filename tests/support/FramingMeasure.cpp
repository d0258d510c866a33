// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/FramingMeasure.h"

#include "project/Footage.h"

#include <algorithm>
#include <cmath>

namespace tromb::test {
namespace {

bool inside(const RectF& box, const RectF& window) {
  return box.x >= window.x - 1e-3 && box.x + box.width <= window.x + window.width + 1e-3 && box.y >= window.y - 1e-3 &&
         box.y + box.height <= window.y + window.height + 1e-3;
}
bool inAny(const RectF& box, const std::vector<RectF>& windows) {
  return std::any_of(windows.begin(), windows.end(), [&](const RectF& each) { return inside(box, each); });
}
/// Of a box that a window's left or right edge goes through, and that is nowhere whole.
bool cut(const RectF& box, const std::vector<RectF>& windows) {
  if (inAny(box, windows)) return false;
  return std::any_of(windows.begin(), windows.end(), [&](const RectF& w) {
    const auto through = [&](double edge) { return edge > box.x + 2e-3 && edge < box.x + box.width - 2e-3; };
    return through(w.x) || through(w.x + w.width);
  });
}
RectF roundAll(const std::vector<RectF>& boxes) {
  RectF all = boxes.front();
  for (const RectF& each : boxes) {
    const double right = std::max(all.x + all.width, each.x + each.width);
    const double bottom = std::max(all.y + all.height, each.y + each.height);
    all.x = std::min(all.x, each.x);
    all.y = std::min(all.y, each.y);
    all.width = right - all.x;
    all.height = bottom - all.y;
  }
  return all;
}
/// A box as far as it lies in the picture; what sticks out cannot be shown.
RectF seen(RectF box) {
  const double right = std::min(1.0, box.x + box.width);
  const double bottom = std::min(1.0, box.y + box.height);
  box.x = std::max(0.0, box.x);
  box.y = std::max(0.0, box.y);
  return {box.x, box.y, right - box.x, bottom - box.y};
}

} // namespace

Project shapesOf(const MediaInfo& media) {
  Project project;
  project.sources.push_back(newSource(project, media));
  project.shots.push_back(newShot(project, project.sources[0], media));
  for (const Size& canvas :
       {Size{1080, 1920}, Size{1080, 1350}, Size{1080, 1080}, Size{1920, 1080}, Size{2560, 1080}}) {
    Deliverable d;
    d.id = d.name = std::to_string(canvas.width) + "x" + std::to_string(canvas.height);
    d.canvas = canvas;
    project.deliverables.push_back(d);
  }
  return project;
}

double acrossOf(const Project& project, const MediaInfo& media, const Deliverable& deliverable) {
  const SizeF picture = shapeIn(deliverable, project.sources[0], *media.video).picture();
  const Size canvas = deliverable.canvas;
  return resolveWindow(picture, {double(canvas.width), double(canvas.height)}, Framing::follower()).width /
         picture.width;
}

Windows windowsOf(const Project& project, const MediaInfo& media, const Deliverable& deliverable) {
  const PictureShape shape = shapeIn(deliverable, project.sources[0], *media.video);
  const Shot& shot = project.shots[0];
  return [shape, subjects = shot.subjects, framing = deliverable.framingOf(shot.id), canvas = deliverable.canvas,
          clock = media.video->clock](int frame) {
    std::vector<RectF> windows;
    const SizeF picture = shape.picture();
    for (const Placement& each : place(shape, canvas, framing, subjects, clock.timeOf(frame).toDouble()))
      if (each.kind == Placement::Kind::Picture)
        windows.push_back({each.window.x / picture.width, each.window.y / picture.height,
                           each.window.width / picture.width, each.window.height / picture.height});
    return windows;
  };
}

Windows windowAlong(const std::vector<double>& path, double across) {
  return [=](int frame) {
    const double middle = std::clamp(path[size_t(frame)], across / 2, 1 - across / 2);
    return std::vector<RectF>{{middle - across / 2, 0, across, 1}};
  };
}

FramingMeasure& FramingMeasure::operator+=(const FramingMeasure& other) {
  possible += other.possible;
  whole += other.whole;
  placed += other.placed;
  near += other.near;
  sparing += other.sparing;
  spared += other.spared;
  travel += other.travel;
  jerk += other.jerk;
  wanders = wanders || other.wanders;
  crosses = crosses || other.crosses;
  return *this;
}

FramingMeasure measured(const DrawnScene& scene, const Windows& windows, double across, bool tall) {
  FramingMeasure found;
  std::vector<double> way;
  for (int n = 0; n < kSceneFrames; ++n) {
    const std::vector<RectF> shown = windows(n);
    way.push_back(shown.front().x + shown.front().width / 2);
    SceneTruth truth = scene.truth(n);
    for (RectF& each : truth.subjects) each = seen(each);
    if (!truth.subjects.empty()) {
      const RectF all = roundAll(truth.subjects);
      const double high = shown.front().height;
      const bool together = all.width <= across && all.height <= std::max(high, tall ? 1.0 : 0.0);
      if (together || (truth.subjects.size() == 2 && tall)) {
        ++found.possible;
        found.whole +=
            std::all_of(truth.subjects.begin(), truth.subjects.end(), [&](const RectF& b) { return inAny(b, shown); });
      }
      if (together || truth.subjects.size() == 1) {
        ++found.placed;
        const auto nearTo = [&](const RectF& box) {
          return std::any_of(shown.begin(), shown.end(), [&](const RectF& w) {
            const double wanted = std::clamp(box.x + box.width / 2, w.width / 2, 1 - w.width / 2);
            return std::abs(w.x + w.width / 2 - wanted) <= 0.08;
          });
        };
        const bool near =
            shown.size() > 1 ? std::all_of(truth.subjects.begin(), truth.subjects.end(), nearTo) : nearTo(all);
        found.near += near ? 1 : 0;
      }
    }
    std::vector<RectF> kept = truth.faces;
    kept.insert(kept.end(), truth.words.begin(), truth.words.end());
    if (!kept.empty()) {
      const auto sparing = [&](const std::vector<RectF>& w) {
        return std::none_of(kept.begin(), kept.end(), [&](const RectF& b) { return cut(b, w); });
      };
      bool could = sparing(shown);
      for (int step = 0; step <= 200 && !could; ++step) {
        const std::vector<RectF> there{{(1 - across) * step / 200, 0, across, 1}};
        could = sparing(there) && (truth.subjects.empty() || inAny(truth.subjects.front(), there));
      }
      found.sparing += could ? 1 : 0;
      found.spared += sparing(shown) ? 1 : 0;
    }
  }
  double rested = 0;
  for (int n = 1; n < kSceneFrames; ++n) {
    const double step = std::abs(way[size_t(n)] - way[size_t(n - 1)]);
    if (scene.cutAt > 0 && n == scene.cutAt) continue; // the jump with the cut
    found.travel += step;
    rested += step;
    if (scene.cutAt > 0 && std::abs(n - scene.cutAt) <= 3) found.crosses = found.crosses || step > 0.004;
    if (n >= 3 && (scene.cutAt == 0 || n < scene.cutAt || n > scene.cutAt + 2))
      found.jerk += std::abs(way[size_t(n)] - 3 * way[size_t(n - 1)] + 3 * way[size_t(n - 2)] - way[size_t(n - 3)]);
  }
  found.wanders = scene.rests && rested > 0.03;
  return found;
}

std::vector<double> pathOf(Baseline baseline, const ShotLook& look, int frames) {
  std::vector<double> at;
  double last = 0.5;
  for (const Glance& glance : look.glances) {
    double most = 0;
    for (const Sight& sight : glance.sights) {
      const bool counts = (baseline == Baseline::StandsOut && sight.kind == Sight::Kind::Detail) ||
                          (baseline == Baseline::Moves && sight.kind == Sight::Kind::Motion);
      const double much = sight.kind == Sight::Kind::Motion ? sight.strength * sight.box.width * sight.box.height
                                                            : sight.strength + 1e-6;
      if (!counts || much <= most) continue;
      most = much;
      last = sight.box.x + sight.box.width / 2;
    }
    at.push_back(last);
  }
  std::vector<double> path;
  double smooth = at.empty() ? 0.5 : at.front();
  for (int n = 0; n < frames; ++n) {
    double now = 0.5;
    if (baseline != Baseline::Middle && !at.empty()) {
      const double place = double(n) * double(at.size()) / frames;
      const auto before = std::min(at.size() - 1, size_t(place));
      const auto after = std::min(at.size() - 1, before + 1);
      now = std::lerp(at[before], at[after], place - double(before));
    }
    smooth += (now - smooth) / 25;
    path.push_back(baseline == Baseline::Middle ? 0.5 : smooth);
  }
  return path;
}

} // namespace tromb::test
