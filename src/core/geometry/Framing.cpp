// SPDX-License-Identifier: GPL-3.0-or-later
#include "geometry/Framing.h"

#include "geometry/ObjectFit.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace tromb {
namespace {

/// Limits a window's centre on one axis so that it stays inside the picture, or centres it if it is larger than the
/// picture.
double stoppedCentre(double centre, double windowLength, double pictureLength) {
  const double half = windowLength / pictureLength / 2;
  if (half >= 0.5) return 0.5;
  return std::clamp(centre, half, 1 - half);
}

SizeF windowSize(SizeF picture, SizeF share, const Window& window) {
  const ObjectFit fit = window.base == WindowBase::Fill ? ObjectFit::Cover : ObjectFit::Contain;
  const double drawnPerPicture = objectFit(picture, share, fit).width / picture.width * window.zoom;
  return {share.width / drawnPerPicture, share.height / drawnPerPicture};
}

int evenNearest(double pixels) {
  return int(std::lround(pixels / 2)) * 2;
}

/// The part of `window` that lies inside the picture, and the canvas pixels it fills.
Placement clipped(SizeF picture, const PixelRect& share, const RectF& window, Placement::Kind kind) {
  const double scale = share.width / window.width;
  const double left = std::max(0.0, window.x);
  const double top = std::max(0.0, window.y);
  const RectF inside{left, top, std::min(picture.width, window.right()) - left,
                     std::min(picture.height, window.bottom()) - top};
  // A place less than a pixel from the end counts as the end, also for the odd sizes that are only tried out.
  const auto edge = [](double at, int least, int end) {
    return at > end - 1 ? end : std::clamp(evenNearest(at), least, end);
  };
  const int x0 = evenNearest((inside.x - window.x) * scale);
  const int y0 = evenNearest((inside.y - window.y) * scale);
  const int x1 = edge((inside.right() - window.x) * scale, x0 + 2, share.width);
  const int y1 = edge((inside.bottom() - window.y) * scale, y0 + 2, share.height);
  return {inside, {share.x + x0, share.y + y0, x1 - x0, y1 - y0}, kind, {}, true};
}

SizeF sizeOf(const PixelRect& share) {
  return {double(share.width), double(share.height)};
}

} // namespace

Window Framing::follower(double x, WindowBase base) {
  Window window;
  window.base = base;
  window.x = x;
  window.follows = true;
  return window;
}

bool Framing::byHand() const {
  return std::any_of(windows.begin(), windows.end(), [](const Window& w) { return !w.follows; });
}

size_t windowCount(Layout layout) {
  switch (layout) {
  case Layout::Stack2:
  case Layout::Side2:
    return 2;
  case Layout::Stack3:
  case Layout::Side3:
    return 3;
  case Layout::Single:
  case Layout::Backdrop:
    break;
  }
  return 1;
}

bool sideBySide(Layout layout) {
  return layout == Layout::Side2 || layout == Layout::Side3;
}

bool framingByName(std::string_view name, Framing& framing) {
  struct Named {
    std::string_view name;
    Layout layout;
    WindowBase base;
  };
  static constexpr Named kNamed[] = {
      {"fill", Layout::Single, WindowBase::Fill},     {"fit", Layout::Single, WindowBase::Fit},
      {"stack2", Layout::Stack2, WindowBase::Fill},   {"stack3", Layout::Stack3, WindowBase::Fill},
      {"side2", Layout::Side2, WindowBase::Fill},     {"side3", Layout::Side3, WindowBase::Fill},
      {"backdrop", Layout::Backdrop, WindowBase::Fit}};
  for (const Named& each : kNamed) {
    if (each.name != name) continue;
    framing = {};
    framing.layout = each.layout;
    framing.windows.clear();
    const auto count = windowCount(each.layout);
    for (size_t i = 0; i < count; ++i)
      framing.windows.push_back(Framing::follower((2 * double(i) + 1) / (2 * double(count)), each.base));
    return true;
  }
  return false;
}

Window stopped(SizeF picture, SizeF share, Window window) {
  window.zoom = std::clamp(window.zoom, 1.0, kMostZoom);
  const SizeF size = windowSize(picture, share, window);
  window.x = stoppedCentre(window.x, size.width, picture.width);
  window.y = stoppedCentre(window.y, size.height, picture.height);
  return window;
}

