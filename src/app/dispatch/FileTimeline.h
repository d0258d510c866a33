// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "export/Proof.h"

#include <QString>
#include <QWidget>
#include <functional>
#include <optional>
#include <vector>

namespace tromb {

/// One quantity along a file's time.
struct TimelineBand {
  QString name;   ///< beside it
  QString second; ///< below the name
  std::vector<float> values;
  double first = 0;                           ///< seconds, of the first value
  double every = 1;                           ///< seconds from one value to the next
  bool steps = false;                         ///< each value holds until the next; else a line joins them
  double low = 0;                             ///< what the floor of the band stands for
  double high = 1;                            ///< … and its top
  std::optional<double> limit;                ///< a value that is asked for
  bool most = false;                          ///< that value is the most that there may be
  std::function<QString(double value)> words; ///< a value for people
};

/// Something that was found at a time of a file.
struct TimelineMark {
  QString words;
  double at = 0; ///< seconds
};

/// The bands of a finished file: how many bits each second takes, with the most that it may, how much its pictures are
/// like what was composed, and how loud it is; and a mark for everything that the proof has found.
[[nodiscard]] std::vector<TimelineBand> bandsOf(const ProofCurves& curves);
[[nodiscard]] std::vector<TimelineMark> marksOf(const ProofCurves& curves);
/// A band of bits a second, of each second.
[[nodiscard]] TimelineBand bitsBand(const QString& name, const std::vector<float>& bitsBySecond, double most);

/// A file along its time: bands below each other, and above all a mark for everything that was found. A mark is gone to
/// by a click, or by Left and Right and Return; any time by a click or a drag.
class FileTimeline : public QWidget {
  Q_OBJECT

public:
  explicit FileTimeline(QWidget* parent = nullptr);
  void setBands(double seconds, std::vector<TimelineBand> bands);
  /// `none` is said where there are none.
  void setMarks(std::vector<TimelineMark> marks, const QString& none);
  /// Where a line says that its pictures are shown, in seconds.
  void setAt(double seconds);
  [[nodiscard]] QSize sizeHint() const override;
  [[nodiscard]] QSize minimumSizeHint() const override { return {160, sizeHint().height()}; }
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
  [[nodiscard]] QRectF marksArea() const;
  [[nodiscard]] QRectF area(size_t band) const;
  [[nodiscard]] double foot() const; ///< of the last band
  [[nodiscard]] double x(double seconds) const;
  [[nodiscard]] double secondsAt(double x) const;
  [[nodiscard]] int markAt(const QPointF& place) const;
  [[nodiscard]] QString words(int mark) const;
  void paintBand(QPainter& painter, const TimelineBand& band, const QRectF& area) const;
  void choose(int mark);
  double m_seconds = 0;
  std::vector<TimelineBand> m_bands;
  std::vector<TimelineMark> m_marks;
  QString m_none;
  int m_chosen = -1;
  double m_at = -1; ///< seconds; below 0: nowhere
};

} // namespace tromb
