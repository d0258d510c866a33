// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/ElementPictures.h"
#include "model/PosterService.h"

#include <QStyledItemDelegate>

namespace tromb {

/// Paints a cell: the shot as the deliverable's viewer will see it, in its true shape, on a neutral surround, and
/// one line that says what falls short. Pictures come from the poster, laid out by the cell's own placements, so
/// that sliding answers at once. Holds no state of cells, but what is being played.
class CellDelegate : public QStyledItemDelegate {
  Q_OBJECT

public:
  explicit CellDelegate(PosterService& posters, QObject* parent = nullptr);
  /// What lies over the shots is painted, too. It must live as long.
  void setElements(ElementPictures& elements) { m_elements = &elements; }
  /// Shows a shot as it is at a moment of its source and of the running order, by a picture of that moment, in place of
  /// its poster; row −1: none.
  void setLive(int row, const QImage& picture, double sourceSeconds, const Rational& moment = Rational(0));
  [[nodiscard]] int liveRow() const { return m_liveRow; }
  /// Draws which frames are shown below the words of each cell.
  void setShowsCadence(bool shows) { m_showsCadence = shows; }
  /// What a cell has below its picture, in pixels.
  [[nodiscard]] int footHeight(const QFontMetrics& metrics) const;
  /// Where the canvas lies in a cell's rectangle as it is drawn now.
  [[nodiscard]] QRectF canvasIn(const QRect& cell, Size canvas, const QFontMetrics& metrics) const;
  void paint(QPainter* painter, const QStyleOptionViewItem& option, const QModelIndex& index) const override;

  /// Where the canvas lies in a cell's rectangle that has nothing but words below its picture.
  [[nodiscard]] static QRectF canvasRect(const QRect& cell, Size canvas, const QFontMetrics& metrics);
  /// The line of words below the picture, in pixels.
  [[nodiscard]] static int captionHeight(const QFontMetrics& metrics) { return metrics.height() + 6; }
  static constexpr int kPad = 6;

private:
  PosterService& m_posters;
  ElementPictures* m_elements = nullptr;
  bool m_showsCadence = false;
  int m_liveRow = -1;
  Poster m_live;
  double m_liveSeconds = 0;
  Rational m_liveMoment;
};

/// Draws a cell's canvas into `target` from its poster; a null poster gives an empty canvas. `under` is that of the
/// still it lies on; without it that is black.
void paintCanvas(QPainter& painter, const QRectF& target, const Cell& cell, const Poster* poster,
                 const Poster* under = nullptr);

} // namespace tromb
