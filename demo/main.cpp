// SPDX-License-Identifier: GPL-3.0-or-later
// tromb-demo FOLDER: draws the sample footage and writes its project; files that are there already are kept.
#include "Scenes.h"
#include "destination/NewDeliverable.h"
#include "media/read/Probe.h"

#include "analysis/Measured.h"
#include "io/DataFolder.h"
#include "media/read/Fingerprint.h"
#include "project/Footage.h"
#include "project/ProjectFile.h"

#include <atomic>
#include <filesystem>
#include <fontconfig/fontconfig.h>
#include <iostream>
#include <mutex>
#include <thread>
#include <vector>

namespace {

namespace fs = std::filesystem;
using namespace tromb;

/// Two scenes at a time: drawing is single-threaded and encoding is not.
Status drawAll(const std::vector<demo::Scene>& scenes, const std::string& folder) {
  std::atomic<size_t> next = 0;
  std::mutex mutex;
  Status result;
  const auto work = [&] {
    for (size_t i = next++; i < scenes.size(); i = next++) {
      const std::string path = folder + "/" + scenes[i].file;
      if (fs::exists(path)) continue;
      // Drawn beside and renamed, so that a stopped run leaves no half file to be kept.
      const std::string drafts = folder + "/drafts";
      fs::create_directories(drafts);
      const Status done = scenes[i].write(drafts);
      const std::scoped_lock lock(mutex);
      if (!done)
        result = done;
      else
        fs::rename(drafts + "/" + scenes[i].file, path);
      std::cerr << (done ? "drawn: " : "failed: ") << path << "\n";
    }
  };
  {
    const std::jthread first(work);
    const std::jthread second(work);
  }
  fs::remove_all(folder + "/drafts");
  return result;
}

void frame(Project& project, const std::string& deliverable, const std::string& shot, const Framing& framing) {
  for (Deliverable& d : project.deliverables)
    for (const Shot& s : project.shots)
      if (d.name == deliverable && s.name == shot) d.framings[s.id] = framing;
}

Framing at(double x, double y, double zoom = 1) {
  Framing framing;
  framing.windows.front().x = x;
  framing.windows.front().y = y;
  framing.windows.front().zoom = zoom;
  return framing;
}

std::string groupNamed(Project& project, const std::string& name) {
  for (const Group& group : project.groups)
    if (group.name == name) return group.id;
  project.groups.push_back({freshId(project.groups, "g"), name, {}, {}});
  return project.groups.back().id;
}

/// The tune lies under the whole running order, down where somebody speaks.
void addBed(Project& project, const Source& source, const MediaInfo& media) {
  SoundBed bed;
  bed.id = freshId(project.beds, "b");
  bed.source = source.id;
  bed.out = media.duration;
  bed.levelDb = -9;
  bed.fadeIn = Rational(1);
  bed.fadeOut = Rational(2);
  bed.duck = true;
  project.beds.push_back(bed);
}

/// A title over the first shot, and the name of the balloon that crosses, which goes along with its shot.
void addWords(Project& project) {
  Element title;
  title.id = "e1";
  title.out = Rational(7, 2);
  title.fadeIn = title.fadeOut = Rational(1, 2);
  title.text = "Fennick Vale\nBalloon Morning";
  title.place = {Anchor::Top, 0, 0, 9, false};
  title.look.weight = 700;
  title.look.lineSpacing = 1.05;
  Element name;
  name.id = "e2";
  name.shot = project.shots[1].id;
  name.in = Rational(1);
  name.out = Rational(6);
  name.fadeIn = name.fadeOut = Rational(1, 4);
  name.text = "31 · the checked one";
  name.place = {Anchor::BottomLeft, 0, 0, 5, false};
  name.look.shadow = 0;
  name.look.box = 0.8;
  name.look.boxColour = {20, 60, 68};
  name.look.align = TextAlign::Start;
  project.elements = {title, name};
}

Result<Project> makeProject(const std::vector<demo::Scene>& scenes, const std::string& folder) {
  Project project;
  project.name = "Fennick Vale Balloon Morning";
  Result<MediaInfo> first = fail(ErrorCode::Missing, {});
  for (const demo::Scene& scene : scenes) {
    auto media = probe(folder + "/" + scene.file);
    if (!media) return tl::unexpected(media.error());
    const auto measured = measurePictures(*media);
    if (!measured) return tl::unexpected(measured.error());
    project.sources.push_back(newSource(project, *media));
    Source& source = project.sources.back();
    takeIn(source, *measured);
    if (const auto fingerprint = fingerprintOf(media->path)) source.fingerprint = *fingerprint;
    source.slowMotion = media->kind == MediaKind::Video && media->video->clock.rate().value() == Rational(100);
    if (!scene.group.empty()) source.group = groupNamed(project, scene.group);
    if (media->kind == MediaKind::Audio) addBed(project, source, *media);
    if (scene.shotName.empty()) continue;
    project.shots.push_back(newShot(project, source, *media));
    project.shots.back().name = scene.shotName;
    if (!first) first = media;
  }
  const std::pair<const char*, const char*> kDeliverables[] = {{"wide-web-video", "Wide film"},
                                                               {"vertical-story", "Story"},
                                                               {"tall-feed-post", "Tall post"},
                                                               {"square-feed-post", "Square"},
                                                               {"wide-header", "Header"}};
  for (const auto& [destination, name] : kDeliverables) {
    Deliverable d = newDeliverable(project, destination, &*first);
    d.name = name;
    d.encoding.speed = "veryfast"; // the sample is there to be tried, on slow machines too
    project.deliverables.push_back(d);
  }
  for (const char* shape : {"Story", "Tall post", "Square"}) {
    frame(project, shape, "Quick drift", at(0.66, 0.5));
    frame(project, shape, "Older camera", at(0.58, 0.5));
  }
  // What matters, marked once for all shapes; the drift is followed as it goes by.
  const auto subject = [&](const char* shot, Move move) {
    for (Shot& each : project.shots)
      if (each.name == shot) each.subjects = {{std::move(move), 0.5, 0.5, 0, {}}};
  };
  subject("Ridge launch", {{Rational(0), 0.44, 0.5, 1, Ease::Eased, {}}});
  subject("Low crossing",
          {{Rational(0), 0.3, 0.5, 1, Ease::Smooth, {}}, {Rational(6), 0.66, 0.5, 1, Ease::Smooth, {}}});
  Framing backdrop;
  (void)framingByName("backdrop", backdrop);
  frame(project, "Story", "Older camera", backdrop);
  frame(project, "Wide film", "From the gate", backdrop);
  frame(project, "Header", "Ridge launch", at(0.45, 0.36));
  frame(project, "Header", "From the gate", at(0.5, 0.36));
  Framing fit;
  (void)framingByName("fit", fit);
  frame(project, "Square", "Poster", fit);
  const auto starts = project.shotStarts();
  project.regions = {{"r1", "Opening", starts[0], starts[2], {}}, {"r2", "At the gate", starts[3], starts[5], {}}};
  addWords(project);
  return project;
}

} // namespace

int main(int argc, char** argv) {
  if (argc != 2) {
    std::cerr << "usage: tromb-demo FOLDER\n";
    return 2;
  }
  const std::string folder = fs::absolute(argv[1]).string();
  fs::create_directories(folder);
  // Only the shipped font, so that every machine draws the same letters.
  FcConfig* fonts = FcConfigCreate();
  FcConfigAppFontAddDir(fonts, reinterpret_cast<const FcChar8*>((dataFolder() + "/fonts").c_str()));
  FcConfigSetCurrent(fonts);
  const auto scenes = demo::scenes();
  Status done = drawAll(scenes, folder);
  if (done) {
    const auto project = makeProject(scenes, folder);
    if (project)
      done = saveProject(*project, folder + "/fennick-vale.tromb");
    else
      done = tl::unexpected(project.error());
  }
  if (!done) std::cerr << "tromb-demo: " << sentence(done.error()) << "\n";
  return done ? 0 : 1;
}
