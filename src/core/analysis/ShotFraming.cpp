// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/ShotFraming.h"

#include "analysis/Calming.h"

#include <algorithm>
#include <cmath>

namespace tromb {
namespace {

constexpr double kCalm = 0.45;         ///< see CalmOptions::strength
constexpr double kHardest = 0.12;      ///< pictures a second in a second
constexpr double kWordsThere = 0.5;    ///< share of the glances that looked for lettering, in which a line is seen
constexpr double kBeside = 0.006;      ///< of the picture, that an edge stays away from what it would cut
constexpr double kStackedApart = 0.5;  ///< of a window's width: nearer, both would show the same
constexpr double kFarthestAside = 0.5; ///< of what lies between the subject and the window's edge, to spare something

/// One canvas that nobody has framed the shot in.
struct Cell {
  const Deliverable* deliverable;
  PictureShape shape;
  double across; ///< width of the window that fills, in shares of the picture
  double down;
};

std::vector<Cell> cellsOf(const Project& project, const Shot& shot, const VideoInfo& video) {
  std::vector<Cell> cells;
  const Source* source = project.source(shot.source);
  for (const Deliverable& d : project.deliverables) {
    const auto own = d.framings.find(shot.id);
    if (!source || (own != d.framings.end() && own->second.guess <= 0)) continue;
    Cell cell{&d, shapeIn(d, *source, video), 1, 1};
    const SizeF picture = cell.shape.picture();
    const Size canvas = d.canvas;
    const RectF window = resolveWindow(picture, {double(canvas.width), double(canvas.height)}, Framing::follower());
    cell.across = window.width / picture.width;
    cell.down = window.height / picture.height;
    cells.push_back(cell);
  }
  return cells;
}

/// A subject with its wanted place in the canvas, that has no move yet. `downs`: heights of the windows that it is
/// framed in, in shares of the picture's.
Subject subjectFor(const Course& course, size_t which, const FramingRules& rules, const std::vector<double>& downs) {
  Subject subject;
  double head = 0; // its height
  double faces = 0;
  double towards = 0;
  double parts = 0;
  for (const CoursePart& part : course.parts) {
    if (part.ways.empty()) continue;
    const Way& way = part.ways[std::min(which, part.ways.size() - 1)];
    const double length = double(part.end - part.first);
    parts += length;
    faces += way.by == Sight::Kind::Face ? length : 0;
    if (way.by == Sight::Kind::Face) head = std::max(head, middlePoint(way.track).box.height);
    towards += way.towards * length;
  }
  if (parts > 0 && faces > parts / 2) {
    subject.atY = rules.eyesAt;
    for (const double down :
         downs) // the eyes are lower where the head is large; a window of the whole height cannot move
      if (down < 0.999) subject.atY = std::max(subject.atY, std::min(0.5, rules.headroom + head / 2 / down));
  }
  if (parts > 0 && std::abs(towards) > parts / 2) subject.atX = 0.5 - (towards > 0 ? 1 : -1) * rules.room;
  return subject;
}

/// No stretch of a move that takes less than it should: it begins earlier and ends later, where there is room.
void lengthen(Move& move, const Rational& from, const Rational& to, double least) {
  if (move.size() < 2) return;
  const double begins = move.front().time.toDouble();
  const double ends = move.back().time.toDouble();
  if (ends - begins >= least) return;
  const double first = from.toDouble();
  const double last = to.toDouble();
  if (last - first < least) { // no room for a move: it rests in the middle of it
    const MovePlace middle = placeAt(move, (begins + ends) / 2);
    move.resize(1);
    move.front().x = middle.x;
    move.front().y = middle.y;
    return;
  }
  const double middle = std::clamp((begins + ends) / 2, first + least / 2, last - least / 2);
  for (MoveKey& key : move) {
    const double u = (key.time.toDouble() - begins) / (ends - begins) - 0.5;
    key.time = secondsOf(std::llround((middle + u * least) * double(kTicksASecond)));
  }
}

/// Leaves out what rests before and after: keys at one place.
void trim(Move& move) {
  const auto same = [](const MoveKey& a, const MoveKey& b) {
    return std::abs(a.x - b.x) < 0.004 && std::abs(a.y - b.y) < 0.004;
  };
  while (move.size() > 1 && same(move[0], move[1])) move.erase(move.begin());
  while (move.size() > 1 && same(move[move.size() - 1], move[move.size() - 2])) move.pop_back();
}

/// Where something lies that rests: the middle of where it was seen.
MoveKey restOf(const Way& way, const FrameClock& clock) {
  const TrackPoint middle = middlePoint(way.track);
  return {clock.timeOf(way.track.points.front().frame),
          std::clamp(middle.x(), 0.0, 1.0),
          std::clamp(middle.y(), 0.0, 1.0),
          1,
          Ease::Smooth,
          {}};
}

/// The calm move of one of a course's ways through all its parts; a cut is a jump.
Move moveOf(const Course& course, size_t which, const FrameClock& clock, const Reach& reach,
            const FramingRules& rules) {
  CalmOptions options;
  options.strength = kCalm;
  options.fastest = (reach.left + reach.right) / rules.crossing;
  options.hardest = kHardest;
  Move move;
  for (const CoursePart& part : course.parts) {
    if (part.ways.empty()) continue;
    const Way& way = part.ways[std::min(which, part.ways.size() - 1)];
    Move piece = rests(way) ? Move{restOf(way, clock)} : calmMove(way.track, clock, reach, options);
    if (piece.empty()) continue;
    const Rational from = clock.timeOf(part.first);
    trim(piece);
    lengthen(piece, from, clock.timeOf(part.end), rules.leastMove);
    if (!move.empty()) {
      move.back().ease = Ease::Hold;
      MoveKey jump = piece.front();
      jump.time = from;
      if (piece.size() == 1) piece.clear();
      if (piece.empty() || piece.front().time > from) piece.insert(piece.begin(), jump);
    }
    move.insert(move.end(), piece.begin(), piece.end());
  }
  return move;
}

/// The way of both subjects together: the box round them.
Course together(const Course& course) {
  Course made = course;
  for (CoursePart& part : made.parts) {
    if (part.ways.size() < 2) continue;
    const Track& a = part.ways[0].track;
    const Track& b = part.ways[1].track;
    Way both = part.ways[0];
    both.track.points.clear();
    const auto boxAt = [](const Track& track, int64_t frame) {
      auto next = std::lower_bound(track.points.begin(), track.points.end(), frame,
                                   [](const TrackPoint& p, int64_t f) { return p.frame < f; });
      return (next == track.points.end() ? track.points.back() : *next).box;
    };
    const Track& longer = a.points.size() >= b.points.size() ? a : b;
    for (const TrackPoint& point : longer.points) {
      const RectF p = boxAt(a, point.frame);
      const RectF q = boxAt(b, point.frame);
      const double left = std::min(p.x, q.x);
      const double top = std::min(p.y, q.y);
      both.track.points.push_back(
          {point.frame,
           {left, top, std::max(p.x + p.width, q.x + q.width) - left, std::max(p.y + p.height, q.y + q.height) - top}});
    }
    part.ways = {both};
  }
  return made;
}

double widest(const Course& both) {
  double width = 0;
  for (const CoursePart& part : both.parts)
    if (!part.ways.empty())
      for (const TrackPoint& point : part.ways[0].track.points) width = std::max(width, point.box.width);
  return width;
}

/// How far the two of a course lie apart, where that is most.
double widestApart(const Course& course) {
  double most = 0;
  for (const CoursePart& part : course.parts)
    if (part.ways.size() > 1)
      most = std::max(most, std::abs(middlePoint(part.ways[0].track).x() - middlePoint(part.ways[1].track).x()));
  return most;
}

struct Stretch {
  double from;
  double to;
};

/// What rests in the picture and must not be cut through, beside the subject: lines of lettering and faces.
std::vector<Stretch> keptWhole(const Course& course, const ShotLook& look) {
  std::vector<Stretch> kept;
  std::vector<std::pair<Stretch, int>> lines;
  int looks = 0;
  for (const Glance& glance : look.glances) {
    bool words = false;
    for (const Sight& sight : glance.sights) {
      if (sight.kind != Sight::Kind::Words) continue;
      words = true;
      const Stretch line{sight.box.x, sight.box.x + sight.box.width};
      const auto same = std::find_if(lines.begin(), lines.end(), [&](const auto& other) {
        return std::abs(other.first.from - line.from) < 0.03 && std::abs(other.first.to - line.to) < 0.03;
      });
      if (same == lines.end())
        lines.emplace_back(line, 1);
      else
        ++same->second;
    }
    looks += words ? 1 : 0;
  }
  for (const auto& [line, seen] : lines)
    if (seen >= 2 && seen >= kWordsThere * looks) kept.push_back(line);
  for (const CoursePart& part : course.parts)
    for (const Way& way : part.others) {
      if (way.by != Sight::Kind::Face) continue;
      Stretch face{1, 0};
      for (const TrackPoint& point : way.track.points) {
        face.from = std::min(face.from, point.box.x);
        face.to = std::max(face.to, point.box.x + point.box.width);
      }
      kept.push_back(face);
    }
  return kept;
}

/// How much of what is to be kept whole a window from `left` of width `across` cuts through, and how much of it is
/// outside.
double cutThrough(const std::vector<Stretch>& kept, double left, double across) {
  double sum = 0;
  for (const Stretch& each : kept)
    for (const double edge : {left, left + across})
      if (edge > each.from + 1e-6 && edge < each.to - 1e-6)
        sum += std::min(edge - each.from, each.to - edge) / (each.to - each.from) + 0.5;
  return sum;
}

/// Where the middle of a window is best, that would have it at `x`, for a subject from `from` to `to`.
double besideWords(const std::vector<Stretch>& kept, double x, double across, Stretch subject) {
  const auto left = [&](double middle) { return std::clamp(middle - across / 2, 0.0, 1 - across); };
  double best = cutThrough(kept, left(x), across);
  if (best <= 0) return x;
  const double least = std::min(x, std::max(across / 2, subject.to - across / 2 + kBeside));
  const double most = std::max(x, std::min(1 - across / 2, subject.from + across / 2 - kBeside));
  double chosen = x;
  std::vector<double> tries;
  for (const Stretch& each : kept)
    for (const double edge : {each.from - kBeside, each.to + kBeside}) {
      tries.push_back(edge + across / 2);
      tries.push_back(edge - across / 2);
    }
  std::sort(tries.begin(), tries.end(), [&](double a, double b) { return std::abs(a - x) < std::abs(b - x); });
  for (const double middle : tries) {
    if (middle < x - (x - least) * (0.5 + kFarthestAside) || middle > x + (most - x) * (0.5 + kFarthestAside)) continue;
    const double cut = cutThrough(kept, left(middle), across);
    if (cut < best - 1e-6) {
      best = cut;
      chosen = middle;
    }
  }
  return chosen;
}

} // namespace

FramedShot frameShot(const Course& course, const ShotLook& look, const Project& project, const Shot& shot,
                     const VideoInfo& video, const FramingRules& rules) {
  FramedShot framed;
  const std::vector<Cell> cells = cellsOf(project, shot, video);
  const auto found =
      std::find_if(course.parts.begin(), course.parts.end(), [](const CoursePart& part) { return !part.ways.empty(); });
  if (found == course.parts.end()) {
    Course middle = courseInMiddle(course);
    middle.confidence = course.confidence;
    return frameShot(middle, look, project, shot, video, rules);
  }
  const double guess = std::clamp(course.confidence, 0.01, 1.0);
  const bool two = std::any_of(course.parts.begin(), course.parts.end(),
                               [](const CoursePart& part) { return part.ways.size() > 1; });
  const Course both = two ? together(course) : course;
  const double width = two ? widest(both) : 0;
  const auto holdsBoth = [&](const Cell& cell) { return width <= cell.across * rules.bothWithin; };
  Framing stack;
  (void)framingByName("stack2", stack);
  stack.guess = guess;
  Framing backdrop;
  (void)framingByName("backdrop", backdrop);
  backdrop.guess = guess;
  // The window of one of two that lie one above the other, in shares of the picture.
  const auto stackedWindow = [&](const Cell& cell, size_t which) {
    const SizeF picture = cell.shape.picture();
    const PixelRect share = canvasShares(stack, cell.deliverable->canvas)[which];
    const RectF window = resolveWindow(picture, {double(share.width), double(share.height)}, Framing::follower());
    return SizeF{window.width / picture.width, window.height / picture.height};
  };
  const auto parted = [&](const Cell& cell) {
    return two && rules.stacks && !holdsBoth(cell) && cell.deliverable->canvas.height >= cell.deliverable->canvas.width;
  };
  const double apart = two ? widestApart(course) : 0;
  const auto stacked = [&](const Cell& cell) {
    return parted(cell) && apart >= kStackedApart * stackedWindow(cell, 0).width;
  };
  for (size_t which = 0; which < (two ? 2U : 1U); ++which) {
    std::vector<SizeF> windows; // shares of the picture
    for (const Cell& cell : cells) {
      if ((which > 0 || parted(cell)) && !stacked(cell)) continue;
      if (two && holdsBoth(cell)) continue;
      windows.push_back(stacked(cell) ? stackedWindow(cell, which) : SizeF{cell.across, cell.down});
    }
    if (which > 0 && windows.empty()) break;
    std::vector<double> downs;
    for (const SizeF& each : windows) downs.push_back(each.height);
    Subject subject = subjectFor(course, which, rules, downs);
    Reach reach;
    for (const SizeF& each : windows)
      reach = lesser(reach, {subject.atX * each.width, (1 - subject.atX) * each.width, subject.atY * each.height,
                             (1 - subject.atY) * each.height});
    subject.move = moveOf(course, which, video.clock, reach, rules);
    subject.guess = guess;
    framed.subjects.push_back(subject);
  }

  const std::vector<Stretch> kept = keptWhole(course, look);
  for (const Cell& cell : cells) {
    const std::string& id = cell.deliverable->id;
    if (parted(cell)) {
      framed.framings[id] = stacked(cell) ? stack : backdrop;
      continue;
    }
    Window window = Framing::follower();
    if (two && holdsBoth(cell) && cell.across < 0.999) {
      Subject middle = subjectFor(course, 0, rules, {cell.down});
      const Reach reach{cell.across / 2, cell.across / 2, middle.atY * cell.down, (1 - middle.atY) * cell.down};
      Move move = moveOf(both, 0, video.clock, reach, rules);
      window.follows = false;
      // Windows lie by their middles; eyes are wanted above it.
      for (MoveKey& key : move) key.y = std::clamp(key.y + (0.5 - middle.atY) * cell.down, 0.0, 1.0);
      window.x = move.front().x;
      window.y = move.front().y;
      if (move.size() > 1) window.move = move;
    } else if (const Subject& subject = framed.subjects.front(); !moves(subject.move) && cell.across < 0.999) {
      const Way& way = found->ways.front();
      const TrackPoint point = middlePoint(way.track);
      const double x = subject.move.front().x + (0.5 - subject.atX) * cell.across;
      const double beside = besideWords(kept, x, cell.across, {point.box.x, point.box.x + point.box.width});
      if (beside == x) continue;
      window.follows = false;
      window.x = beside;
      window.y = std::clamp(subject.move.front().y + (0.5 - subject.atY) * cell.down, 0.0, 1.0);
    } else {
      continue;
    }
    Framing framing;
    framing.windows = {window};
    framing.guess = guess;
    framed.framings[id] = framing;
  }
  return framed;
}

Course courseInMiddle(const Course& course) {
  Course made = course;
  made.kind = Course::Kind::Unsure;
  made.confidence = 0;
  made.parts.resize(1);
  made.parts.front().ways = {Way{Sight::Kind::Detail, {{{made.parts.front().first, {0.4, 0.4, 0.2, 0.2}}}}, 0, 1, 0}};
  made.parts.front().end = course.parts.back().end;
  return made;
}

Course courseWith(const Course& course, size_t other) {
  Course made = course;
  bool moving = made.parts.size() > 1;
  for (CoursePart& part : made.parts) {
    if (part.others.empty()) continue;
    const size_t place = std::min(other, part.others.size() - 1);
    std::vector<Way> before = std::exchange(part.ways, {part.others[place]});
    part.others.erase(part.others.begin() + ptrdiff_t(place));
    part.others.insert(part.others.begin(), before.begin(), before.end());
    moving = moving || part.ways.front().track.points.size() > 1;
  }
  made.kind = moving ? Course::Kind::Moves : Course::Kind::Rests;
  return made;
}

std::optional<Correction> correctionOf(const Course& course, double x, double y) {
  constexpr double kOnSomebody = 1.2; // widths and heights of the head, from its middle
  std::optional<Correction> nearest;
  for (const CoursePart& part : course.parts)
    for (const std::vector<Way>* ways : {&part.ways, &part.others})
      for (const Way& way : *ways) {
        if (way.appearances.empty()) continue;
        const TrackPoint middle = middlePoint(way.track);
        const Correction made{way.appearances, (x - middle.x()) / middle.box.width,
                              (y - middle.y()) / middle.box.height};
        if (std::max(std::abs(made.right), std::abs(made.down)) > kOnSomebody) continue;
        if (!nearest || std::hypot(made.right, made.down) < std::hypot(nearest->right, nearest->down)) nearest = made;
      }
  return nearest;
}

std::optional<Course> corrected(const Course& course, const Correction& correction) {
  constexpr double kNothing = 0.1; // of a head's width and height
  Course made = course;
  bool changes = false;
  bool any = false;
  for (CoursePart& part : made.parts) {
    std::vector<Way> all = part.ways;
    all.insert(all.end(), part.others.begin(), part.others.end());
    size_t best = all.size();
    double alike = kSamePerson;
    for (size_t i = 0; i < all.size(); ++i)
      if (const double its = likeness(all[i].appearances, correction.face); its >= alike) {
        alike = its;
        best = i;
      }
    if (best == all.size()) continue;
    any = true;
    changes = changes || part.ways.size() != 1 || best != 0 ||
              std::max(std::abs(correction.right), std::abs(correction.down)) > kNothing;
    Way way = all[best];
    for (TrackPoint& point : way.track.points) {
      point.box.x += correction.right * point.box.width;
      point.box.y += correction.down * point.box.height;
    }
    all.erase(all.begin() + ptrdiff_t(best));
    part.ways = {std::move(way)};
    part.others = std::move(all);
  }
  if (!any || !changes) return {};
  return made;
}

void lay(const FramedShot& framed, const std::string& shotId, Project& project) {
  for (Shot& shot : project.shots)
    if (shot.id == shotId) shot.subjects = framed.subjects;
  for (Deliverable& d : project.deliverables) {
    const auto now = d.framings.find(shotId);
    if (now != d.framings.end() && now->second.guess <= 0) continue;
    if (const auto own = framed.framings.find(d.id); own != framed.framings.end())
      d.framings[shotId] = own->second;
    else if (now != d.framings.end())
      d.framings.erase(now);
  }
}

} // namespace tromb
