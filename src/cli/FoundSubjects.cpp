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
  for (const Shot& shot : std::vector<Shot>(project.shots)) {
    if (!subjectIsOpen(shot)) continue;
    const Source* source = project.source(shot.source);
    const auto media = footage.find(shot.source);
    if (!source || media == footage.end() || !media->second || !media->second->video) continue;
    const MediaInfo& file = *media->second;
    const auto [first, end] = framesOf(shot, file);
    const auto look = lookAtShot(readingOf(*source, file), first, end, context.stop);
    if (!look) return tl::unexpected(look.error());
    const Course course = courseOf(*look);
    lay(frameShot(course, *look, project, shot, *file.video), shot.id, project);
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
