// SPDX-License-Identifier: GPL-3.0-or-later
#include "project/Footage.h"

#include "delivery/Destination.h"
#include "geometry/LegalSize.h"

#include <algorithm>
#include <filesystem>

namespace tromb {

Footage probeFootage(const Project& project) {
  Footage footage;
  for (const Source& source : project.sources) footage.emplace(source.id, probe(source.path));
  return footage;
}

BroughtIn bringIn(const Project& project, const MediaInfo& media, const Bars& bars) {
  BroughtIn made;
  made.source.id = freshId(project.sources, "s");
  made.source.path = std::filesystem::absolute(media.path).lexically_normal().string();
  made.source.bars = bars;
  made.shot.id = freshId(project.shots, "h");
  made.shot.source = made.source.id;
  std::string name = std::filesystem::path(media.path).stem().string();
  std::replace(name.begin(), name.end(), '_', ' ');
  std::replace(name.begin(), name.end(), '-', ' ');
  if (!name.empty() && name[0] >= 'a' && name[0] <= 'z') name[0] = char(name[0] - 'a' + 'A');
  made.shot.name = name;
  made.shot.out = media.kind == MediaKind::Still ? kStillLength : media.duration;
  return made;
}

std::string freeDeliverableName(const Project& project, const std::string& wanted) {
  std::string name = wanted;
  for (int n = 2; project.deliverableNamed(name); ++n) name = wanted + " " + std::to_string(n);
  return name;
}

Deliverable newDeliverable(const Project& project, const std::string& destinationId, const MediaInfo* first) {
  Deliverable d;
  d.id = freshId(project.deliverables, "d");
  if (first && first->video) {
    const SizeF picture = first->video->shape().uprightWithBars();
    d.canvas = {legalNeighbours(int(picture.width)).first, legalNeighbours(int(picture.height)).first};
    d.rate = first->video->clock.rate();
  }
  d.name = std::to_string(d.canvas.width) + "×" + std::to_string(d.canvas.height);
  if (const Destination* to = destination(destinationId)) {
    d.destination = to->id;
    d.name = to->name;
    d.canvas = to->canvas;
    d.encoding.bitRate = to->bitRate;
    d.encoding.audioBitRate = to->audioBitRate;
    // Twice the rate that is taken is halved evenly; anything else above it becomes the highest taken.
    const Rational half = d.rate.value() / Rational(2);
    if (d.rate.value() > to->mostRate.value()) d.rate = half <= to->mostRate.value() ? FrameRate(half) : to->mostRate;
  }
  d.name = freeDeliverableName(project, d.name);
  return d;
}

} // namespace tromb
