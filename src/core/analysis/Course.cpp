// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/Course.h"

#include "geometry/Framing.h"

#include <algorithm>
#include <cmath>

namespace tromb {
namespace {

constexpr size_t kFaceGap = 9; ///< glances for which a face may not be seen, and still be the same
constexpr size_t kMotionGap = 5;
constexpr double kSameSize = 1.8;      ///< times, that a face may become larger between two glances
constexpr double kFaceSeen = 0.3;      ///< share of the part's searches in which a face is seen, to be the subject
constexpr double kAlike = 0.5;         ///< of the strength of the first, for a second to matter alike
constexpr double kTwoThere = 0.5;      ///< share of the part in which both are there
constexpr double kRestsWithin = 0.025; ///< of the picture: what moves less rests
constexpr double kSways = 0.3;         ///< … and what moves less than so much of its own width
constexpr double kSeldom = 0.06;       ///< share of its places that do not count for that, at either end
constexpr double kOneWay = 0.6;        ///< of the glances, that say the same direction
// How a box round a face becomes one round a head: sides and height, of the face's, round the eyes.
constexpr double kEyes = 0.33;
constexpr double kHeadWidth = 1.45;
constexpr double kHeadHeight = 1.9;
constexpr size_t kMostOthers = 3;
constexpr size_t kMostAppearances = 12;

double middleOf(std::vector<double> values) {
  if (values.empty()) return 0;
  std::nth_element(values.begin(), values.begin() + ptrdiff_t(values.size() / 2), values.end());
  return values[values.size() / 2];
}

/// What was seen at several glances and is taken for one thing.
struct Chain {
  struct Link {
    size_t glance;
    Sight sight;
  };
  std::vector<Link> links;
  [[nodiscard]] size_t span() const { return links.back().glance - links.front().glance + 1; }
  [[nodiscard]] double x() const { return links.back().sight.box.x + links.back().sight.box.width / 2; }
  [[nodiscard]] double y() const { return links.back().sight.box.y + links.back().sight.box.height / 2; }
  /// Where it is expected at a glance, from the last two links.
  [[nodiscard]] std::pair<double, double> expected(size_t glance) const {
    if (links.size() < 2) return {x(), y()};
    const Link& a = links[links.size() - 2];
    const Link& b = links.back();
    const double apart = double(b.glance - a.glance);
    const double on = std::min(3.0, double(glance - b.glance)) / apart;
    const auto centre = [](const Sight& s) { return std::pair(s.box.x + s.box.width / 2, s.box.y + s.box.height / 2); };
    const auto [ax, ay] = centre(a.sight);
    const auto [bx, by] = centre(b.sight);
    return {bx + (bx - ax) * on, by + (by - ay) * on};
  }
};

/// Links what was seen of a kind in glances [from, to), each to the nearest of the glances before.
std::vector<Chain> chainsOf(const ShotLook& look, size_t from, size_t to, Sight::Kind kind, size_t gap) {
  std::vector<Chain> chains;
  for (size_t g = from; g < to; ++g) {
    std::vector<bool> taken(chains.size(), false);
    std::vector<Chain> begun;
    std::vector<const Sight*> sights;
    for (const Sight& sight : look.glances[g].sights)
      if (sight.kind == kind) sights.push_back(&sight);
    std::sort(sights.begin(), sights.end(), [](const Sight* a, const Sight* b) {
      return a->box.width * a->box.height > b->box.width * b->box.height;
    });
    for (const Sight* sight : sights) {
      const double x = sight->box.x + sight->box.width / 2;
      const double y = sight->box.y + sight->box.height / 2;
      const double size = std::max(sight->box.width, sight->box.height);
      size_t best = chains.size();
      double nearest = 1e9;
      for (size_t c = 0; c < chains.size(); ++c) {
        const Chain& chain = chains[c];
        if (taken[c] || g - chain.links.back().glance > gap) continue;
        const RectF& last = chain.links.back().sight.box;
        const double lastSize = std::max(last.width, last.height);
        const auto [ex, ey] = chain.expected(g);
        const double away = std::min(std::hypot(x - ex, y - ey), std::hypot(x - chain.x(), y - chain.y()));
        const double reach = 0.6 * std::max(size, lastSize) + 0.03;
        if (kind == Sight::Kind::Face && std::max(size, lastSize) > kSameSize * std::min(size, lastSize)) continue;
        if (away < reach && away < nearest) {
          nearest = away;
          best = c;
        }
      }
      if (best < chains.size()) {
        taken[best] = true;
        chains[best].links.push_back({g, *sight});
      } else {
        begun.push_back({{{g, *sight}}});
      }
    }
    chains.insert(chains.end(), begun.begin(), begun.end());
  }
  return chains;
}

RectF headOf(const RectF& face) {
  const double x = face.x + face.width / 2;
  const double y = face.y + face.height * kEyes;
  return {x - face.width * kHeadWidth / 2, y - face.height * kHeadHeight / 2, face.width * kHeadWidth,
          face.height * kHeadHeight};
}

RectF between(const RectF& a, const RectF& b, double u) {
  return {std::lerp(a.x, b.x, u), std::lerp(a.y, b.y, u), std::lerp(a.width, b.width, u),
          std::lerp(a.height, b.height, u)};
}

/// A chain as a way: what lies between its links on a straight line, with single outliers left out.
Way wayOf(const ShotLook& look, const Chain& chain, size_t count) {
  Way way;
  way.by = chain.links.front().sight.kind;
  std::vector<Chain::Link> links = chain.links;
  for (Chain::Link& link : links)
    if (way.by == Sight::Kind::Face) link.sight.box = headOf(link.sight.box);
  // The middle of three neighbours, so that a glance that saw something else does not count.
  std::vector<RectF> boxes;
  for (size_t i = 0; i < links.size(); ++i) {
    const auto middle = [&](auto part) {
      std::vector<double> round;
      for (size_t k = i > 1 ? i - 2 : 0; k <= std::min(links.size() - 1, i + 2); ++k)
        round.push_back(part(links[k].sight.box));
      return middleOf(round);
    };
    const double width = middle([](const RectF& b) { return b.width; });
    const double height = middle([](const RectF& b) { return b.height; });
    const RectF& own = links[i].sight.box;
    if (way.by == Sight::Kind::Detail || i == 0 || i + 1 == links.size()) {
      boxes.push_back(own);
      continue;
    }
    const auto centre = [&](const RectF& b) { return std::pair(b.x + b.width / 2, b.y + b.height / 2); };
    const auto [ax, ay] = centre(links[i - 1].sight.box);
    const auto [bx, by] = centre(own);
    const auto [cx, cy] = centre(links[i + 1].sight.box);
    const double x = std::max(std::min(ax, bx), std::min(std::max(ax, bx), cx));
    const double y = std::max(std::min(ay, by), std::min(std::max(ay, by), cy));
    boxes.push_back({x - width / 2, y - height / 2, width, height});
  }
  for (size_t i = 0; i < links.size(); ++i) {
    const size_t until = i + 1 < links.size() ? links[i + 1].glance : links[i].glance + 1;
    for (size_t g = links[i].glance; g < until; ++g) {
      const double u = double(g - links[i].glance) / double(until - links[i].glance);
      const RectF box = i + 1 < links.size() ? between(boxes[i], boxes[i + 1], u) : boxes[i];
      way.track.points.push_back({look.glances[g].frame, box});
    }
  }
  double left = 0;
  double right = 0;
  for (const Chain::Link& link : links) {
    if (link.sight.appearance.known()) way.appearances.push_back(link.sight.appearance);
    if (link.sight.towards < -0.25) ++left;
    if (link.sight.towards > 0.25) ++right;
  }
  if (const size_t step = way.appearances.size() / kMostAppearances + 1; step > 1) {
    std::vector<Appearance> some;
    for (size_t i = 0; i < way.appearances.size(); i += step) some.push_back(std::move(way.appearances[i]));
    way.appearances = std::move(some);
  }
  const double all = double(links.size());
  way.towards = right > kOneWay * all ? 1 : left > kOneWay * all ? -1 : 0;
  way.there = double(chain.span()) / double(count);
  return way;
}

/// A face that is somewhere else soon after one was lost, and of its size, is the same: it went quickly, or was turned
/// away meanwhile.
std::vector<Chain> continued(std::vector<Chain> chains) {
  const auto size = [](const Chain::Link& link) { return link.sight.box.height; };
  for (size_t i = 0; i < chains.size(); ++i)
    for (size_t k = i + 1; k < chains.size(); ++k) {
      const Chain::Link& last = chains[i].links.back();
      const Chain::Link& first = chains[k].links.front();
      if (first.glance <= last.glance || first.glance - last.glance > kFaceGap ||
          std::max(size(last), size(first)) > kSameSize * std::min(size(last), size(first)))
        continue;
      chains[i].links.insert(chains[i].links.end(), chains[k].links.begin(), chains[k].links.end());
      chains.erase(chains.begin() + ptrdiff_t(k));
      k = i; // from the next one on again: it ends later now
    }
  return chains;
}

/// Faces, the one that matters most first.
std::vector<Way> facesOf(const ShotLook& look, size_t from, size_t to) {
  const size_t count = to - from;
  std::vector<Way> ways;
  for (const Chain& chain : continued(chainsOf(look, from, to, Sight::Kind::Face, kFaceGap))) {
    Way way = wayOf(look, chain, count);
    double sure = 0;
    for (const Chain::Link& link : chain.links) sure = std::max(sure, link.sight.strength);
    // Seen once in passing, it is no face.
    if (chain.links.size() < 2 && (count > 3 || sure < 0.6)) continue;
    std::vector<double> sizes;
    for (const TrackPoint& point : way.track.points) sizes.push_back(point.box.height);
    way.strength = way.there * std::sqrt(middleOf(sizes)) * (0.5 + sure / 2);
    ways.push_back(std::move(way));
  }
  std::sort(ways.begin(), ways.end(), [](const Way& a, const Way& b) { return a.strength > b.strength; });
  return ways;
}

/// What moves, the liveliest first. `all` is what everything that moves has.
std::vector<Way> movingOf(const ShotLook& look, size_t from, size_t to, double& all) {
  const size_t count = to - from;
  std::vector<Way> ways;
  all = 0;
  for (const Chain& chain : chainsOf(look, from, to, Sight::Kind::Motion, kMotionGap)) {
    double sum = 0;
    for (const Chain::Link& link : chain.links) {
      const RectF& box = link.sight.box;
      sum += std::sqrt(box.width * box.height) * std::min(0.5, link.sight.strength);
    }
    sum /= double(count);
    all += sum;
    if (chain.links.size() < 3) continue;
    Way way = wayOf(look, chain, count);
    way.strength = sum;
    ways.push_back(std::move(way));
  }
  std::sort(ways.begin(), ways.end(), [](const Way& a, const Way& b) { return a.strength > b.strength; });
  return ways;
}

/// What stands out, on the whole of a part: one place, and how far the glances agree.
std::optional<Way> standingOut(const ShotLook& look, size_t from, size_t to) {
  std::vector<double> x;
  std::vector<double> y;
  std::vector<double> sure;
  RectF box;
  for (size_t g = from; g < to; ++g)
    for (const Sight& sight : look.glances[g].sights)
      if (sight.kind == Sight::Kind::Detail) {
        box = sight.box;
        x.push_back(box.x + box.width / 2);
        y.push_back(box.y + box.height / 2);
        sure.push_back(sight.strength);
      }
  if (x.empty()) return {};
  const double atX = middleOf(x);
  const double atY = middleOf(y);
  double near = 0;
  for (size_t i = 0; i < x.size(); ++i) near += std::hypot(x[i] - atX, y[i] - atY) < 0.08 ? 1 : 0;
  Way way;
  way.by = Sight::Kind::Detail;
  // No more is known of its size than that it lies there.
  const RectF small{atX - 0.06, atY - 0.08, 0.12, 0.16};
  way.track.points = {{look.glances[from].frame, small}};
  way.there = near / double(x.size());
  way.strength = middleOf(sure);
  return way;
}

/// Two ways are at the same moments for so much of a part.
double together(const Way& a, const Way& b, size_t count) {
  const int64_t from = std::max(a.track.points.front().frame, b.track.points.front().frame);
  const int64_t to = std::min(a.track.points.back().frame, b.track.points.back().frame);
  const auto both = std::count_if(a.track.points.begin(), a.track.points.end(),
                                  [&](const TrackPoint& p) { return p.frame >= from && p.frame <= to; });
  return double(both) / double(count);
}

double middleX(const Way& way) {
  return middlePoint(way.track).x();
}

CoursePart partOf(const ShotLook& look, size_t from, size_t to) {
  CoursePart part;
  const size_t count = to - from;
  std::vector<Way> faces = facesOf(look, from, to);
  double allMotion = 0;
  std::vector<Way> moving = movingOf(look, from, to, allMotion);
  const std::optional<Way> detail = standingOut(look, from, to);

  std::vector<Way> ranked;
  const auto take = [&](std::vector<Way>& ways, size_t place) {
    ranked.push_back(ways[place]);
    ways.erase(ways.begin() + ptrdiff_t(place));
  };
  if (!faces.empty() && faces.front().there >= kFaceSeen) {
    take(faces, 0);
    part.confidence = std::clamp(0.45 + 0.55 * std::min(1.0, ranked[0].there * 1.2), 0.0, 1.0);
    for (size_t i = 0; i < faces.size(); ++i) {
      if (faces[i].strength < kAlike * ranked[0].strength || together(ranked[0], faces[i], count) < kTwoThere) continue;
      const double apart = std::abs(middleX(ranked[0]) - middleX(faces[i]));
      if (apart < 0.5 * ranked[0].track.points.front().box.width) continue;
      take(faces, i);
      break;
    }
    part.ways = ranked;
    // A third that matters alike: which of them is meant is a guess.
    if (ranked.size() == 2 && !faces.empty() && faces.front().strength > kAlike * ranked[0].strength)
      part.confidence *= 0.6;
  } else if (!moving.empty()) {
    take(moving, 0);
    const double share = allMotion > 0 ? ranked[0].strength / allMotion : 0;
    const double second = moving.empty() ? 0 : moving.front().strength / ranked[0].strength;
    part.confidence = std::clamp((1.2 * share - 0.05) * (0.4 + 0.6 * std::min(1.0, ranked[0].there * 1.3)), 0.0, 0.95);
    if (second > kAlike && together(ranked[0], moving.front(), count) > kTwoThere) {
      const double both = allMotion > 0 ? (ranked[0].strength + moving.front().strength) / allMotion : 0;
      take(moving, 0);
      part.confidence =
          std::clamp((1.2 * both - 0.15) * (0.4 + 0.6 * std::min(ranked[0].there, ranked[1].there)), 0.0, 0.9);
    }
    part.ways = ranked;
  } else if (detail) {
    part.ways = {*detail};
    part.confidence = std::clamp(0.75 * detail->strength * detail->there * detail->there, 0.0, 0.9);
  } else {
    part.confidence = 1; // an empty picture: any part of it is right
  }
  for (std::vector<Way>* rest : {&faces, &moving})
    for (Way& each : *rest)
      if (part.others.size() < kMostOthers) part.others.push_back(std::move(each));
  if (detail && part.others.size() < kMostOthers && (part.ways.empty() || part.ways.front().by != Sight::Kind::Detail))
    part.others.push_back(*detail);
  std::sort(part.ways.begin(), part.ways.end(), [](const Way& a, const Way& b) { return middleX(a) < middleX(b); });
  return part;
}

} // namespace

TrackPoint middlePoint(const Track& track) {
  const auto middle = [&](auto part) {
    std::vector<double> values;
    for (const TrackPoint& point : track.points) values.push_back(part(point));
    return middleOf(std::move(values));
  };
  const double width = middle([](const TrackPoint& p) { return p.box.width; });
  const double height = middle([](const TrackPoint& p) { return p.box.height; });
  return {track.points.empty() ? 0 : track.points.front().frame,
          {middle([](const TrackPoint& p) { return p.x(); }) - width / 2,
           middle([](const TrackPoint& p) { return p.y(); }) - height / 2, width, height}};
}

std::vector<SeenBox> seenBoxes(const Course& course, const FrameClock& clock) {
  constexpr size_t kMost = 24;
  std::vector<SeenBox> all;
  for (const CoursePart& part : course.parts)
    for (const Way& way : part.ways)
      for (const TrackPoint& point : way.track.points) all.push_back({clock.timeOf(point.frame).toDouble(), point.box});
  const size_t step = all.size() / kMost + 1;
  std::vector<SeenBox> some;
  for (size_t i = 0; i < all.size(); i += step) some.push_back(all[i]);
  return some;
}

bool rests(const Way& way) {
  const auto spread = [&](auto part) {
    std::vector<double> values;
    for (const TrackPoint& point : way.track.points) values.push_back(part(point));
    std::sort(values.begin(), values.end());
    const auto out = size_t(kSeldom * double(values.size()));
    return values[values.size() - 1 - out] - values[out];
  };
  const double within = std::max(kRestsWithin, kSways * middlePoint(way.track).box.width);
  return spread([](const TrackPoint& p) { return p.x(); }) < within &&
         spread([](const TrackPoint& p) { return p.y(); }) < 2 * within;
}

Course courseOf(const ShotLook& look) {
  Course course;
  course.confidence = 1;
  bool moving = false;
  bool two = false;
  size_t from = 0;
  int64_t first = look.first;
  for (size_t c = 0; c <= look.cuts.size(); ++c) {
    const int64_t end = c < look.cuts.size() ? look.cuts[c] : look.end;
    size_t to = from;
    while (to < look.glances.size() && look.glances[to].frame < end) ++to;
    CoursePart part;
    if (to > from) part = partOf(look, from, to);
    part.first = std::exchange(first, end);
    part.end = end;
    from = to;
    // What is too short to be seen takes nothing away.
    if (!part.ways.empty() || part.end - part.first > 12)
      course.confidence = std::min(course.confidence, part.confidence);
    two = two || part.ways.size() > 1;
    for (const Way& way : part.ways) moving = moving || !rests(way);
    course.parts.push_back(std::move(part));
  }
  moving = moving || course.parts.size() > 1;
  course.kind = course.confidence < kSureEnough ? Course::Kind::Unsure
                : two                           ? Course::Kind::Two
                : moving                        ? Course::Kind::Moves
                                                : Course::Kind::Rests;
  return course;
}

const char* courseWord(Course::Kind kind) {
  switch (kind) {
  case Course::Kind::Rests:
    return "rests";
  case Course::Kind::Moves:
    return "moves";
  case Course::Kind::Two:
    return "two";
  case Course::Kind::Unsure:
    break;
  }
  return "unsure";
}

const char* sightWord(Sight::Kind kind) {
  switch (kind) {
  case Sight::Kind::Face:
    return "face";
  case Sight::Kind::Motion:
    return "motion";
  case Sight::Kind::Detail:
    return "detail";
  case Sight::Kind::Words:
    break;
  }
  return "words";
}

} // namespace tromb
