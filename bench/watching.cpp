// SPDX-License-Identifier: GPL-3.0-or-later
// tromb-bench-watching CLIP [light]: what watching costs on this machine: a clip in four shapes side by side in the
// real window of 1280×800, by the silent clock: pictures left out of those due, on and backwards; how long after the
// key the first picture is shown; and a jump against bare decoding from the key frame before. With `light` a lighter
// copy is made first, and watched. Prints a table, and JSON as the last line.
#include "app/shell/MainWindow.h"
#include "app/style/Theme.h"
#include "app/watch/WatchView.h"
#include "media/read/Fingerprint.h"
#include "media/read/Probe.h"
#include "media/read/VideoReader.h"
#include "project/Footage.h"
#include "watch/WatchPictures.h"

#include <QApplication>
#include <QElapsedTimer>
#include <QEventLoop>
#include <QStandardPaths>
#include <QTimer>
#include <algorithm>
#include <cstdio>
#include <cstdlib>
#include <functional>

using namespace tromb;

namespace {

double secondsOf(const std::function<void()>& work) {
  QElapsedTimer timer;
  timer.start();
  work();
  return double(timer.nsecsElapsed()) / 1e9;
}

[[noreturn]] void end(const Error& error) {
  std::fprintf(stderr, "%s\n", sentence(error).c_str());
  std::exit(1);
}

void until(const std::function<bool()>& so) {
  QTimer look; // no spinning: that would take one of the processors
  look.start(2);
  while (!so()) QApplication::processEvents(QEventLoop::AllEvents | QEventLoop::WaitForMoreEvents);
}

constexpr int64_t kFrames = 250; ///< that are played
constexpr int kTurns = 3;        ///< of each jump

Project projectOf(const MediaInfo& media) {
  Project project;
  project.sources.push_back(newSource(project, media));
  const auto print = fingerprintOf(media.path);
  if (!print) end(print.error());
  project.sources[0].fingerprint = *print;
  project.sources[0].barsBy = FactBy::Hand;
  project.shots.push_back(newShot(project, project.sources[0], media));
  project.shots[0].pace = {};
  for (const Size& canvas : {Size{1920, 1080}, Size{1080, 1920}, Size{1080, 1350}, Size{1080, 1080}}) {
    Deliverable d;
    d.id = d.name = "d" + std::to_string(project.deliverables.size());
    d.canvas = canvas;
    d.rate = media.video->clock.rate();
    project.deliverables.push_back(d);
  }
  return project;
}

/// Plays so many frames; the share of pictures that were left out.
double leftOut(MainWindow& window, int64_t frames, bool backwards, double rate) {
  Watch& watch = window.watch();
  window.session().setPlayhead(backwards ? window.session().rate().timeOf(frames) : Rational(0));
  until([&] { return !watch.busy(); });
  watch.play(backwards ? -1 : 1);
  QElapsedTimer timer;
  timer.start();
  until([&] { return !watch.playing() || double(timer.elapsed()) > double(frames) / rate * 1000; });
  watch.pause();
  const Watch::Pace pace = watch.pace();
  return double(pace.leftOut) / double(std::max<int64_t>(1, pace.shown + pace.leftOut));
}

/// Milliseconds from the key to a picture that moves on.
double untilFirst(MainWindow& window) {
  Watch& watch = window.watch();
  window.session().setPlayhead(Rational(1));
  until([&] { return !watch.busy(); });
  double took = 0;
  QElapsedTimer timer;
  const auto heard = QObject::connect(&watch, &Watch::pictured, [&] {
    if (took == 0) took = double(timer.nsecsElapsed()) / 1e6;
  });
  timer.start();
  watch.play();
  until([&] { return took > 0; });
  watch.pause();
  QObject::disconnect(heard);
  return took;
}

} // namespace

int main(int count, char** arguments) {
  QStandardPaths::setTestModeEnabled(true);
  QApplication application(count, arguments);
  QCoreApplication::setApplicationName(QStringLiteral("tromb-bench"));
  if (count < 2) return 2;
  Theme::apply(application, ThemeChoice::Day);
  const auto media = probe(arguments[1]);
  if (!media) end(media.error());
  const Project project = projectOf(*media);
  const double rate = media->video->clock.rate().toDouble();
  const int64_t there = media->video->clock.frameCount();
  const int64_t frames = std::min<int64_t>(there, kFrames);

  MainWindow window;
  window.resize(1280, 800);
  window.show();
  window.document().open(project, {});
  window.document().setMedia({{project.sources[0].id, *media}});
  if (count > 2) window.lights().ask(project.sources[0].id);
  window.showView(MainWindow::View::Watch);
  until([&] { return window.settled() && !window.lights().busy(); });
  const double on = leftOut(window, frames, false, rate);
  const double back = leftOut(window, frames, true, rate);
  const double first = untilFirst(window);

  // Jumps, to the last frame of a group: the longest way from a key frame.
  std::vector<WatchScreen> screens;
  for (const Deliverable& d : project.deliverables)
    screens.push_back(
        {std::make_shared<const Plan>(*Plan::build(project, {{project.sources[0].id, *media}}, d.id)), {600, 400}});
  double jumps = 0;
  double bare = 0;
  for (const int64_t n : {there * 3 / 4, there / 4, there - 2, there / 2}) {
    double least[2] = {1e9, 1e9}; // what others on the machine take only ever adds
    for (int turn = 0; turn < kTurns; ++turn) {
      WatchPictures pictures(screens, {});
      (void)pictures.draw({0, 0, 0, 0}, false);
      auto reader = VideoReader::open(*media);
      if (!reader) end(reader.error());
      (void)reader->frameAt(0);
      least[0] = std::min(least[0], secondsOf([&] {
                            if (const auto drawn = pictures.draw({n, n, n, n}, false); !drawn) end(drawn.error());
                          }));
      least[1] = std::min(least[1], secondsOf([&] {
                            if (const Status at = reader->goNear(n); !at) end(at.error());
                            for (auto got = reader->read(); got && got->frame && got->number < n;) got = reader->read();
                          }));
    }
    jumps += least[0];
    bare += least[1];
  }
  std::printf("%lld frames at %.3f a second, four shapes\n", (long long)frames, rate);
  std::printf("  left out, on           %.4f\n  left out, backwards    %.4f\n  first picture          %.1f ms\n"
              "  a jump / bare decoding %.2f, %.1f ms longer\n",
              on, back, first, jumps / bare, (jumps - bare) / 4 * 1000);
  std::printf("{\"left out\": %.4f, \"left out backwards\": %.4f, \"first\": %.1f, \"jump\": %.3f, \"longer\": %.1f}\n",
              on, back, first, jumps / bare, (jumps - bare) / 4 * 1000);
  window.document().undoStack().setClean();
  return 0;
}
