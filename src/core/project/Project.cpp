// SPDX-License-Identifier: GPL-3.0-or-later
#include "project/Project.h"

#include <algorithm>
#include <filesystem>
#include <set>
#include <string_view>
#include <unordered_map>

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

std::pair<int64_t, int64_t> framesOf(const Shot& shot, const MediaInfo& media) {
  if (media.kind != MediaKind::Video) return {0, 1};
  const int64_t first = media.video->clock.nearest(shot.in);
  return {first, std::max(first + 1, media.video->clock.cutAt(shot.out))};
}

bool subjectIsOpen(const Shot& shot) {
  return std::all_of(shot.subjects.begin(), shot.subjects.end(), [](const Subject& s) { return s.guess > 0; });
}

std::vector<Shot> partsOf(const Shot& whole, std::vector<Rational> sourceTimes) {
  std::sort(sourceTimes.begin(), sourceTimes.end());
  sourceTimes.erase(std::unique(sourceTimes.begin(), sourceTimes.end()), sourceTimes.end());
  std::erase_if(sourceTimes, [&](const Rational& time) { return time <= whole.in || time >= whole.out; });
  std::vector<Shot> parts(sourceTimes.size() + 1, whole);
  for (size_t i = 0; i < parts.size(); ++i) {
    Shot& part = parts[whole.pace.reversed ? sourceTimes.size() - i : i];
    if (i > 0) part.in = sourceTimes[i - 1];
    if (i < sourceTimes.size()) part.out = sourceTimes[i];
    bringOnTicks(part);
  }
  return parts;
}

namespace {

/// When a moment of an element that goes along with a shot is there, since the shot's beginning.
Rational sinceBegin(const TimeMap& time, const Rational& moment) {
  return time.held() ? moment : time.sinceBegin(moment);
}

std::pair<Rational, Rational> stretchWithin(const Element& element, const Shot& shot, const Rational& begin,
                                            const Rational& end) {
  const TimeMap time = shot.time();
  const auto at = [&](const Rational& moment) { return std::clamp(begin + sinceBegin(time, moment), begin, end); };
  const Rational first = at(element.in);
  const Rational second = at(element.out);
  return {std::min(first, second), std::max(first, second)}; // in turn where it is played backwards
}

} // namespace

std::pair<Rational, Rational> stretchOf(const Project& project, const Element& element) {
  if (element.shot.empty()) return {element.in, element.out};
  const int place = placeOf(project.shots, element.shot);
  if (place < 0) return {Rational(0), Rational(0)};
  const std::vector<Rational> starts = project.shotStarts();
  return stretchWithin(element, project.shots[size_t(place)], starts[size_t(place)], starts[size_t(place) + 1]);
}

std::vector<std::pair<Rational, Rational>> stretchesOf(const Project& project) {
  const std::vector<Rational> starts = project.shotStarts();
  std::unordered_map<std::string_view, size_t> places;
  for (size_t i = 0; i < project.shots.size(); ++i) places.emplace(project.shots[i].id, i);
  std::vector<std::pair<Rational, Rational>> stretches;
  stretches.reserve(project.elements.size());
  for (const Element& element : project.elements) {
    const auto place = places.find(element.shot);
    if (element.shot.empty())
      stretches.emplace_back(element.in, element.out);
    else if (place == places.end())
      stretches.emplace_back(Rational(0), Rational(0));
    else
      stretches.push_back(
          stretchWithin(element, project.shots[place->second], starts[place->second], starts[place->second + 1]));
  }
  return stretches;
}

void bind(Element& element, const Shot& shot, const Rational& begin, const Rational& from, const Rational& to) {
  const TimeMap time = shot.time();
  const auto at = [&](const Rational& moment) {
    return std::max(Rational(0), time.held() ? moment - begin : time.sourceTime(moment - begin));
  };
  element.shot = shot.id;
  element.in = std::min(at(from), at(to));
  element.out = std::max(at(from), at(to));
  bringOnTicks(element);
}

std::vector<Element> elementsOfParts(const Project& project, const Shot& whole, const std::vector<Shot>& parts) {
  std::vector<Element> elements;
  Project ahead;
  ahead.elements = project.elements;
  for (const Element& each : project.elements) {
    if (each.shot != whole.id || whole.time().held()) {
      elements.push_back(each);
      continue;
    }
    const size_t before = elements.size();
    for (const Shot& part : parts) {
      Element over = each;
      over.shot = part.id;
      if (part.time().held()) {
        if (each.in > part.in || each.out <= part.in) continue;
        over.in = Rational(0);
        over.out = part.duration();
      } else {
        over.in = std::max(each.in, part.in);
        over.out = std::min(each.out, part.out);
        if (over.in >= over.out) continue;
      }
      if (elements.size() > before) { // it goes on: it came in with the first
        over.id = freshId(ahead.elements, "e");
        ahead.elements.push_back(over);
        over.fadeIn = Rational(0);
        elements.back().fadeOut = Rational(0);
      }
      elements.push_back(std::move(over));
    }
    if (elements.size() == before) elements.push_back(each); // beyond all parts, as it was beyond the whole
  }
  return elements;
}

