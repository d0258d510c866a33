// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "export/Proof.h"

#include <QWidget>

namespace tromb {

/// A finished file along its time: how many bits each second takes, with the most that it may, how much its pictures
/// are like what was composed, how loud it is, and above all a mark for everything that the proof has found. A mark is
/// gone to by a click, or by Left and Right and Return.
class ProofTimeline : public QWidget {
  Q_OBJECT

public:
  explicit ProofTimeline(QWidget* parent = nullptr);
  void setCurves(const ProofCurves& curves);
  [[nodiscard]] QSize sizeHint() const override;
  [[nodiscard]] QSize minimumSizeHint() const override { return {160, sizeHint().height()}; }
  /// Where a line says that its pictures are shown, in seconds.
  void setAt(double seconds);
  /// Place of the mark that is chosen, −1 for none.
  [[nodiscard]] int chosen() const { return m_chosen; }

signals:
  /// Somebody wants to see the file at a time, in seconds.
  void wanted(double seconds);

protected:
  void paintEvent(QPaintEvent* event) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;

private:
  enum class Band { Marks, Bits, Likeness, Loudness };
  [[nodiscard]] bool has(Band band) const;
  [[nodiscard]] QRectF area(Band band) const;
  [[nodiscard]] double foot() const; ///< of the last band
  [[nodiscard]] double x(double seconds) const;
  [[nodiscard]] double secondsAt(double x) const;
  [[nodiscard]] int markAt(const QPointF& place) const;
  [[nodiscard]] QString words(int mark) const;
  void paintBits(QPainter& painter, const QRectF& area) const;
  void paintLikeness(QPainter& painter, const QRectF& area) const;
  void paintLoudness(QPainter& painter, const QRectF& area) const;
  void choose(int mark);
  ProofCurves m_curves;
  int m_chosen = -1;
  double m_at = -1; ///< seconds; below 0: nowhere
};

} // namespace tromb
