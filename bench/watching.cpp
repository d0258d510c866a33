// SPDX-License-Identifier: GPL-3.0-or-later
// tromb-bench-watching CLIP [FRAMES]: how much of the time that there is goes into drawing what is watched: a clip in
// four shapes side by side in a window of 1280×800, forwards and backwards, and beside it what bare decoding takes.
// Prints a table, and JSON as the last line.
#include "media/read/Probe.h"
#include "project/Footage.h"
#include "watch/WatchPictures.h"

#include <algorithm>
#include <chrono>
#include <cstdio>
#include <cstdlib>
#include <functional>

using namespace tromb;

namespace {

double secondsOf(const std::function<void()>& work) {
  const auto begun = std::chrono::steady_clock::now();
  work();
  return std::chrono::duration<double>(std::chrono::steady_clock::now() - begun).count();
}

[[noreturn]] void end(const Error& error) {
  std::fprintf(stderr, "%s\n", sentence(error).c_str());
  std::exit(1);
}

} // namespace

int main(int count, char** arguments) {
  if (count < 2) return 2;
  const auto media = probe(arguments[1]);
  if (!media) end(media.error());
  Project project;
  project.sources.push_back(newSource(project, *media));
  project.shots.push_back(newShot(project, project.sources[0], *media));
  project.shots[0].pace = {};
  const Size shapes[] = {{1920, 1080}, {1080, 1920}, {1080, 1350}, {1080, 1080}};
  const Footage footage{{project.sources[0].id, *media}};
  std::vector<WatchScreen> screens;
  for (const Size& canvas : shapes) {
    Deliverable d;
    d.id = d.name = "d" + std::to_string(screens.size());
    d.canvas = canvas;
    d.rate = media->video->clock.rate();
    project.deliverables.push_back(d);
    auto plan = Plan::build(project, footage, d.id);
    if (!plan) end(plan.error());
    // At one height, all of them as wide as the window.
    constexpr double kWide = 16.0 / 9 + 9.0 / 16 + 4.0 / 5 + 1;
    screens.push_back({std::make_shared<const Plan>(std::move(*plan)), {4000, int(1240 / kWide)}});
  }
  const double rate = media->video->clock.rate().toDouble();
  const int64_t frames = std::min<int64_t>(screens[0].plan->frameCount(), count > 2 ? std::atoll(arguments[2]) : 250);
  const double time = double(frames) / rate;
  const auto drawing = [&](bool backwards) {
    WatchPictures pictures(screens, {});
    return secondsOf([&] {
      for (int64_t i = 0; i < frames; ++i) {
        const int64_t n = backwards ? frames - 1 - i : i;
        const auto drawn = pictures.draw({n, n, n, n}, backwards);
        if (!drawn) end(drawn.error());
      }
    });
  };
  const double decoding = secondsOf([&] {
    auto source = PictureSource::open(screens[0].plan->pieces()[0].reading);
    if (!source) end(source.error());
    for (int64_t n = 0; n < frames; ++n)
      if (const auto got = source->shown(n); !got) end(got.error());
  });
  const double on = drawing(false);
  const double back = drawing(true);
  std::printf("share of the time that there is, %lld frames at %.3f a second\n", (long long)frames, rate);
  std::printf("  bare decoding          %.3f\n  four shapes            %.3f\n  four shapes backwards  %.3f\n",
              decoding / time, on / time, back / time);
  std::printf("{\"decoding\": %.4f, \"four shapes\": %.4f, \"backwards\": %.4f}\n", decoding / time, on / time,
              back / time);
  return 0;
}
