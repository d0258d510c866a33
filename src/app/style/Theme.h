// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/Cell.h"

#include <QApplication>
#include <QColor>
#include <QPainter>

namespace tromb {

enum class ThemeChoice { AsDesktop, Day, Dusk };

/// The colours of one theme. Warm and low in saturation, so that pictures are the only strong colour.
struct Theme {
  QColor paper;    ///< the window
  QColor sheet;    ///< fields and lists
  QColor raised;   ///< bars and heads
  QColor line;     ///< hairlines
  QColor ink;      ///< text
  QColor faint;    ///< second-rank text
  QColor accent;   ///< petrol: selection and the one main action
  QColor onAccent; ///< text on it
  QColor surround; ///< round pictures: neutral grey, L* 50
  QColor good;
  QColor soft;
  QColor bars;
  QColor broken;

  /// The theme in force; change it with `apply`.
  [[nodiscard]] static const Theme& current();
  /// Loads the shipped font, once, and dresses the application. `AsDesktop` looks at the desktop's own palette.
  static void apply(QApplication& application, ThemeChoice choice);
  [[nodiscard]] static ThemeChoice choice();
  /// Sets the size of all type, in percent of the desktop's.
  static void applyType(QApplication& application, int percent);
};

/// A status as shape and colour; the word is beside it wherever it is used.
[[nodiscard]] QColor statusColour(Cell::State state);
/// Gives a label's words a colour; does nothing where they have it, since restyling is slow.
void colourWords(QWidget* label, const QColor& colour);
/// The same on the grey round pictures, which is neither light nor dark.
[[nodiscard]] QColor statusColourOnSurround(Cell::State state);
/// Draws the status's shape (circle, triangle, bar, cross) into `box`, in its colour or another.
void drawStatusShape(QPainter& painter, const QRectF& box, Cell::State state, const QColor& colour = {});

} // namespace tromb
