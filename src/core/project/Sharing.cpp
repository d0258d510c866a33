// SPDX-License-Identifier: GPL-3.0-or-later
#include "project/Sharing.h"

#include "project/Choices.h"
#include "project/Footage.h"

#include <algorithm>
#include <cmath>

namespace tromb {
namespace {

constexpr double kHighBitRate = 5.0 / 3;
constexpr double kHighPeak = 2.5;         ///< of the average
constexpr double kHighQuality = 1.0 / 12; ///< of the scale

bool hasLossySound(const Encoding& resolved) {
  return resolved.sound.place != SoundPlace::None && resolved.sound.codec && !infoOf(*resolved.sound.codec).lossless();
}

bool sharedAlike(const Deliverable& a, const Deliverable& b) {
  return a.canvas == b.canvas && a.pixelAspect == b.pixelAspect && a.rate == b.rate && a.sharpOnly == b.sharpOnly &&
         a.treatment == b.treatment && a.framings == b.framings;
}

} // namespace

std::vector<int> sharersOf(const std::vector<Deliverable>& all, const Deliverable& d) {
  std::vector<int> places;
  for (size_t i = 0; i < all.size(); ++i)
    if (framedAs(all[i]) == framedAs(d)) places.push_back(int(i));
  return places;
}

int placeOfNormal(const std::vector<Deliverable>& all, int place) {
  if (place < 0 || place >= int(all.size()) || framesItself(all[size_t(place)])) return place;
  const int normal = placeOf(all, all[size_t(place)].sharesWith);
  return normal < 0 ? place : normal;
}

void takeShared(Deliverable& into, const Deliverable& normal) {
  takePicture(into, normal.canvas, normal.rate);
  into.pixelAspect = normal.pixelAspect;
  into.treatment = normal.treatment;
  into.sharpOnly = normal.sharpOnly;
  into.framings = normal.framings;
}

std::vector<Deliverable> withSharers(const std::vector<Deliverable>& all, std::vector<Deliverable> changed) {
  const size_t given = changed.size();
  for (size_t i = 0; i < given; ++i) {
    const Deliverable each = changed[i]; // a copy: the list grows
    const int before = placeOf(all, each.id);
    if (before >= 0 && sharedAlike(all[size_t(before)], each)) continue;
    for (const int place : sharersOf(all, each)) {
      const Deliverable& other = all[size_t(place)];
      if (other.id == each.id) continue;
      const int at = placeOf(changed, other.id);
      if (at < 0) changed.push_back(other);
      takeShared(at < 0 ? changed.back() : changed[size_t(at)], each);
    }
  }
  return changed;
}

std::vector<Deliverable> heirs(const std::vector<Deliverable>& all, const std::vector<std::string>& gone) {
  const auto goes = [&gone](const std::string& id) { return std::find(gone.begin(), gone.end(), id) != gone.end(); };
  std::vector<Deliverable> changed;
  for (const Deliverable& d : all) {
    if (framesItself(d) || goes(d.id) || !goes(d.sharesWith)) continue;
    const auto first = std::find_if(changed.begin(), changed.end(), [&](const Deliverable& each) {
      return all[size_t(placeOf(all, each.id))].sharesWith == d.sharesWith;
    });
    const std::string heir = first == changed.end() ? std::string() : first->id;
    changed.push_back(d);
    changed.back().sharesWith = heir;
  }
  return changed;
}

std::vector<Deliverable> asNewIn(const Project& project, std::vector<Deliverable> set) {
  Project ahead = project;
  std::map<std::string, std::string> ids; // as they are in the set, and as they become
  for (Deliverable& each : set) {
    const std::string id = freshId(ahead.deliverables, "d");
    ids[each.id] = id;
    each.id = id;
    each.name = freeDeliverableName(ahead, each.name);
    ahead.deliverables.push_back(each);
  }
  for (Deliverable& each : set)
    if (!framesItself(each)) each.sharesWith = ids[each.sharesWith];
  return set;
}

Message whyNoHighVersion(const Deliverable& normal) {
  const Encoding now = resolvedEncoding(normal);
  if (!now.hasPicture())
    return hasLossySound(now) ? Message() : say("its sound loses nothing: there is no higher version of it");
  return *now.rateControl == RateControl::Settled
             ? say("%1 settles its bit rate itself: there is no higher version of it", now.info().name)
             : Message();
}

Result<Deliverable> highVersionOf(const Project& project, const Deliverable& normal, const std::string& name) {
  Deliverable high = normal;
  high.id = freshId(project.deliverables, "d");
  high.name = freeDeliverableName(project, name);
  high.preset.clear();
  high.sharesWith = framedAs(normal);
  const Encoding now = resolvedEncoding(normal);
  if (Message why = whyNoHighVersion(normal); !why.empty())
    return fail(ErrorCode::InvalidArgument, std::move(why), {}, say("Choose another codec for the normal version"));
  if (now.hasPicture()) {
    const PictureCodec& codec = now.info();
    switch (*now.rateControl) {
    case RateControl::Settled:
      break; // refused above
    case RateControl::ConstantQuality: {
      const double step = std::round((codec.quality.most - codec.quality.least) * kHighQuality);
      high.encoding.crf =
          std::clamp(*now.crf + (codec.quality.rises ? step : -step), codec.quality.least, codec.quality.most);
      break;
    }
    case RateControl::Variable:
    case RateControl::Constant:
      chooseBitRate(high, scaledBitRate(now.bitRate, kHighBitRate));
      if (*now.rateControl == RateControl::Variable && codec.holdsPeak)
        high.encoding.maxBitRate = scaledBitRate(high.encoding.bitRate, kHighPeak);
      break;
    }
    high.encoding.level.clear(); // the lowest that carries it
  }
  if (hasLossySound(now)) {
    const int64_t before = now.sound.bitRate;
    high.encoding.sound.content = SoundContent::Music;
    high.encoding.sound.bitRate = 0;
    if (resolvedEncoding(high).sound.bitRate <= before) high.encoding.sound.bitRate = before;
  }
  makeEncodable(high);
  return high;
}

} // namespace tromb
