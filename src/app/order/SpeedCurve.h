// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/style/PaintedParts.h"
#include "model/HeldGesture.h"
#include "model/Pacing.h"

#include <QWidget>

namespace tromb {

/// The speed of a shot along its source, as a curve with keys. A key is dragged in time and speed, set by a double
/// click, and taken away with the backspace key; arrows move the chosen one by a frame and by a twentieth of its speed.
class SpeedCurve : public QWidget, public PaintedParts {
  Q_OBJECT

public:
  explicit SpeedCurve(Pacing& pacing, QWidget* parent = nullptr);
  [[nodiscard]] std::vector<PaintedPart> paintedParts() const override; ///< keys
  [[nodiscard]] QString paintedValue() const override;
  void pressPart(int part) override { m_pacing.choose(part); }
  [[nodiscard]] QSize sizeHint() const override { return {560, 200}; }
  [[nodiscard]] QSize minimumSizeHint() const override { return {280, 120}; }
  /// Where a moment of the source and a speed lie in the widget.
  [[nodiscard]] QPointF pointOf(const Rational& sourceTime, const Rational& speed) const;

protected:
  void paintEvent(QPaintEvent* event) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent* event) override;
  void mouseDoubleClickEvent(QMouseEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;

private:
  [[nodiscard]] QRectF field() const;
  [[nodiscard]] double yOf(double speed) const;
  [[nodiscard]] Rational timeAt(double x) const;
  [[nodiscard]] Rational speedAt(double y) const;
  void nudge(int frames, double factor);

  Pacing& m_pacing;
  HeldGesture m_held;
  int m_dragged = -1;
  int m_gesture = 0;
};

} // namespace tromb
