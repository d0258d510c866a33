// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/Cell.h"
#include "model/Translation.h"

#include <QCoreApplication>

namespace tromb {
namespace {

struct CellText {
  Q_DECLARE_TR_FUNCTIONS(Cell)
};

SizeF shareSize(const Cell& cell, size_t window) {
  const PixelRect share = canvasShares(cell.framing, cell.canvas)[window];
  return {double(share.width), double(share.height)};
}

const Subject* subjectOf(const Cell& cell, size_t window) {
  return window < cell.subjects.size() ? &cell.subjects[window] : nullptr;
}

} // namespace

Cell cellOf(const Deliverable& deliverable, const Shot& shot, const Source& source, const Result<MediaInfo>* media) {
  Cell cell;
  cell.canvas = deliverable.canvas;
  cell.shown = deliverable.shownSize();
  cell.framing = deliverable.framingOf(shot.id);
  cell.sharpOnly = deliverable.sharpOnly;
  if (!media) return cell;
  if (!*media || !(*media)->video) {
    cell.state = Cell::State::Unusable;
    cell.reason = *media ? CellText::tr("the file has no picture") : said(media->error());
    return cell;
  }
  cell.shape = shapeIn(deliverable, source, *(*media)->video);
  cell.framing = framingIn(deliverable, shot, cell.shape);
  cell.subjects = shot.subjects;
  cell.in = shot.in;
  const double in = shot.in.toDouble();
  const double out = shot.out.toDouble();
  cell.seconds = (in + out) / 2;
  cell.placements = place(cell.shape, cell.canvas, cell.framing, cell.subjects, cell.seconds);
  const Shortfall least = worst(cell.shape, cell.canvas, cell.framing, cell.subjects, in, out);
  cell.detail = least.detail;
  cell.uncoveredPercent = least.uncoveredPercent;
  cell.unseen = deliverable.encoding.sound.place == SoundPlace::Alone; // how it is framed does not matter
  cell.state = cell.unseen                  ? Cell::State::Good
               : cell.uncoveredPercent > 0  ? Cell::State::Bars
               : cell.detail < kSharpDetail ? Cell::State::Soft
                                            : Cell::State::Good;
  return cell;
}

QString cellWords(const Cell& cell) {
  const QString detailWords = QString::fromStdString(detailText(cell.detail));
  switch (cell.state) {
  case Cell::State::Waiting:
    return CellText::tr("looking …");
  case Cell::State::Unusable:
    return CellText::tr("no picture");
  case Cell::State::Bars:
    return CellText::tr("bars %1 %").arg(std::max(1, qRound(cell.uncoveredPercent)));
  case Cell::State::Soft:
    return (cell.sharpOnly ? CellText::tr("cannot fill, %1") : CellText::tr("soft %1")).arg(detailWords);
  case Cell::State::Good:
    return cell.unseen ? CellText::tr("sound alone") : detailWords;
  }
  return {};
}

QString cellNumber(const Cell& cell) {
  if (cell.state == Cell::State::Bars) return CellText::tr("%1 %").arg(std::max(1, qRound(cell.uncoveredPercent)));
  return cell.state == Cell::State::Soft ? QString::fromStdString(detailText(cell.detail)) : cellWords(cell);
}

QString layoutWords(const Framing& framing) {
  switch (framing.layout) {
  case Layout::Stack2:
    return CellText::tr("two stacked");
  case Layout::Stack3:
    return CellText::tr("three stacked");
  case Layout::Side2:
    return CellText::tr("two side by side");
  case Layout::Side3:
    return CellText::tr("three side by side");
  case Layout::Backdrop:
    return CellText::tr("over a backdrop");
  case Layout::Single:
    break;
  }
  return framing.windows.front().base == WindowBase::Fill ? CellText::tr("fill") : CellText::tr("whole picture");
}

void turnTo(Cell& cell, double seconds) {
  cell.seconds = seconds;
  cell.placements = place(cell.shape, cell.canvas, cell.framing, cell.subjects, seconds);
}

Window windowNow(const Cell& cell, size_t window) {
  return windowAtTime(cell.shape.picture(), shareSize(cell, window), cell.framing.windows[window],
                      subjectOf(cell, window), cell.seconds);
}

Framing reframed(const Cell& cell, int only, bool following, const std::function<void(Window&)>& change) {
  Framing framing = cell.framing;
  const SizeF picture = cell.shape.picture();
  for (size_t i = 0; i < framing.windows.size(); ++i) {
    if (only >= 0 && int(i) != only) continue;
    const SizeF share = shareSize(cell, i);
    const Window now = windowNow(cell, i);
    Window then = now;
    change(then);
    then = stopped(picture, share, then);
    Window& stored = framing.windows[i];
    const bool stays = following && stored.follows;
    for (MoveKey& key : stored.move) {
      const Window at = windowAtTime(picture, share, stored, subjectOf(cell, i), key.time.toDouble());
      Window moved = at;
      moved.zoom = at.zoom * then.zoom / now.zoom;
      moved.x += then.x - now.x;
      moved.y += then.y - now.y;
      moved = stopped(picture, share, moved);
      key.zoom = moved.zoom;
      if (stays) continue;
      key.x = moved.x;
      key.y = moved.y;
    }
    stored.zoom = then.zoom;
    if (stays) continue;
    stored.x = then.x;
    stored.y = then.y;
    stored.follows = false;
  }
  return framing;
}

Framing slid(const Cell& cell, double dx, double dy, int window) {
  const SizeF picture = cell.shape.picture();
  Framing framing = cell.framing;
  for (size_t i = 0; i < framing.windows.size(); ++i) {
    if (window >= 0 && int(i) != window) continue;
    const SizeF share = shareSize(cell, i);
    framing.windows[i] = reframed(cell, int(i), false, [&](Window& w) {
                           const RectF rect = resolveWindow(picture, share, w);
                           w.x -= dx * rect.width / share.width / picture.width;
                           w.y -= dy * rect.height / share.height / picture.height;
                         }).windows[i];
  }
  return framing;
}

Framing zoomed(const Cell& cell, double factor) {
  return reframed(cell, -1, true, [&](Window& w) {
    // A zoom close to 1 becomes 1, so that zooming out ends exactly at fill.
    w.zoom *= factor;
    if (w.zoom < 1.004) w.zoom = 1;
  });
}

Framing centred(const Cell& cell) {
  return reframed(cell, -1, false, [](Window& w) { w.x = w.y = 0.5; });
}

Framing carried(const Cell& toCell, const Cell& fromCell, FramingPart part) {
  const Framing& to = toCell.framing;
  const Framing from = shifted(fromCell.framing, toCell.in - fromCell.in);
  if (part == FramingPart::All) return from;
  Framing made = to;
  if (part == FramingPart::Arrangement) {
    made = from;
    for (size_t i = 0; i < made.windows.size(); ++i) {
      const Window& kept = to.windows[std::min(i, to.windows.size() - 1)];
      if (made.windows.size() == to.windows.size()) {
        made.windows[i].x = kept.x;
        made.windows[i].y = kept.y;
        made.windows[i].zoom = kept.zoom;
        made.windows[i].follows = kept.follows;
        made.windows[i].move = kept.move;
      }
    }
    return made;
  }
  for (size_t i = 0; i < std::min(made.windows.size(), from.windows.size()); ++i) {
    Window& window = made.windows[i];
    const Window& source = from.windows[i];
    switch (part) {
    case FramingPart::Position:
      window.x = source.x;
      window.y = source.y;
      window.follows = source.follows;
      break;
    case FramingPart::Zoom:
      window.zoom = source.zoom;
      break;
    default:
      window.move = source.move;
    }
  }
  return made;
}

int windowAt(const Cell& cell, double canvasX, double canvasY) {
  const auto shares = canvasShares(cell.framing, cell.canvas);
  if (shares.size() < 2) return -1;
  for (size_t i = 0; i < shares.size(); ++i)
    if (canvasX < shares[i].x + shares[i].width && canvasY < shares[i].y + shares[i].height) return int(i);
  return int(shares.size()) - 1;
}

} // namespace tromb