RectF resolveWindow(SizeF picture, SizeF share, const Window& window) {
  const Window at = stopped(picture, share, window);
  const SizeF size = windowSize(picture, share, at);
  return {at.x * picture.width - size.width / 2, at.y * picture.height - size.height / 2, size.width, size.height};
}

Window windowAtTime(SizeF picture, SizeF share, const Window& window, const Subject* subject, double seconds) {
  Window at; // without copying the keys of its move: this is asked for every frame of every cell
  at.base = window.base;
  at.x = window.x;
  at.y = window.y;
  at.zoom = window.zoom;
  at.unknown = window.unknown;
  if (!window.move.empty()) {
    const MovePlace place = placeAt(window.move, seconds);
    at.x = place.x;
    at.y = place.y;
    at.zoom = place.zoom;
  }
  if (window.follows && subject) {
    at.zoom = std::clamp(at.zoom, 1.0, kMostZoom);
    const SizeF size = windowSize(picture, share, at);
    const MovePlace where = placeAt(subject->move, seconds);
    at.x = where.x + (0.5 - subject->atX) * size.width / picture.width;
    at.y = where.y + (0.5 - subject->atY) * size.height / picture.height;
  }
  return stopped(picture, share, std::move(at));
}

Framing heldSharp(const PictureShape& shape, Size canvas, Framing framing) {
  const std::vector<PixelRect> shares = canvasShares(framing, canvas);
  const SizeF density = shape.recordedDensity();
  for (size_t i = 0; i < framing.windows.size(); ++i) {
    Window& window = framing.windows[i];
    Window widest = window;
    widest.zoom = 1;
    const SizeF share = sizeOf(shares[i]);
    const SizeF size = windowSize(shape.picture(), share, widest);
    const double sharp =
        std::max(1.0, std::min(size.width * density.width / share.width, size.height * density.height / share.height));
    window.zoom = std::min(window.zoom, sharp);
    for (MoveKey& key : window.move) key.zoom = std::min(key.zoom, sharp);
  }
  return framing;
}

std::vector<PixelRect> canvasShares(const Framing& framing, Size canvas) {
  const auto count = windowCount(framing.layout);
  const bool side = sideBySide(framing.layout);
  const int length = side ? canvas.width : canvas.height;
  const int gap = count > 1 ? evenNearest(std::clamp(framing.gap, 0.0, kMostGap) * length) : 0;
  const double open = length - gap * (double(count) - 1);
  std::vector<PixelRect> rects;
  double filled = 0;
  int from = 0;
  for (size_t i = 0; i < count; ++i) {
    filled += framing.shares.size() == count ? framing.shares[i] : 1.0 / double(count);
    // Shares meet on even lines, as 4:2:0 asks; the last takes what is left.
    const int to = i + 1 == count ? length : evenNearest(open * filled) + gap * int(i);
    rects.push_back(side ? PixelRect{from, 0, to - from, canvas.height} : PixelRect{0, from, canvas.width, to - from});
    from = to + gap;
  }
  return rects;
}

std::vector<Placement> place(const PictureShape& shape, Size canvas, const Framing& framing, const Subjects& subjects,
                             double seconds) {
  const SizeF picture = shape.picture();
  const PixelRect whole{0, 0, canvas.width, canvas.height};
  const auto subject = [&subjects](size_t i) { return i < subjects.size() ? &subjects[i] : nullptr; };
  std::vector<Placement> placements;
  if (framing.layout == Layout::Backdrop) {
    static constexpr Placement::Kind kKinds[] = {Placement::Kind::Copy, Placement::Kind::Colour,
                                                 Placement::Kind::Gradient, Placement::Kind::Still};
    Placement ground = clipped(picture, whole, resolveWindow(picture, sizeOf(whole), Window{}), Placement::Kind::Copy);
    ground.kind = kKinds[int(framing.ground)];
    if (ground.kind != Placement::Kind::Copy) ground.window = {0, 0, picture.width, picture.height};
    ground.colour = framing.colour;
    ground.upright = picture.width / picture.height > canvas.ratio();
    placements.push_back(ground);
  } else if (windowCount(framing.layout) > 1 && framing.gap > 0) {
    placements.push_back({{0, 0, picture.width, picture.height}, whole, Placement::Kind::Colour, framing.colour, true});
  }
  static const Window kWhole;
  const std::vector<PixelRect> shares = canvasShares(framing, canvas);
  for (size_t i = 0; i < shares.size(); ++i) {
    const Window& window = i < framing.windows.size() ? framing.windows[i] : kWhole;
    const SizeF share = sizeOf(shares[i]);
    const Placement shown = clipped(
        picture, shares[i], resolveWindow(picture, share, windowAtTime(picture, share, window, subject(i), seconds)),
        Placement::Kind::Picture);
    if (shape.transparent() && framing.layout != Layout::Backdrop)
      placements.push_back({shown.window, shown.canvas, Placement::Kind::Colour, framing.colour, true});
    placements.push_back(shown);
  }
  return placements;
}

