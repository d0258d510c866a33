// SPDX-License-Identifier: GPL-3.0-or-later
#include "project/Footage.h"

#include <algorithm>
#include <cmath>
#include <filesystem>

namespace tromb {

bool hasSound(const Project& project, const Footage& footage) {
  return !project.beds.empty() || std::any_of(project.shots.begin(), project.shots.end(), [&](const Shot& shot) {
    const auto at = footage.find(shot.source);
    return at != footage.end() && at->second && !at->second->audio.empty();
  });
}

Footage probeFootage(const Project& project, const ProbeOptions& options) {
  Footage footage;
  for (const Source& source : project.sources) footage.emplace(source.id, probe(source.path, options));
  return footage;
}

Source newSource(const Project& project, const MediaInfo& media) {
  Source source;
  source.id = freshId(project.sources, "s");
  source.path = std::filesystem::absolute(media.path).lexically_normal().string();
  return source;
}

Shot newShot(const Project& project, const Source& source, const MediaInfo& media) {
  Shot shot;
  shot.id = freshId(project.shots, "h");
  shot.source = source.id;
  shot.name = sourceName(source);
  std::replace(shot.name.begin(), shot.name.end(), '_', ' ');
  std::replace(shot.name.begin(), shot.name.end(), '-', ' ');
  if (!shot.name.empty() && shot.name[0] >= 'a' && shot.name[0] <= 'z') shot.name[0] = char(shot.name[0] - 'a' + 'A');
  shot.out = media.kind == MediaKind::Still ? kStillLength : media.duration;
  if (source.slowMotion && media.kind == MediaKind::Video && !project.deliverables.empty())
    shot.pace.speed = frameByFrameSpeed(media, project.deliverables.front().rate);
  bringOnTicks(shot);
  return shot;
}

std::optional<Rational> secondsBeyondSource(const Shot& shot, const MediaInfo& media) {
  if (media.kind != MediaKind::Video) return {};
  const int64_t beyond = ticksOf(shot.out) - ticksOf(media.duration);
  if (beyond <= ticksOf(media.video->clock.rate().frameDuration())) return {};
  return secondsOf(beyond);
}

Rational frameByFrameSpeed(const MediaInfo& media, const FrameRate& rate) {
  return std::min(Rational(1), rate.value() / media.video->clock.rate().value());
}

std::string freeDeliverableName(const Project& project, const std::string& wanted) {
  std::string name = wanted;
  for (int n = 2; project.deliverableNamed(name); ++n) name = wanted + " " + std::to_string(n);
  return name;
}

} // namespace tromb
