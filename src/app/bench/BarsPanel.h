// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/style/PaintedParts.h"
#include "model/Bench.h"

#include <QImage>
#include <QWidget>

class QLabel;
class QSpinBox;
class QToolButton;

namespace tromb {

/// The whole source picture, with a line on each side that is dragged to where its burned-in bars end.
class BarsCanvas : public QWidget, public PaintedParts {
  Q_OBJECT
public:
  explicit BarsCanvas(Bench& bench, QWidget* parent = nullptr);
  void setPicture(const QImage& picture); ///< upright, with its bars
  [[nodiscard]] QAccessible::Role paintedRole() const override { return QAccessible::Graphic; }
  [[nodiscard]] std::vector<PaintedPart> paintedParts() const override; ///< the four lines
  [[nodiscard]] QSize sizeHint() const override { return {640, 360}; }
  /// Where a place of the picture, from 0 to 1, is drawn.
  [[nodiscard]] QPointF toScreen(QPointF place) const;

protected:
  void paintEvent(QPaintEvent* event) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent* event) override;

private:
  enum class Side { Left, Top, Right, Bottom, None };
  [[nodiscard]] QRectF pictureRect() const;
  [[nodiscard]] QRectF keptRect() const; ///< The part of the picture that is kept, in pixels of the screen.
  [[nodiscard]] Side under(QPointF screen) const;

  Bench& m_bench;
  QImage m_picture;
  Bars m_bars; ///< The bars while they are dragged.
  Side m_side = Side::None;
};

/// Burned-in bars of the shot's source, set on its picture or typed.
class BarsPanel : public QWidget {
  Q_OBJECT

public:
  explicit BarsPanel(Bench& bench, QWidget* parent = nullptr);
  [[nodiscard]] BarsCanvas& canvas() { return *m_canvas; }

signals:
  void done();

protected:
  void showEvent(QShowEvent* event) override;

private:
  void refresh();

  Bench& m_bench;
  BarsCanvas* m_canvas;
  QLabel* m_head;
  QSpinBox* m_sides[4];
  QToolButton *m_measured, *m_none;
  bool m_showing = false;
};

} // namespace tromb
