// SPDX-License-Identifier: GPL-3.0-or-later
#include "geometry/WaysToFill.h"

#include "geometry/LegalSize.h"

#include <algorithm>
#include <cmath>

namespace tromb {
namespace {

// How much is minded beside a doubling of size, by judgement.
constexpr double kShrunk = 0.9; ///< whoever watches enlarges it
constexpr double kCut = 3;
constexpr double kHidden = 0.5;
constexpr double kTwice = 2;
constexpr double kBars = 4;
constexpr double kGround = 1.5;
constexpr double kUnseen = 0.5;
constexpr double kPart = 0.25;    ///< each beyond the first
constexpr double kBetter = 1.05;  ///< times the detail that a way gives at least, to be one
constexpr SizeF kUsual{0.3, 0.5}; ///< of a picture, that a subject takes where nothing else is known of it

/// Where a subject lies of which nothing but its place is known.
std::vector<SeenBox> usualBoxes(const Subjects& subjects, double seconds) {
  std::vector<SeenBox> boxes;
  const auto add = [&](double x, double y) {
    const double left = std::clamp(x - kUsual.width / 2, 0.0, 1 - kUsual.width);
    const double top = std::clamp(y - kUsual.height / 2, 0.0, 1 - kUsual.height);
    boxes.push_back({seconds, {left, top, kUsual.width, kUsual.height}});
  };
  for (const Subject& subject : subjects) {
    const MovePlace at = placeAt(subject.move, seconds);
    add(at.x, at.y);
  }
  if (boxes.empty()) add(0.5, 0.5);
  return boxes;
}

FillLoss lossOf(const PictureShape& shape, const WayToFill& way, const Subjects& subjects, double middle,
                const FillGrounds& grounds) {
  constexpr int kAcross = 64; // places that are asked for
  constexpr int kDown = 36;
  FillLoss loss;
  loss.enlarged = std::max(1.0, 1 / std::max(way.detail, 1e-6));
  const SizeF picture = shape.picture();
  const auto windowsAt = [&](double seconds) {
    std::vector<Placement> placements = place(shape, way.canvas, way.framing, subjects, seconds);
    std::erase_if(placements, [](const Placement& p) { return p.isGround(); });
    return placements;
  };
  const std::vector<Placement> all = place(shape, way.canvas, way.framing, subjects, middle);
  const bool grounded = std::any_of(all.begin(), all.end(), [](const Placement& p) { return p.isGround(); });
  const std::vector<Placement> windows = windowsAt(middle);
  loss.parts = int(windows.size());
  double covered = 0;
  for (const Placement& p : windows) covered += double(p.canvas.width) * p.canvas.height;
  if (grounded) // else what is not covered is bars
    loss.ground = std::max(0.0, 1 - covered / (double(way.canvas.width) * way.canvas.height));
  int once = 0;
  int more = 0;
  for (int y = 0; y < kDown; ++y)
    for (int x = 0; x < kAcross; ++x) {
      const double atX = (x + 0.5) / kAcross * picture.width;
      const double atY = (y + 0.5) / kDown * picture.height;
      const auto shown = std::count_if(windows.begin(), windows.end(), [&](const Placement& p) {
        return atX >= p.window.x && atX < p.window.x + p.window.width && atY >= p.window.y &&
               atY < p.window.y + p.window.height;
      });
      once += shown > 0 ? 1 : 0;
      more += shown > 1 ? 1 : 0;
    }
  loss.unseen = 1 - double(once) / (kAcross * kDown);
  loss.twice = once > 0 ? double(more) / once : 0;
  for (const SeenBox& each : grounds.matters) {
    const RectF box{each.box.x * picture.width, each.box.y * picture.height, each.box.width * picture.width,
                    each.box.height * picture.height};
    double most = 0;
    bool hidden = false;
    for (const Placement& p : windowsAt(each.seconds)) {
      const double across = std::min(box.x + box.width, p.window.x + p.window.width) - std::max(box.x, p.window.x);
      const double down = std::min(box.y + box.height, p.window.y + p.window.height) - std::max(box.y, p.window.y);
      if (across <= 0 || down <= 0 || across * down <= most * box.width * box.height) continue;
      most = across * down / (box.width * box.height);
      const double x =
          (p.canvas.x + (box.x + box.width / 2 - p.window.x) / p.window.width * p.canvas.width) / way.canvas.width;
      const double y =
          (p.canvas.y + (box.y + box.height / 2 - p.window.y) / p.window.height * p.canvas.height) / way.canvas.height;
      hidden = std::any_of(grounds.covered.begin(), grounds.covered.end(), [&](const RectF& part) {
        return x >= part.x && x <= part.right() && y >= part.y && y <= part.bottom();
      });
    }
    loss.hidden += double(hidden) / double(grounds.matters.size());
    loss.cut += (1 - most) / double(grounds.matters.size());
  }
  return loss;
}

} // namespace

std::vector<std::pair<FillLoss::Of, double>> FillLoss::weights() const {
  return {{Of::Enlarged, std::log2(enlarged)},
          {Of::Shrunk, kShrunk * std::log2(shrunk)},
          {Of::Cut, kCut * cut},
          {Of::Hidden, kHidden * hidden},
          {Of::Fast, std::log2(fast)},
          {Of::Unseen, kUnseen * unseen},
          {Of::Twice, kTwice * twice},
          {Of::Bars, kBars * bars},
          {Of::Ground, kGround * ground},
          {Of::Parts, kPart * std::max(0, parts - 1)}};
}

double FillLoss::weight() const {
  double sum = 0;
  for (const auto& [of, weight] : weights()) sum += weight;
  return sum;
}

std::vector<WayToFill> waysToFill(const PictureShape& shape, Size canvas, const Framing& now, const Subjects& subjects,
                                  double from, double to, const FillGrounds& grounds) {
  using Kind = WayToFill::Kind;
  std::vector<WayToFill> ways;
  const double middle = (from + to) / 2;
  FillGrounds known = grounds;
  if (known.matters.empty()) known.matters = usualBoxes(subjects, middle);
  double plain = 0;
  const auto add = [&](Kind kind, const Framing& framing, Size size) {
    const Shortfall least = worst(shape, size, framing, subjects, from, to);
    if (kind != Kind::Now && (least.uncoveredPercent > 0 || least.detail <= plain * kBetter)) return;
    if (kind == Kind::Fill) plain = least.detail;
    // Plain fill is no other way where that is what there is, slid aside.
    if (kind == Kind::Fill && !ways.empty() && now.layout == Layout::Single && ways.front().loss.bars <= 0 &&
        least.detail <= ways.front().detail * kBetter)
      return;
    WayToFill way{kind, framing, size, least.detail, kind == Kind::Now || (kind == Kind::Fill && framing == now), {}};
    way.loss = lossOf(shape, way, subjects, middle, known);
    const double travel = to > from ? fastestTravel(shape, size, framing, subjects, from, to) * grounds.speed : 0;
    way.loss.fast = std::max(1.0, travel * kSecondsAWidth);
    way.loss.bars = least.uncoveredPercent / 100;
    way.loss.shrunk = double(canvas.width) / size.width;
    ways.push_back(way);
  };
  if (now != Framing{}) add(Kind::Now, now, canvas);

  const auto named = [](const char* name) {
    Framing framing;
    (void)framingByName(name, framing);
    return framing;
  };
  add(Kind::Fill, Framing{}, canvas);
  const bool zoomed = std::any_of(now.windows.begin(), now.windows.end(), [](const Window& window) {
    return window.zoom > 1.001 ||
           std::any_of(window.move.begin(), window.move.end(), [](const MoveKey& key) { return key.zoom > 1.001; });
  });
  if (zoomed && now.layout != Layout::Single) {
    Framing wider = now;
    for (Window& window : wider.windows) {
      window.zoom = 1;
      for (MoveKey& key : window.move) key.zoom = 1;
    }
    add(Kind::Wider, wider, canvas);
  }
  // A tall canvas from a wide picture is stacked, a wide one from a tall picture goes side by side.
  const SizeF picture = shape.picture();
  if (canvas.ratio() < picture.width / picture.height) {
    add(Kind::Stack2, named("stack2"), canvas);
    add(Kind::Stack3, named("stack3"), canvas);
  } else {
    add(Kind::Side2, named("side2"), canvas);
    add(Kind::Side3, named("side3"), canvas);
  }
  if (const Size sharp = largestSharpCanvas(shape, canvas.ratio());
      sharp.width >= 2 && sharp.height >= 2 && sharp.width < canvas.width)
    add(Kind::Canvas, Framing{}, sharp);
  add(Kind::Backdrop, named("backdrop"), canvas);
  std::stable_sort(ways.begin(), ways.end(),
                   [](const WayToFill& a, const WayToFill& b) { return a.loss.weight() < b.loss.weight(); });
  return ways;
}

} // namespace tromb
