// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/CompareService.h"

#include <QWidget>

namespace tromb {

/// How two pictures are laid out to be compared.
enum class CompareWay {
  Beside,     ///< both, beside or above each other, whichever makes them larger
  Wipe,       ///< one up to a line that is dragged, the other behind it
  InTurns,    ///< one at a time, at the same place
  Difference, ///< what they differ by, made stronger
};

/// The two pictures of a comparison, as large as there is room or pixel for pixel. The keyboard steps through the
/// frames, moves the line, flips and makes the difference stronger; the mouse drags the line, and the pictures where
/// they are shown pixel for pixel.
class CompareStage : public QWidget {
  Q_OBJECT

public:
  explicit CompareStage(CompareService& service, QWidget* parent = nullptr);
  void setNames(const QString& first, const QString& second);
  void setWay(CompareWay way);
  [[nodiscard]] CompareWay way() const { return m_way; }
  void setPixelForPixel(bool on);
  [[nodiscard]] bool pixelForPixel() const { return m_exact; }
  [[nodiscard]] double wipe() const { return m_wipe; }       ///< where the line is, 0 to 1 of the picture's width
  [[nodiscard]] bool secondUp() const { return m_secondUp; } ///< in turns, the second picture is seen
  [[nodiscard]] const CompareService::Pair& pair() const { return m_service.pair(); }
  [[nodiscard]] const QString& said() const { return m_said; }
  void setSaid(const QString& words);               ///< in place of pictures; empty: pictures
  [[nodiscard]] QRectF pictureRect(int side) const; ///< 0 or 1; both are the same but for Beside
  [[nodiscard]] QSize sizeHint() const override { return {640, 420}; }
  [[nodiscard]] QSize minimumSizeHint() const override { return {200, 140}; }

signals:
  void playAsked();
  void gainAsked(int gain);

protected:
  void paintEvent(QPaintEvent* event) override;
  void resizeEvent(QResizeEvent* event) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;

private:
  void ask();
  void take();
  void pan(const QPointF& by); ///< in pixels of the picture
  void paintPicture(QPainter& painter, const QImage& exact, const QImage& small, const QRectF& to) const;
  [[nodiscard]] bool across() const;
  void caption(QPainter& painter, double top, double left, double right, Qt::Alignment where,
               const QString& words) const;
  [[nodiscard]] QString captionOf(int side) const;
  CompareService& m_service;
  QString m_names[2];
  QString m_said;
  CompareWay m_way = CompareWay::Beside;
  bool m_exact = false;
  bool m_secondUp = false;
  double m_wipe = 0.5;
  QPointF m_centre{-1, -1}; ///< of what is seen pixel for pixel, in pixels of the picture; below 0: its middle
  bool m_dragsWipe = false;
  QPointF m_held;
};

} // namespace tromb
