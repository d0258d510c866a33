// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "preflight/Preflight.h"

#include <QMetaType>
#include <QString>
#include <functional>

namespace tromb {

/// What the sheet knows of one shot in one deliverable. A value, computed when asked for.
struct Cell {
  enum class State {
    Waiting,  ///< the source is being looked at
    Unusable, ///< the source is missing or cannot be read
    Bars,     ///< part of the canvas is uncovered
    Soft,     ///< the picture is enlarged
    Good,
  };
  State state = State::Waiting;
  Size canvas;
  Size shown; ///< of the canvas, where its pixels are not square
  PictureShape shape;
  Framing framing;
  Subjects subjects;                 ///< The shot's subjects.
  Rational in{0};                    ///< the shot's first moment, seconds of the source
  double seconds = 0;                ///< The moment of the source that is shown: the shot's middle.
  std::vector<Placement> placements; ///< Where windows lie on the canvas at that moment.
  double detail = 0;                 ///< the worst of the whole shot, as is what follows
  double uncoveredPercent = 0;
  QString reason;         ///< why it is unusable
  bool sharpOnly = false; ///< the deliverable is never to be enlarged
  bool unseen = false;    ///< the deliverable is sound alone

  [[nodiscard]] bool complains() const { return state != State::Good && state != State::Waiting; }
};

/// The cell of a shot in a deliverable; `media` is null while the source is being looked at.
[[nodiscard]] Cell cellOf(const Deliverable& deliverable, const Shot& shot, const Source& source,
                          const Result<MediaInfo>* media);

/// "soft 0.56", "bars 33 %", "missing", "1.13": the few words under a cell.
[[nodiscard]] QString cellWords(const Cell& cell);
/// The number alone, where there is no room for more: "0.56", "33 %". Its sign and colour say what is amiss.
[[nodiscard]] QString cellNumber(const Cell& cell);
/// "fill", "whole picture", "two stacked": the framing's layout in words.
[[nodiscard]] QString layoutWords(const Framing& framing);

// Framing commands: what each does to one cell. All keep windows inside the picture.

/// Turns a cell to another moment of its shot.
void turnTo(Cell& cell, double seconds);
/// A framing's window as it is at a moment of the shot.
[[nodiscard]] Window windowNow(const Cell& cell, size_t window);
/// The framing with every window (or only `only`, ≥ 0) put elsewhere by `change`, which is given each as it is at the
/// cell's moment. Moves go along as a whole. Unless `following`, a window no longer follows the subject afterwards.
[[nodiscard]] Framing reframed(const Cell& cell, int only, bool following, const std::function<void(Window&)>& change);
/// The framing with every window (or only `window`, ≥ 0) moved by (dx, dy) canvas pixels of the picture on the
/// canvas; positive x moves the picture to the right.
[[nodiscard]] Framing slid(const Cell& cell, double dx, double dy, int window = -1);
/// The framing with every window's zoom multiplied; zooming out of a filling window stops at fill.
[[nodiscard]] Framing zoomed(const Cell& cell, double factor);
[[nodiscard]] Framing centred(const Cell& cell);
/// What of a framing is carried to another cell.
enum class FramingPart { All, Position, Zoom, Arrangement, Keys };
/// The framing of `to` with a part of that of `from`. Places and moves go from window to window, as many as both have;
/// moves begin as long after the shot's beginning as they did.
[[nodiscard]] Framing carried(const Cell& to, const Cell& from, FramingPart part);

/// The window whose share holds a canvas position, −1 when the layout has only one.
[[nodiscard]] int windowAt(const Cell& cell, double canvasX, double canvasY);

} // namespace tromb

Q_DECLARE_METATYPE(tromb::Cell)
