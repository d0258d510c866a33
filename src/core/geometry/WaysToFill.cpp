// SPDX-License-Identifier: GPL-3.0-or-later
#include "geometry/WaysToFill.h"

#include "geometry/LegalSize.h"

#include <algorithm>

namespace tromb {

std::vector<WayToFill> waysToFill(const PictureShape& shape, Size canvas, const Framing& now, const Subjects& subjects,
                                  double from, double to) {
  using Kind = WayToFill::Kind;
  std::vector<WayToFill> ways;
  const auto add = [&](Kind kind, const Framing& framing, Size size) {
    const Shortfall least = worst(shape, size, framing, subjects, from, to);
    if (least.uncoveredPercent > 0) return;
    if (!ways.empty() && least.detail <= ways.front().detail * 1.01) return; // this way is hardly better
    ways.push_back({kind, framing, size, least.detail});
  };
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
  std::stable_sort(ways.begin() + std::min<ptrdiff_t>(1, ptrdiff_t(ways.size())), ways.end(),
                   [](const WayToFill& a, const WayToFill& b) { return a.detail < b.detail; });
  return ways;
}

} // namespace tromb
