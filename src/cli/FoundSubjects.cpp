// SPDX-License-Identifier: GPL-3.0-or-later
#include "FoundSubjects.h"

#include "preflight/Preflight.h"

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

/// "detail 0.56 (enlarged 1.8×, 68 % unseen); better: backdrop (68 % backdrop)".
std::string wordsOf(const FillProposal& proposal) {
  const auto losses = [](const WayToFill& way) {
    std::string words;
    for (const Message& each : lossWords(way.loss)) words += (words.empty() ? "" : ", ") + each.text();
    return " (" + words + ")";
  };
  const auto now =
      std::find_if(proposal.ways.begin(), proposal.ways.end(), [](const WayToFill& way) { return way.isNow; });
  const WayToFill& best = proposal.ways.front();
  const std::string better = "better: " + wayName(best).text() + losses(best);
  return now == proposal.ways.end() ? better : "detail " + detailText(now->detail) + losses(*now) + "; " + better;
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
    const Shot& framed = *project.shot(shot.id);
    found.push_back({shot.name, course, fillProposals(project, framed, file, seenBoxes(course, file.video->clock))});
    for (const FillProposal& each : found.back().fills)
      if (say) context.err << "  " << each.deliverable << ": " << wordsOf(each) << "\n";
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
    auto fills = nlohmann::ordered_json::array();
    for (const FillProposal& proposal : each.fills) {
      auto ways = nlohmann::ordered_json::array();
      for (const WayToFill& way : proposal.ways) {
        auto losses = nlohmann::ordered_json::array();
        for (const Message& words : lossWords(way.loss)) losses.push_back(words.text());
        ways.push_back({{"way", wayName(way).text()},
                        {"now", way.isNow},
                        {"detail", rounded(way.detail)},
                        {"loss", rounded(way.loss.weight())},
                        {"givesUp", std::move(losses)}});
      }
      fills.push_back({{"deliverable", proposal.deliverable}, {"ways", std::move(ways)}});
    }
    shots.push_back({{"shot", each.shot},
                     {"found", std::move(sights)},
                     {"course", courseWord(each.course.kind)},
                     {"confidence", rounded(each.course.confidence)},
                     {"fills", std::move(fills)}});
  }
  return shots;
}

bool anyUnsure(const std::vector<FoundInShot>& found) {
  return std::any_of(found.begin(), found.end(),
                     [](const FoundInShot& each) { return each.course.kind == Course::Kind::Unsure; });
}

} // namespace tromb::cli
