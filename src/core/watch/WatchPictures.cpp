// SPDX-License-Identifier: GPL-3.0-or-later
#include "watch/WatchPictures.h"

#include "render/LightCopy.h"

#include <algorithm>
#include <cmath>
#include <cstdlib>
#include <thread>
#include <utility>

namespace tromb {
namespace {

constexpr size_t kOpenReels = 3;    ///< the shot before, this one and the next
constexpr size_t kRecentFrames = 6; ///< deliverables of several rates show neighbours

/// Two more than there are processors: while a picture is drawn its decoder waits, and others go on. With something
/// else on one of two processors, 1080p of 110 Mb/s lost two pictures of three with one for each, and one of six with
/// these.
int decoders() {
  return int(std::thread::hardware_concurrency()) + 2;
}

int even(double length) {
  return std::max(2, int(std::lround(length / 2)) * 2);
}

/// A placement on a canvas of another size of the same shape.
Placement scaled(const Placement& placement, Size from, Size to) {
  const auto edge = [](int at, int whole, int now) { return int(std::lround(double(at) * now / whole / 2)) * 2; };
  const PixelRect& r = placement.canvas;
  Placement made = placement;
  made.canvas.x = edge(r.x, from.width, to.width);
  made.canvas.y = edge(r.y, from.height, to.height);
  made.canvas.width = std::max(2, edge(r.x + r.width, from.width, to.width) - made.canvas.x);
  made.canvas.height = std::max(2, edge(r.y + r.height, from.height, to.height) - made.canvas.y);
  // What is thinner than two pixels still lies on the canvas.
  made.canvas.x = std::min(made.canvas.x, to.width - made.canvas.width);
  made.canvas.y = std::min(made.canvas.y, to.height - made.canvas.height);
  return made;
}

/// A window in the pixels of a picture of another size.
RectF scaled(const RectF& window, SizeF from, SizeF to) {
  const double x = to.width / from.width;
  const double y = to.height / from.height;
  RectF made{window.x * x, window.y * y, window.width * x, window.height * y};
  made.width = std::min(made.width, to.width - made.x);
  made.height = std::min(made.height, to.height - made.y);
  return made;
}

Size divided(Size size, int by) {
  return {even(double(size.width) / by), even(double(size.height) / by)};
}

} // namespace

Result<Plan> planOfFile(const MediaInfo& file) {
  Project alone;
  alone.sources.push_back(newSource(alone, file));
  alone.sources.front().id = "finished:" + file.path; // no source of a project is called so
  alone.shots.push_back(newShot(alone, alone.sources.front(), file));
  Deliverable& d = alone.deliverables.emplace_back();
  d.id = "d1";
  d.canvas = file.video->stored;
  d.pixelAspect = file.video->pixelAspect;
  d.rate = file.video->clock.rate();
  d.format.colour = file.video->colour;
  if (isHdr(d.format.colour)) d.format.depth = 10;
  const Footage footage{{alone.sources.front().id, file}};
  return Plan::build(alone, footage, d.id);
}

Plan::At WatchScreen::at(int64_t n) const {
  return file ? file->at(std::clamp<int64_t>(n - fileBegins, 0, file->frameCount() - 1)) : plan->at(n);
}

Size WatchScreen::canvas() const {
  const Size whole = drawn().deliverable().shownSize();
  const double scale = std::min(double(most.width) / whole.width, double(most.height) / whole.height);
  return {even(whole.width * scale), even(whole.height * scale)};
}

WatchPictures::WatchPictures(std::vector<WatchScreen> screens, WatchLights lights, std::stop_token stop)
    : m_lights(std::move(lights)), m_stop(std::move(stop)) {
  setScreens(std::move(screens));
}

void WatchPictures::setScreens(std::vector<WatchScreen> screens) {
  m_screens = std::move(screens);
  m_brushes.clear();
  m_brushes.resize(m_screens.size());
}

Result<std::unique_ptr<WatchPictures::Reel>> WatchPictures::prepare(const Plan::At& at, const WatchLights& lights,
                                                                    bool backwards, std::stop_token stop,
                                                                    const std::stop_token& unasked) {
  const PlanPiece& piece = *at.piece;
  const bool video = piece.reading.file.kind == MediaKind::Video;
  const auto light = lights && video ? lights(piece.shot.source) : std::nullopt;
  const bool lighter = light && !piece.reading.byFields &&
                       light->video->clock.frameCount() == piece.reading.file.video->clock.frameCount();
  Reading reading = lighter ? lightReading(piece.reading, *light) : piece.reading;
  const bool back = backwards != piece.frames.time().reversed();
  auto pictures = PictureSource::open(reading, {.threads = decoders(), .stop = std::move(stop)}, back);
  if (!pictures) return tl::unexpected(pictures.error());
  auto reel =
      std::make_unique<Reel>(Reel{piece.shot.source, back, std::move(reading), std::move(*pictures), at.shown.frame});
  const auto first = oneOf(*reel, at.shown.frame, unasked);
  if (!first) return tl::unexpected(first.error());
  return reel;
}

void WatchPictures::offer(std::unique_ptr<Reel> prepared) {
  const std::scoped_lock lock(m_mutex);
  m_prepared = std::move(prepared);
}

Result<WatchPictures::Reel*> WatchPictures::reelOf(const Plan::At& at, bool backwards) {
  const std::string& source = at.piece->shot.source;
  const bool back = backwards != at.piece->frames.time().reversed();
  const int64_t wanted = at.shown.frame;
  const auto fits = [&](const Reel& reel) {
    return reel.id == source && reel.backwards == back && reel.reading.byFields == at.piece->reading.byFields;
  };
  // Deliverables at other rates may still be before a cut: of two that are open at one source, the nearer one.
  auto best = m_reels.end();
  for (auto each = m_reels.begin(); each != m_reels.end(); ++each)
    if (fits(**each) && (best == m_reels.end() || std::abs((*each)->last - wanted) < std::abs((*best)->last - wanted)))
      best = each;
  const bool here = best != m_reels.end() && std::abs((*best)->last - wanted) <= 1;
  if (!here) {
    const std::scoped_lock lock(m_mutex);
    if (m_prepared && fits(*m_prepared) && m_prepared->last == wanted) {
      if (m_reels.size() >= kOpenReels) m_reels.erase(m_reels.begin());
      m_reels.push_back(std::move(m_prepared));
      return m_reels.back().get();
    }
  }
  if (best != m_reels.end()) {
    std::rotate(best, best + 1, m_reels.end());
    return m_reels.back().get();
  }
  auto reel = prepare(at, m_lights, backwards, m_stop);
  if (!reel) return tl::unexpected(reel.error());
  if (m_reels.size() >= kOpenReels) m_reels.erase(m_reels.begin());
  m_reels.push_back(std::move(*reel));
  return m_reels.back().get();
}

Result<NumberedFrame> WatchPictures::oneOf(Reel& reel, int64_t number, const std::stop_token& unasked) {
  reel.last = number;
  if (const auto known = reel.recent.find(number); known != reel.recent.end()) return known->second;
  auto got = reel.pictures.shown(number, unasked);
  if (!got) return got;
  reel.recent[number] = *got;
  // The one that is farthest away goes.
  if (reel.recent.size() > kRecentFrames)
    reel.recent.erase(number - reel.recent.begin()->first >= std::prev(reel.recent.end())->first - number
                          ? reel.recent.begin()
                          : std::prev(reel.recent.end()));
  return got;
}

Result<Frame> WatchPictures::pictureOf(Reel& reel, const ShownFrames& shown, const std::stop_token& unasked) {
  const auto first = oneOf(reel, shown.frame, unasked);
  if (!first) return tl::unexpected(first.error());
  if (shown.nextShare <= 0 || shown.next == shown.frame) return first->frame;
  const auto second = oneOf(reel, shown.next, unasked);
  if (!second) return tl::unexpected(second.error());
  return reel.between.picture(first->frame, second->frame, shown);
}

Result<ScreenPicture> WatchPictures::drawn(size_t screen, const Plan::At& at, const Frame& picture,
                                           const Reading& reading, int divisor) {
  const WatchScreen& on = m_screens[screen];
  Brush& brush = m_brushes[screen];
  const PlanPiece& piece = *at.piece;
  const Size size = divided(on.source ? on.most : on.canvas(), divisor);
  if (brush.piece != &piece || brush.size != size) {
    auto painter = brush.size == size ? std::move(brush.painter) : nullptr; // goes on over cuts
    brush = {};
    brush.size = size;
    brush.shape = reading.shape().forPixels(on.drawn().deliverable().pixelAspect);
    if (on.source) {
      brush.whole.emplace(reading.shape(), size, Kernel::Quick);
    } else {
      brush.composer.emplace(brush.shape, size, piece.format, Kernel::Quick);
      if (const Status given = giveStill(*brush.composer, piece); !given) return tl::unexpected(given.error());
      brush.painter = painter ? std::move(painter) : std::make_unique<ElementPainter>(on.drawn(), size, m_stop);
    }
    brush.piece = &piece;
  }
  if (brush.whole) return brush.whole->draw(picture);
  std::vector<Placement> placements = piece.placements(at.frame, on.drawn().rate());
  for (Placement& each : placements) {
    each = scaled(each, piece.canvas, size);
    each.window = scaled(each.window, piece.shape.picture(), brush.shape.picture());
  }
  auto canvas = brush.composer->compose(picture, placements);
  if (canvas) canvas = brush.painter->paint(piece.firstFrame + at.frame, std::move(*canvas));
  if (!canvas) return tl::unexpected(canvas.error());
  return brush.converter.convert(*canvas);
}

Result<std::vector<WatchedPicture>> WatchPictures::draw(const std::vector<int64_t>& frames, bool backwards, int divisor,
                                                        const std::stop_token& unasked) {
  std::vector<WatchedPicture> pictures(m_screens.size());
  struct Wanted {
    size_t screen;
    Plan::At at;
  };
  std::vector<Wanted> wanted;
  for (size_t i = 0; i < m_screens.size(); ++i)
    if (frames[i] >= 0) wanted.push_back({i, m_screens[i].at(frames[i])});
  // In the order in which the sources are read.
  std::stable_sort(wanted.begin(), wanted.end(), [backwards](const Wanted& a, const Wanted& b) {
    const bool back = backwards != a.at.piece->frames.time().reversed();
    return back ? a.at.shown.frame > b.at.shown.frame : a.at.shown.frame < b.at.shown.frame;
  });
  for (const Wanted& each : wanted) {
    const auto reel = reelOf(each.at, backwards);
    if (!reel) return tl::unexpected(reel.error());
    const auto picture = pictureOf(**reel, each.at.shown, unasked);
    if (!picture) return tl::unexpected(picture.error());
    auto screen = drawn(each.screen, each.at, *picture, (*reel)->reading, divisor);
    if (!screen) return tl::unexpected(screen.error());
    pictures[each.screen] = {frames[each.screen], each.at.piece->sourceFrame(each.at.frame), each.at.piece->shot.id,
                             std::move(*screen)};
  }
  return pictures;
}

} // namespace tromb
