// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "geometry/Framing.h"

namespace tromb {

/// Where something that matters lies at a moment.
struct SeenBox {
  double seconds = 0; ///< of the source
  RectF box;          ///< in shares of the picture
};

/// What a way of filling a canvas is judged by.
struct FillGrounds {
  std::vector<SeenBox> matters; ///< what should not be cut off; where nothing is known of it, it is taken to lie round
                                ///< the subject, or the middle
  std::vector<RectF> covered;   ///< what something else will lie over, in shares of the canvas
  double speed = 1;             ///< at which the shot is shown, at most
};

/// What is given up by a way of filling a canvas.
struct FillLoss {
  double enlarged = 1; ///< how many times the picture is enlarged where it is worst; 1 where it stays sharp
  double shrunk = 1;   ///< how many times the canvas is narrower than was asked for
  double cut = 0;      ///< share of what matters that no window shows, over the shot
  double hidden = 0;   ///< share of it that lies under what covers the canvas, by its middle
  double fast = 1;     ///< how many times faster than a width in seven seconds the picture travels; 1 where it does not
  double unseen = 0;   ///< share of the picture that no window shows, in the middle of the shot
  double twice = 0;    ///< share of what is shown that more than one window shows, at the same moment
  double bars = 0;     ///< share of the canvas that shows nothing, at worst
  double ground = 0;   ///< share of the canvas that shows a backdrop, at the same moment
  int parts = 1;       ///< windows
  /// How much each is minded beside a doubling of size, which is 1; by judgement, no published source.
  enum class Of { Enlarged, Shrunk, Cut, Hidden, Fast, Unseen, Twice, Bars, Ground, Parts };
  [[nodiscard]] std::vector<std::pair<Of, double>> weights() const;
  [[nodiscard]] double weight() const; ///< their sum, to rank by; 0 where nothing is lost
};

/// One way to cover a canvas, and what it costs.
struct WayToFill {
  enum class Kind { Now, Fill, Wider, Stack2, Stack3, Side2, Side3, Backdrop, Canvas };
  Kind kind = Kind::Now;
  Framing framing;
  Size canvas;        ///< the deliverable's own, but for Canvas: the largest of its shape that stays sharp
  double detail = 0;  ///< the least of the shot
  bool isNow = false; ///< the cell is filled so already
  FillLoss loss;
};

/// The ways out for a cell that falls short of its canvas: as it is now, plain fill, and what gives more detail than
/// that; the one that loses least first. Windows follow the subject; `Wider` keeps the framing with less zoom. Layouts
/// that the shape does not ask for (stacks on wide canvases, side by side on tall ones) are left out, and so is what
/// leaves bars, but as it is now. Times in seconds of the source.
[[nodiscard]] std::vector<WayToFill> waysToFill(const PictureShape& shape, Size canvas, const Framing& now,
                                                const Subjects& subjects, double from, double to,
                                                const FillGrounds& grounds = {});

} // namespace tromb