Framing withoutStill(Framing framing) {
  framing.still.clear();
  if (framing.ground == Ground::Still) framing.ground = Ground::Copy;
  return framing;
}

Framing shifted(Framing framing, const Rational& by) {
  for (Window& window : framing.windows) window.move = shifted(window.move, by);
  return framing;
}

bool moves(const Framing& framing, const Subjects& subjects) {
  for (size_t i = 0; i < framing.windows.size(); ++i) {
    const Window& window = framing.windows[i];
    if (!window.move.empty() && moves(window.move)) return true;
    if (window.follows && i < subjects.size() && moves(subjects[i].move)) return true;
  }
  return false;
}

double detail(const PictureShape& shape, const std::vector<Placement>& placements) {
  const SizeF density = shape.recordedDensity();
  double least = std::numeric_limits<double>::infinity();
  for (const Placement& p : placements)
    if (!p.isGround())
      least = std::min(
          {least, p.window.width * density.width / p.canvas.width, p.window.height * density.height / p.canvas.height});
  return least;
}

double uncoveredPercent(Size canvas, const std::vector<Placement>& placements) {
  double covered = 0;
  for (const Placement& p : placements) {
    if (p.isGround() && p.canvas == PixelRect{0, 0, canvas.width, canvas.height}) return 0;
    if (!p.isGround())
      covered += p.canvas.area(); // a ground that only shows through a transparent picture covers nothing in addition
  }
  const double open = 1 - covered / (double(canvas.width) * canvas.height);
  return open < 1e-9 ? 0 : open * 100;
}

Shortfall worst(const PictureShape& shape, Size canvas, const Framing& framing, const Subjects& subjects, double from,
                double to) {
  std::vector<double> times{from, to};
  for (const Window& window : framing.windows)
    for (const MoveKey& key : window.move)
      if (const double time = key.time.toDouble(); time > from && time < to) times.push_back(time);
  Shortfall found{std::numeric_limits<double>::infinity(), 0};
  for (const double time : times) {
    const auto placements = place(shape, canvas, framing, subjects, time);
    found.detail = std::min(found.detail, detail(shape, placements));
    found.uncoveredPercent = std::max(found.uncoveredPercent, uncoveredPercent(canvas, placements));
  }
  return found;
}

double fastestTravel(const PictureShape& shape, Size canvas, const Framing& framing, const Subjects& subjects,
                     double from, double to, double stepsASecond) {
  if (!moves(framing, subjects)) return 0;
  std::vector<double> jumps;
  const auto addJumps = [&](const Move& move) {
    for (size_t i = 1; i < move.size(); ++i)
      if (move[i - 1].ease == Ease::Hold) jumps.push_back(move[i].time.toDouble());
  };
  for (const Window& window : framing.windows) addJumps(window.move);
  for (const Subject& subject : subjects) addJumps(subject.move);
  double fastest = 0;
  double last = from;
  std::vector<Placement> before = place(shape, canvas, framing, subjects, from);
  const auto steps = int(std::ceil((to - from) * stepsASecond));
  for (int n = 1; n <= steps; ++n) {
    const double time = from + n / stepsASecond;
    std::vector<Placement> now = place(shape, canvas, framing, subjects, time);
    const bool jumped =
        std::any_of(jumps.begin(), jumps.end(), [&](double jump) { return jump > last - 1e-9 && jump <= time + 1e-9; });
    last = time;
    for (size_t i = 0; i < now.size() && !jumped; ++i) {
      if (now[i].isGround()) continue;
      const RectF& a = before[i].window;
      const RectF& b = now[i].window;
      const double across = std::abs(a.x + a.width / 2 - b.x - b.width / 2) / b.width;
      const double up = std::abs(a.y + a.height / 2 - b.y - b.height / 2) / b.height;
      fastest = std::max({fastest, across * stepsASecond, up * stepsASecond});
    }
    before = std::move(now);
  }
  return fastest;
}

} // namespace tromb
