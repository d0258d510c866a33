// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "sample/SampleEncode.h"

#include <QDialog>
#include <QImage>

class QComboBox;
class QLabel;

namespace tromb {

/// Part of a picture, pixel for pixel; dragged, or moved by the arrow keys.
class PixelView : public QWidget {
  Q_OBJECT

public:
  explicit PixelView(QWidget* parent = nullptr);
  void show(const QImage& picture);                        ///< stays where it is looked at
  [[nodiscard]] QPoint corner() const { return m_corner; } ///< of the picture, at the view's own top left corner
  [[nodiscard]] QSize sizeHint() const override { return {900, 520}; }

protected:
  void paintEvent(QPaintEvent* event) override;
  void resizeEvent(QResizeEvent* event) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;

private:
  void move(const QPoint& by);
  QImage m_picture;
  QPoint m_corner;
  QPoint m_held;
};

/// Two settings of a sample in turn, at the same place of the hardest picture: the space bar flips between them.
class SampleDialog : public QDialog {
  Q_OBJECT

public:
  SampleDialog(const SampleReport& report, const Encoding& present, QWidget* parent = nullptr);
  /// The setting that is shown: place among the rungs; as many as there are for the picture before it was encoded.
  [[nodiscard]] int shown() const;
  [[nodiscard]] PixelView& view() const { return *m_view; }

protected:
  bool eventFilter(QObject* watched, QEvent* event) override;

private:
  void flip();
  void refresh();
  [[nodiscard]] const QImage& picture(int place);

  SampleReport m_report;
  std::vector<QImage> m_pictures;
  PixelView* m_view;
  QLabel* m_words;
  QComboBox* m_choices[2];
  int m_side = 0;
};

} // namespace tromb
