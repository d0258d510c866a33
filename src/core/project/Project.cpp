// SPDX-License-Identifier: GPL-3.0-or-later
#include "project/Project.h"

#include <algorithm>
#include <filesystem>

namespace tromb {
namespace {

template <typename List, typename Member>
const typename List::value_type* find(const List& list, Member member, const std::string& value) {
  const auto at = std::find_if(list.begin(), list.end(), [&](const auto& item) { return item.*member == value; });
  return at == list.end() ? nullptr : &*at;
}

} // namespace

Framing Deliverable::framingOf(const std::string& shotId) const {
  const auto at = framings.find(shotId);
  return at == framings.end() ? Framing{} : at->second;
}

const Source* Project::source(const std::string& id) const {
  return find(sources, &Source::id, id);
}

const Shot* Project::shot(const std::string& id) const {
  return find(shots, &Shot::id, id);
}

const Deliverable* Project::deliverable(const std::string& id) const {
  return find(deliverables, &Deliverable::id, id);
}

const Deliverable* Project::deliverableNamed(const std::string& wanted) const {
  return find(deliverables, &Deliverable::name, wanted);
}

const Region* Project::regionNamed(const std::string& wanted) const {
  return find(regions, &Region::name, wanted);
}

Rational Project::duration() const {
  Rational total(0);
  for (const Shot& shot : shots) total = total + shot.duration();
  return total;
}

std::vector<Rational> Project::shotStarts() const {
  std::vector<Rational> starts{Rational(0)};
  for (const Shot& shot : shots) starts.push_back(starts.back() + shot.duration());
  return starts;
}

Scan scanOf(const Source& source, const VideoInfo& video) {
  return source.scan.value_or(video.scan);
}

MediaInfo asTaken(const Source& source, MediaInfo media) {
  if (!media.video) return media;
  media.video->scan = scanOf(source, *media.video);
  media.video->orientation = source.orientation;
  media.video->straightenedWithin = source.bars;
  return media;
}

PictureShape shapeOf(const Source& source, const VideoInfo& video) {
  return {video.stored, video.pixelAspect, video.rotation, source.bars, source.orientation, video.mirrored};
}

Framing framingIn(const Deliverable& deliverable, const Shot& shot, const PictureShape& shape) {
  Framing framing = deliverable.framingOf(shot.id);
  return deliverable.sharpOnly ? heldSharp(shape, deliverable.canvas, std::move(framing)) : framing;
}

std::string sourceName(const Source& source) {
  return source.name.empty() ? std::filesystem::path(source.path).stem().string() : source.name;
}

} // namespace tromb
