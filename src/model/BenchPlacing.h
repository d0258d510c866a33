// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "geometry/WaysToFill.h"
#include "model/FillService.h"

#include <QCoreApplication>
#include <QPointF>
#include <QSizeF>

namespace tromb {

class Bench;

/// Places what is on the bench: the active deliverable's window, or the shot's subject. Every change is an undoable
/// command of the document; calls with one gesture are one step. Where there is a move, a key is put at the moment.
/// Places are in pixels of the upright picture without its bars. Lives in the window's thread.
class BenchPlacing {
  Q_DECLARE_TR_FUNCTIONS(BenchPlacing)

public:
  explicit BenchPlacing(Bench& bench);

  void placeSubject(QPointF at, int gesture);
  void removeSubject();
  void setWanted(double atX, double atY); ///< where in every canvas the subject is wanted, as shares
  /// The active window's centre, snapped to what lies within `snap` pixels of the picture (0: not at all).
  void placeWindow(QPointF centre, double snap, int gesture);
  /// The active window's zoom; with `held` it stops at detail 1.00 when it comes near.
  void zoomWindow(double zoom, bool held, int gesture);
  /// Moves what is being placed by pixels of the active canvas.
  void nudge(double canvasX, double canvasY, int gesture);
  void follow(); ///< gives the active cell back to the subject
  void apply(const Framing& framing, const QString& text);
  void applyWay(const WayToFill& way);
  /// Of a cell that is soft or has bars, judged by what `setFraming`'s has found in the shot; see waysOf.
  [[nodiscard]] std::vector<WayToFill> ways() const;
  void setFraming(const FramingService& framing) { m_framing = &framing; } ///< must live as long
  /// Seconds in which the active window, at its fastest, travels its own width; 0 if it rests.
  [[nodiscard]] double secondsAWidth() const;

private:
  void setWindowTo(const Window& window, const QString& text, int gesture);
  [[nodiscard]] QPointF snapped(QPointF centre, const SizeF& size, double reach) const;

  Bench& m_bench;
  Document& m_document;
  const FramingService* m_framing = nullptr;
};

} // namespace tromb
