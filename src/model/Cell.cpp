// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/Cell.h"

#include <QCoreApplication>

namespace tromb {
namespace {

QString text(const char* source) {
  return QCoreApplication::translate("Cell", source);
}

SizeF shareSize(const Cell& cell, size_t window) {
  const PixelRect share = layoutShares(cell.framing.layout, cell.canvas)[window];
  return {double(share.width), double(share.height)};
}

/// Applies `change(window, share, rect)` to each window and stops it at the edge.
template <typename Change> Framing changed(const Cell& cell, int only, Change change) {
  Framing framing = cell.framing;
  const SizeF picture = cell.shape.picture();
  for (size_t i = 0; i < framing.windows.size(); ++i) {
    if (only >= 0 && int(i) != only) continue;
    const SizeF share = shareSize(cell, i);
    // From where the window really lies: a centre kept from another canvas may be beyond this one's edge.
    Window window = stopped(picture, share, framing.windows[i]);
    change(window, share, resolveWindow(picture, share, window));
    framing.windows[i] = stopped(picture, share, window);
  }
  return framing;
}

} // namespace

Cell cellOf(const Deliverable& deliverable, const Shot& shot, const Source& source, const Result<MediaInfo>* media) {
  Cell cell;
  cell.canvas = deliverable.canvas;
  cell.framing = deliverable.framingOf(shot.id);
  if (!media) return cell;
  if (!*media || !(*media)->video) {
    cell.state = Cell::State::Unusable;
    cell.reason = *media ? text("the file has no picture") : QString::fromStdString(sentence(media->error()));
    return cell;
  }
  cell.shape = (*media)->video->shape(source.bars);
  cell.placements = place(cell.shape, cell.canvas, cell.framing);
  cell.detail = detail(cell.shape, cell.placements);
  cell.uncoveredPercent = uncoveredPercent(cell.canvas, cell.placements);
  cell.state = cell.uncoveredPercent > 0    ? Cell::State::Bars
               : cell.detail < kSharpDetail ? Cell::State::Soft
                                            : Cell::State::Good;
  return cell;
}

QString cellWords(const Cell& cell) {
  const QString detailWords = QString::fromStdString(detailText(cell.detail));
  switch (cell.state) {
  case Cell::State::Waiting:
    return text("looking …");
  case Cell::State::Unusable:
    return text("no picture");
  case Cell::State::Bars:
    return text("bars %1 %").arg(std::max(1, qRound(cell.uncoveredPercent)));
  case Cell::State::Soft:
    return text("soft %1").arg(detailWords);
  case Cell::State::Good:
    return detailWords;
  }
  return {};
}

QString layoutWords(const Framing& framing) {
  switch (framing.layout) {
  case Layout::Stack2:
    return text("two stacked");
  case Layout::Stack3:
    return text("three stacked");
  case Layout::Backdrop:
    return text("over a backdrop");
  case Layout::Single:
    break;
  }
  return framing.windows.front().base == WindowBase::Fill ? text("fill") : text("whole picture");
}

Framing slid(const Cell& cell, double dx, double dy, int window) {
  const SizeF picture = cell.shape.picture();
  return changed(cell, window, [&](Window& w, SizeF share, const RectF& rect) {
    w.x -= dx * rect.width / share.width / picture.width;
    w.y -= dy * rect.height / share.height / picture.height;
  });
}

Framing zoomed(const Cell& cell, double factor) {
  return changed(cell, -1, [&](Window& w, SizeF, const RectF&) {
    // Close to 1 means 1, so that zooming out ends exactly at fill.
    w.zoom *= factor;
    if (w.zoom < 1.004) w.zoom = 1;
  });
}

Framing centred(const Cell& cell) {
  return changed(cell, -1, [&](Window& w, SizeF, const RectF&) { w.x = w.y = 0.5; });
}

int windowAt(const Cell& cell, double canvasY) {
  const auto shares = layoutShares(cell.framing.layout, cell.canvas);
  if (shares.size() < 2) return -1;
  for (size_t i = 0; i < shares.size(); ++i)
    if (canvasY < shares[i].y + shares[i].height) return int(i);
  return int(shares.size()) - 1;
}

} // namespace tromb
