// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/style/PaintedParts.h"
#include "preflight/Spec.h"

#include <QWidget>

namespace tromb {

/// The canvas and the pictures of the sources, drawn to one scale: pixel for pixel, so that what has to be enlarged is
/// seen to be smaller than the canvas.
class CanvasDrawing : public QWidget, public PaintedParts {
  Q_OBJECT

public:
  explicit CanvasDrawing(QWidget* parent = nullptr);
  void show(const Deliverable& deliverable, const std::vector<SourceInCanvas>& sources);
  [[nodiscard]] std::vector<PaintedPart> paintedParts() const override;
  static constexpr int kMostHeight = 360;
  [[nodiscard]] QSize sizeHint() const override { return {210, 150}; }

protected:
  void paintEvent(QPaintEvent* event) override;

private:
  /// Sources of one size.
  struct Picture {
    SizeF size; ///< upright, without bars, in the canvas's pixels
    QStringList names;
    double detail = 0; ///< the least
    QString words;
  };
  [[nodiscard]] QRectF rectOf(const SizeF& size) const;

  SizeF m_canvas{16, 9};
  double m_pixelAspect = 1;
  std::vector<Picture> m_pictures; ///< largest first
};

} // namespace tromb
