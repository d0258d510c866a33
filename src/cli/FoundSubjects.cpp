// SPDX-License-Identifier: GPL-3.0-or-later
#include "FoundSubjects.h"

#include <algorithm>
#include <cmath>
#include <nlohmann/json.hpp>
#include <ostream>
#include <set>

namespace tromb::cli {
namespace {

double rounded(double value) {
  return std::round(value * 1000) / 1000;
}

/// "rests, face, 100 % sure".
std::string wordsOf(const Course& course) {
  std::string words = courseWord(course.kind);
  std::set<std::string> by;
  for (const CoursePart& part : course.parts)
    for (const Way& way : part.ways) by.insert(sightWord(way.by));
  for (const std::string& each : by) words += ", " + each;
  return words + ", " + std::to_string(std::lround(course.confidence * 100)) + " % sure";
}

} // namespace

Result<std::vector<FoundInShot>> frameSubjects(Project& project, const Footage& footage, const Context& context,
                                               bool say) {
  std::vector<FoundInShot> found;
  for (Shot& shot : project.shots) {
    if (std::any_of(shot.subjects.begin(), shot.subjects.end(), [](const Subject& s) { return s.guess <= 0; }))
      continue;
    const Source* source = project.source(shot.source);
    const auto media = footage.find(shot.source);
    if (!source || media == footage.end() || !media->second || !media->second->video) continue;
    const MediaInfo& file = *media->second;
    int64_t first = 0;
    int64_t end = 1;
    if (file.kind == MediaKind::Video) {
      first = file.video->clock.nearest(shot.in);
      end = std::max(first + 1, file.video->clock.cutAt(shot.out));
    }
    const auto look = lookAtShot(readingOf(*source, file), first, end, context.stop);
    if (!look) return tl::unexpected(look.error());
    const Course course = courseOf(*look);
    const FramedShot framed = frameShot(course, *look, project, shot, *file.video);
    shot.subjects = framed.subjects;
    for (Deliverable& d : project.deliverables) {
      const auto now = d.framings.find(shot.id);
      if (now != d.framings.end() && now->second.guess <= 0) continue;
      if (const auto own = framed.framings.find(d.id); own != framed.framings.end())
        d.framings[shot.id] = own->second;
      else if (now != d.framings.end())
        d.framings.erase(now);
    }
    if (say) context.err << shot.name << ": " << wordsOf(course) << "\n";
    found.push_back({shot.name, course});
  }
  return found;
}

nlohmann::ordered_json toJson(const std::vector<FoundInShot>& found) {
  auto shots = nlohmann::ordered_json::array();
  for (const FoundInShot& each : found) {
    auto sights = nlohmann::ordered_json::array();
    for (const CoursePart& part : each.course.parts)
      for (const Way& way : part.ways) {
        const TrackPoint middle = middlePoint(way.track);
        sights.push_back({{"kind", sightWord(way.by)},
                          {"confidence", rounded(part.confidence)},
                          {"firstFrame", part.first},
                          {"endFrame", part.end},
                          {"x", rounded(middle.x())},
                          {"y", rounded(middle.y())},
                          {"width", rounded(middle.box.width)},
                          {"height", rounded(middle.box.height)}});
      }
    shots.push_back({{"shot", each.shot},
                     {"found", std::move(sights)},
                     {"course", courseWord(each.course.kind)},
                     {"confidence", rounded(each.course.confidence)}});
  }
  return shots;
}

bool anyUnsure(const std::vector<FoundInShot>& found) {
  return std::any_of(found.begin(), found.end(),
                     [](const FoundInShot& each) { return each.course.kind == Course::Kind::Unsure; });
}

} // namespace tromb::cli
