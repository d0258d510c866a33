// SPDX-License-Identifier: GPL-3.0-or-later
#include "geometry/Framing.h"

#include "geometry/ObjectFit.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace tromb {
namespace {

/// A window's centre on one axis so that it does not pass the edge; centred where it is larger than the picture.
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
Placement clipped(SizeF picture, const PixelRect& share, const RectF& window, bool backdrop) {
  const double scale = share.width / window.width;
  const double left = std::max(0.0, window.x);
  const double top = std::max(0.0, window.y);
  const RectF inside{left, top, std::min(picture.width, window.right()) - left,
                     std::min(picture.height, window.bottom()) - top};
  // Less than a pixel from the end is the end, on the odd sizes too that are only tried out.
  const auto edge = [](double at, int least, int end) {
    return at > end - 1 ? end : std::clamp(evenNearest(at), least, end);
  };
  const int x0 = evenNearest((inside.x - window.x) * scale);
  const int y0 = evenNearest((inside.y - window.y) * scale);
  const int x1 = edge((inside.right() - window.x) * scale, x0 + 2, share.width);
  const int y1 = edge((inside.bottom() - window.y) * scale, y0 + 2, share.height);
  return {inside, {share.x + x0, share.y + y0, x1 - x0, y1 - y0}, backdrop};
}

SizeF sizeOf(const PixelRect& share) {
  return {double(share.width), double(share.height)};
}

} // namespace

size_t windowCount(Layout layout) {
  return layout == Layout::Stack2 ? 2 : layout == Layout::Stack3 ? 3 : 1;
}

bool framingByName(std::string_view name, Framing& framing) {
  const auto at = [](WindowBase base, double x) {
    Window window;
    window.base = base;
    window.x = x;
    return window;
  };
  const auto make = [&framing](Layout layout, std::vector<Window> windows) {
    framing = {};
    framing.layout = layout;
    framing.windows = std::move(windows);
    return true;
  };
  constexpr auto kFill = WindowBase::Fill;
  if (name == "fill") return make(Layout::Single, {at(kFill, 0.5)});
  if (name == "fit") return make(Layout::Single, {at(WindowBase::Fit, 0.5)});
  if (name == "backdrop") return make(Layout::Backdrop, {at(WindowBase::Fit, 0.5)});
  if (name == "stack2") return make(Layout::Stack2, {at(kFill, 0.25), at(kFill, 0.75)});
  if (name == "stack3") return make(Layout::Stack3, {at(kFill, 1.0 / 6), at(kFill, 0.5), at(kFill, 5.0 / 6)});
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

std::vector<PixelRect> layoutShares(Layout layout, Size canvas) {
  const auto count = int(windowCount(layout));
  std::vector<PixelRect> shares;
  int top = 0;
  for (int i = 0; i < count; ++i) {
    // Shares meet on even lines, as 4:2:0 asks; the last takes what is left.
    const int bottom = i + 1 == count ? canvas.height : evenNearest(canvas.height * (i + 1) / double(count));
    shares.push_back({0, top, canvas.width, bottom - top});
    top = bottom;
  }
  return shares;
}

std::vector<Placement> place(const PictureShape& shape, Size canvas, const Framing& framing) {
  const SizeF picture = shape.picture();
  std::vector<Placement> placements;
  if (framing.layout == Layout::Backdrop) {
    const PixelRect whole{0, 0, canvas.width, canvas.height};
    placements.push_back(clipped(picture, whole, resolveWindow(picture, sizeOf(whole), Window{}), true));
  }
  const std::vector<PixelRect> shares = layoutShares(framing.layout, canvas);
  for (size_t i = 0; i < shares.size(); ++i) {
    const Window window = i < framing.windows.size() ? framing.windows[i] : Window{};
    placements.push_back(clipped(picture, shares[i], resolveWindow(picture, sizeOf(shares[i]), window), false));
  }
  return placements;
}

double detail(const PictureShape& shape, const std::vector<Placement>& placements) {
  const SizeF density = shape.density();
  double least = std::numeric_limits<double>::infinity();
  for (const Placement& p : placements)
    if (!p.backdrop)
      least = std::min(
          {least, p.window.width * density.width / p.canvas.width, p.window.height * density.height / p.canvas.height});
  return least;
}

double uncoveredPercent(Size canvas, const std::vector<Placement>& placements) {
  double covered = 0;
  for (const Placement& p : placements) {
    if (p.backdrop) return 0; // a backdrop covers the whole canvas by its making
    covered += p.canvas.area();
  }
  const double open = 1 - covered / (double(canvas.width) * canvas.height);
  return open < 1e-9 ? 0 : open * 100;
}

} // namespace tromb