std::vector<Element> captionElements(const Project& project, const std::vector<Caption>& captions) {
  const std::vector<Rational> starts = project.shotStarts();
  std::vector<Element> elements;
  std::set<std::string> taken;
  for (const Element& each : project.elements) taken.insert(each.id);
  size_t number = taken.size();
  for (const Caption& caption : captions) {
    Element e;
    do e.id = "e" + std::to_string(++number);
    while (taken.contains(e.id));
    e.kind = ElementKind::Caption;
    e.text = caption.text.substr(0, kMostTextBytes);
    e.in = caption.in;
    e.out = caption.out;
    const auto after = std::ranges::upper_bound(starts, caption.in);
    const auto place = size_t(after - starts.begin());
    if (place > 0 && place <= project.shots.size() && caption.out <= starts[place]) {
      bind(e, project.shots[place - 1], starts[place - 1], caption.in, caption.out);
    }
    bringOnTicks(e);
    if (e.out > e.in) elements.push_back(std::move(e));
  }
  return elements;
}

std::vector<Caption> captionsOf(const Project& project) {
  const auto stretches = stretchesOf(project);
  std::vector<Caption> captions;
  for (size_t i = 0; i < stretches.size(); ++i) {
    const Element& each = project.elements[i];
    const auto& [in, out] = stretches[i];
    if (each.kind == ElementKind::Caption && in < out) captions.push_back({in, out, each.text});
  }
  std::ranges::stable_sort(captions, {}, &Caption::in);
  return captions;
}

void bringOnTicks(Shot& shot) {
  shot.in = onTick(shot.in);
  shot.out = onTick(shot.out);
  shot.pace.speed = shot.pace.speed.plain(kMostSpeedPart, kMostSpeedPart);
  shot.pace.held = onTick(shot.pace.held);
  for (SpeedKey& key : shot.pace.keys) {
    key.time = onTick(key.time);
    key.speed = key.speed.plain(kMostSpeedPart, kMostSpeedPart);
  }
}

void bringOnTicks(Region& region) {
  region.in = onTick(region.in);
  region.out = onTick(region.out);
}

void bringOnTicks(SoundBed& bed) {
  for (Rational* time : {&bed.start, &bed.in, &bed.out, &bed.fadeIn, &bed.fadeOut}) *time = onTick(*time);
}

void bringOnTicks(Element& element) {
  for (Rational* time : {&element.in, &element.out, &element.fadeIn, &element.fadeOut}) *time = onTick(*time);
}

Rational Project::duration() const {
  return shotStarts().back();
}

std::vector<Rational> Project::shotStarts() const {
  // Times beyond the longest running order are clamped, so that sums do not overflow.
  constexpr int64_t kMost = INT64_MAX / 4;
  std::vector<Rational> starts{Rational(0)};
  int64_t ticks = 0;
  for (const Shot& shot : shots) {
    ticks = std::min(kMost, ticks + std::min(kMost, shot.length()));
    starts.push_back(secondsOf(ticks));
  }
  return starts;
}

Reading readingOf(const Source& source, const MediaInfo& file) {
  Reading reading = readAsStated(file);
  const auto there = [&](int place) { return place >= 0 && place < int(file.audio.size()); };
  if (!source.sound.empty() && std::all_of(source.sound.begin(), source.sound.end(), there))
    reading.heard = source.sound;
  if (file.video) reading.scan = scanOf(source, *file.video);
  reading.scanCertain = source.scan && source.scanBy == FactBy::Hand;
  reading.colour = source.colour;
  reading.bars = source.bars;
  reading.orientation = source.orientation;
  return reading;
}

ColourTags colourOf(const Source& source, const VideoInfo& video) {
  return source.colour.value_or(video.colour);
}

Scan scanOf(const Source& source, const VideoInfo& video) {
  return source.scan.value_or(video.scan);
}

PictureShape shapeOf(const Source& source, const VideoInfo& video) {
  return video.shape(source.bars, source.orientation);
}

PictureShape shapeIn(const Deliverable& deliverable, const Source& source, const VideoInfo& video) {
  return shapeOf(source, video).forPixels(deliverable.pixelAspect);
}

Size Deliverable::shownSize() const {
  return {int((Rational(canvas.width) * pixelAspect).nearest()), canvas.height};
}

Framing framingIn(const Deliverable& deliverable, const Shot& shot, const PictureShape& shape) {
  Framing framing = deliverable.framingOf(shot.id);
  return deliverable.sharpOnly ? heldSharp(shape, deliverable.canvas, std::move(framing)) : framing;
}

EncodedPicture pictureOf(const Deliverable& deliverable) {
  return {deliverable.canvas, deliverable.rate, deliverable.format, deliverable.pixelAspect};
}

Encoding resolvedEncoding(const Deliverable& deliverable) {
  return resolved(deliverable.encoding, pictureOf(deliverable));
}

std::string fileEnding(const Deliverable& deliverable) {
  return std::string(infoOf(*resolvedEncoding(deliverable).container).word);
}

std::string sourceName(const Source& source) {
  return source.name.empty() ? std::filesystem::path(source.path).stem().string() : source.name;
}

} // namespace tromb
