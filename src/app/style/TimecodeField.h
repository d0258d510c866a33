// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "time/Timecode.h"

#include <QLineEdit>

namespace tromb {

/// How positions are written everywhere in the program, as it was chosen. For the window's thread.
class PositionChoice : public QObject {
  Q_OBJECT

public:
  [[nodiscard]] static PositionChoice& chosen();
  [[nodiscard]] PositionStyle style() const { return m_style; }
  void setStyle(PositionStyle style); ///< remembered

signals:
  void changed();

private:
  PositionChoice();
  PositionStyle m_style;
};

/// A time of the running order, shown and typed as timecode at a rate (drop-frame where the rate has it), as frames or
/// as seconds, by choice; also by how far it is from where it stands: see typedTime. What cannot be read is marked and
/// answered in the tool tip, and the old time stays.
class TimecodeField : public QLineEdit {
  Q_OBJECT

public:
  explicit TimecodeField(const QString& name, QWidget* parent = nullptr);

  void setRate(const FrameRate& rate);
  /// Timecode is that of a source with so many frames, which is labelled by itself; empty: counted from its beginning.
  void setLabels(const std::optional<SourceTimecode>& labels, int64_t frames);
  void setTime(const Rational& seconds);
  [[nodiscard]] const Rational& time() const { return m_time; }

signals:
  void timeTyped(); ///< by a person; `time` is on a frame of the rate

protected:
  void contextMenuEvent(QContextMenuEvent* event) override;
  void focusOutEvent(QFocusEvent* event) override;

private:
  void showTime();
  void tell(const QString& what);
  void read();
  FrameRate m_rate;
  Rational m_time;
  std::optional<SourceTimecode> m_labels;
  int64_t m_frames = 0;
};

} // namespace tromb
