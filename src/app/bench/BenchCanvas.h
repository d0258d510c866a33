// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/style/PaintedParts.h"
#include "model/Bench.h"
#include "model/FramingService.h"
#include "model/HeldGesture.h"

#include <QImage>
#include <QPixmap>
#include <QWidget>

namespace tromb {

/// The source picture with the windows of all deliverables on it: the active one bright and to be dragged, resized by
/// its corners and zoomed by the wheel, the others faint; and the subject, to be put and dragged.
class BenchCanvas : public QWidget, public PaintedParts {
  Q_OBJECT

public:
  explicit BenchCanvas(Bench& bench, QWidget* parent = nullptr);

  void setPicture(const QImage& picture);
  void setLoupe(bool shown); ///< part of the picture round the pointer at its own pixels
  void setThirds(bool shown);
  /// Lays what was found in the shot over the picture; null: nothing.
  void setFound(std::shared_ptr<const FramingService::Found> found);
  /// The next drag draws a box, or Return takes one round the subject; Escape ends it.
  void setBoxing(bool boxing);
  [[nodiscard]] bool boxing() const { return m_boxing; }
  [[nodiscard]] QSize sizeHint() const override { return {640, 360}; }
  /// Where a place of the picture is drawn.
  [[nodiscard]] QPointF toScreen(QPointF picture) const;

  [[nodiscard]] QRectF pictureRect() const; ///< where the source's picture is drawn
  /// Returns where the names of the windows stand, by deliverable. A name without room has an empty place.
  [[nodiscard]] std::vector<QRectF> labelRects() const;

  [[nodiscard]] std::vector<PaintedPart> paintedParts() const override; ///< windows, by deliverable; the subject last
  [[nodiscard]] QString paintedValue() const override;
  void pressPart(int part) override;

signals:
  void boxed(const QRectF& box); ///< in pixels of the picture
  void boxingEnded();

protected:
  void paintEvent(QPaintEvent* event) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent* event) override;
  void mouseDoubleClickEvent(QMouseEvent* event) override;
  void wheelEvent(QWheelEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;
  void leaveEvent(QEvent* event) override;

private:
  enum class Grip { None, Window, Corner, Subject, Key };
  struct Under {
    Grip grip = Grip::None;
    int column = -1;
    int window = 0; ///< The number of the window, or of the key.
  };
  [[nodiscard]] QPointF toPicture(QPointF screen) const;
  [[nodiscard]] QRectF toScreen(const QRectF& picture) const;
  [[nodiscard]] Under under(QPointF screen) const;
  void paintWindows(QPainter& painter) const;
  void paintPath(QPainter& painter) const;
  void paintSubject(QPainter& painter) const;
  void paintLoupe(QPainter& painter) const;
  void paintTrack(QPainter& painter) const;
  void paintFound(QPainter& painter) const;
  void zoomBy(double factor);
  [[nodiscard]] bool placeBox(int key, Qt::KeyboardModifiers modifiers);
  [[nodiscard]] QRectF usualBox() const; ///< round the subject

  Bench& m_bench;
  QImage m_picture;
  QPixmap m_drawn; ///< the picture at the size it is shown at; empty: to be made again
  bool m_loupe = false;
  bool m_thirds = false;
  std::shared_ptr<const FramingService::Found> m_found;
  bool m_boxing = false;
  QRectF m_box; ///< being drawn
  QPointF m_pointer{-1, -1};
  Grip m_grip = Grip::None;
  QPointF m_grabbed;    ///< where in picture pixels the drag began
  QRectF m_grabbedRect; ///< the window then
  double m_grabbedZoom = 1;
  int m_gesture = 0;
  int m_key = -1;     ///< The key that is dragged; −1 for none.
  HeldGesture m_held; ///< by keys and the wheel
};

} // namespace tromb
