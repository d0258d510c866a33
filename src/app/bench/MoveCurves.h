// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/style/PaintedParts.h"
#include "model/Bench.h"

#include <QWidget>

namespace tromb {

/// The shot along time: the playhead, and the active move as three curves (across, down, zoom) with its keys, which are
/// dragged in time and value, added by a double click and taken away with the backspace key.
class MoveCurves : public QWidget, public PaintedParts {
  Q_OBJECT

public:
  explicit MoveCurves(Bench& bench, QWidget* parent = nullptr);
  [[nodiscard]] std::vector<PaintedPart> paintedParts() const override; ///< keys
  [[nodiscard]] QString paintedValue() const override;
  void pressPart(int part) override;
  [[nodiscard]] QSize sizeHint() const override;

protected:
  void paintEvent(QPaintEvent* event) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent* event) override;
  void mouseDoubleClickEvent(QMouseEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;

private:
  [[nodiscard]] QRectF lane(int axis) const;
  [[nodiscard]] double xOf(double seconds) const;
  [[nodiscard]] double secondsAt(double x) const;
  [[nodiscard]] double yOf(int axis, double value) const;
  [[nodiscard]] double valueAt(int axis, double y) const;
  [[nodiscard]] std::pair<double, double> range(int axis) const;
  [[nodiscard]] int axes() const { return m_bench.placesSubject() ? 2 : 3; }
  [[nodiscard]] int lanes() const; ///< How many curves are shown: none if nothing moves.

  Bench& m_bench;
  int m_key = -1;  ///< chosen
  int m_axis = -1; ///< The axis of the key that is dragged; −1 for the playhead.
  int m_gesture = 0;
};

} // namespace tromb
