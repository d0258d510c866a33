// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "Error.h"
#include "element/Element.h"
#include "geometry/Rect.h"

#include <cstdint>
#include <string>
#include <vector>

namespace tromb {

/// The part of a canvas in which graphics are safe: 5 % from each edge (EBU R 95 and SMPTE ST 2046-1 as remembered, see
/// CanvasGuides).
inline constexpr double kGraphicsMargin = 0.05;

/// The canvas that elements are laid on.
struct ElementCanvas {
  Size shown; ///< its size as it is shown, in square pixels: what percents are of
  RectF within{kGraphicsMargin, kGraphicsMargin, 1 - 2 * kGraphicsMargin,
               1 - 2 * kGraphicsMargin}; ///< where elements may lie, shares of the canvas
  std::vector<RectF> covered;            ///< what a destination's own buttons lie over, shares of the canvas
  friend bool operator==(const ElementCanvas&, const ElementCanvas&) = default;
};

/// An element of this size, in pixels of the canvas as it is shown: at its anchor, then out of what is covered by the
/// shortest way that stays inside, where there is one. May reach beyond the canvas where its place says so.
[[nodiscard]] RectF placed(SizeF element, const ElementPlace& place, const ElementCanvas& canvas, bool overButtons);

/// What a text became on a canvas. Lengths in pixels of the canvas as it is shown.
struct TextFacts {
  RectF lies;      ///< the text, with its box where it has one
  double size = 0; ///< of its letters, as fonts count: no larger than asked for
  int lines = 0;
  std::string family;   ///< of the font that most of it has, which is another where the one asked for is not there
  bool whole = true;    ///< all of it lies on the canvas, and no word had to be broken
  bool covered = false; ///< part of it lies under a destination's buttons
  friend bool operator==(const TextFacts&, const TextFacts&) = default;
};

/// A picture of an element: four bytes a pixel (blue, green, red, how opaque it is; colours are times that already),
/// rows without padding.
struct DrawnElement {
  PixelRect at; ///< of the canvas as it is drawn; may reach beyond it. Empty where there is nothing to see
  std::vector<uint8_t> bytes;
  TextFacts text; ///< of a text
};

/// How a text lies on a canvas, without drawing it. Lines are broken at words by its measure; it shrinks, down to its
/// least size, until every word and every line has room. Errors: InvalidArgument (no size). Thread-safe.
[[nodiscard]] Result<TextFacts> layOutText(const Element& element, const std::string& deliverable,
                                           const ElementCanvas& canvas);

/// Draws a text by Pango and Cairo, without hinting, so that it has the same shape at every size: `drawn` is the size
/// of the raster that the canvas is drawn on. Errors: InvalidArgument, Encoder where memory has run out. Thread-safe.
[[nodiscard]] Result<DrawnElement> drawText(const Element& element, const std::string& deliverable,
                                            const ElementCanvas& canvas, Size drawn);

/// Where a picture of this size lies on a canvas: its shorter side has the element's size.
[[nodiscard]] RectF placedPicture(SizeF picture, const Element& element, const std::string& deliverable,
                                  const ElementCanvas& canvas);

/// The families of fonts that texts can have, in order of the alphabet. Thread-safe.
[[nodiscard]] std::vector<std::string> fontFamilies();

} // namespace tromb
