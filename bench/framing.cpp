// SPDX-License-Identifier: GPL-3.0-or-later
// tromb-bench-framing FOLDER [FILE…]: how well shots are framed by what is found in them, on drawn scenes of which it
// is known what matters, against three plain ways in the same run; and what looking at files costs against decoding
// them. Prints tables, and JSON as the last line.
#include "analysis/ShotFraming.h"
#include "media/read/Probe.h"
#include "picture/PictureSource.h"
#include "support/FramingMeasure.h"

#include <chrono>
#include <cstdio>

using namespace tromb;
using namespace tromb::test;

namespace {

struct Row {
  FramingMeasure all;
  double share(int of, int among) const { return among > 0 ? 100.0 * of / among : 100; }
  void print(const char* name, const char* more) const {
    std::printf("  %-28s whole %5.1f %%  near %5.1f %%  spared %5.1f %%  travel %6.2f  jerk %6.3f%s%s  %s\n", name,
                share(all.whole, all.possible), share(all.near, all.placed), share(all.spared, all.sparing), all.travel,
                all.jerk, all.wanders ? "  WANDERS" : "", all.crosses ? "  CROSSES" : "", more);
  }
};

double secondsOf(const std::function<void()>& work) {
  const auto begun = std::chrono::steady_clock::now();
  work();
  return std::chrono::duration<double>(std::chrono::steady_clock::now() - begun).count();
}

} // namespace

int main(int count, char** arguments) {
  if (count < 2) return 2;
  Row ours;
  Row plain[3];
  int sure = 0;
  int wrong = 0;
  int cells = 0;
  for (const DrawnScene& scene : drawnScenes()) {
    const auto media = probe(sceneFile(scene, arguments[1]));
    if (!media) return 1;
    Project project = shapesOf(*media);
    const auto look = lookAtShot(readAsStated(*media), 0, media->video->clock.frameCount());
    if (!look) {
      std::fprintf(stderr, "%s\n", sentence(look.error()).c_str());
      return 1;
    }
    const Course course = courseOf(*look);
    lay(frameShot(course, *look, project, project.shots[0], *media->video), project.shots[0].id, project);
    Row scenes;
    int faults = 0;
    for (const Deliverable& d : project.deliverables) {
      const double across = acrossOf(project, *media, d);
      if (d.canvas.width >= d.canvas.height * 16 / 9) continue; // the whole width is seen
      const bool tall = d.canvas.height >= d.canvas.width;
      const FramingMeasure found = measured(scene, windowsOf(project, *media, d), across, tall);
      scenes.all += found;
      ++cells;
      const bool bad = found.possible > 0 && found.whole < 0.9 * found.possible;
      faults += bad ? 1 : 0;
      if (course.kind != Course::Kind::Unsure) {
        ++sure;
        wrong += bad || (!scene.clear) ? 1 : 0;
      }
      for (const Baseline each : {Baseline::Middle, Baseline::StandsOut, Baseline::Moves})
        plain[size_t(each)].all +=
            measured(scene, windowAlong(pathOf(each, *look, kSceneFrames), across), across, tall);
    }
    ours.all += scenes.all;
    char more[96];
    std::snprintf(more, sizeof more, "%-6s %.2f%s%s", courseWord(course.kind), course.confidence,
                  faults > 0 ? "  FAULTS" : "",
                  scene.cutAt > 0 && look->cuts != std::vector<int64_t>{scene.cutAt} ? "  CUT MISSED" : "");
    scenes.print(scene.name, more);
  }
  std::printf("\n");
  ours.print("found", "");
  plain[0].print("the middle", "");
  plain[1].print("what stands out", "");
  plain[2].print("what moves", "");
  std::printf("  sure %d of %d cells, of which wrong %d\n\n", sure, cells, wrong);
  std::string costs;
  for (int i = 2; i < count; ++i) {
    const auto media = probe(arguments[i]);
    if (!media || !media->video) continue;
    const int64_t frames = media->video->clock.frameCount();
    double least[2] = {1e9, 1e9};
    Course course;
    for (int turn = 0; turn < 3; ++turn) {
      least[0] = std::min(least[0], secondsOf([&] {
                            const auto look = lookAtShot(readAsStated(*media), 0, frames);
                            if (look) course = courseOf(*look);
                          }));
      least[1] = std::min(least[1], secondsOf([&] {
                            auto source = PictureSource::open(readAsStated(*media));
                            for (auto got = source->read(); got && got->frame; got = source->read()) {
                            }
                          }));
    }
    std::printf("  %s: looking / decoding %.2f (%.2f s)  %s %.2f\n", arguments[i], least[0] / least[1], least[1],
                courseWord(course.kind), course.confidence);
    costs += (costs.empty() ? "" : ", ") + std::to_string(least[0] / least[1]);
    for (const CoursePart& part : course.parts)
      for (const Way& way : part.ways) {
        const RectF& a = way.track.points.front().box;
        const RectF& b = way.track.points.back().box;
        std::printf("    %lld to %lld: %s, there %.2f, from %.2f, %.2f to %.2f, %.2f (%.2f wide)\n",
                    (long long)part.first, (long long)part.end, sightWord(way.by), way.there, a.x + a.width / 2,
                    a.y + a.height / 2, b.x + b.width / 2, b.y + b.height / 2, a.width);
      }
  }
  std::printf("{\"whole\": %.2f, \"near\": %.2f, \"spared\": %.2f, \"sure\": %d, \"wrong\": %d, \"cells\": %d, "
              "\"costs\": [%s]}\n",
              ours.share(ours.all.whole, ours.all.possible), ours.share(ours.all.near, ours.all.placed),
              ours.share(ours.all.spared, ours.all.sparing), sure, wrong, cells, costs.c_str());
  return 0;
}
