// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "time/FrameRate.h"

#include <QLineEdit>

namespace tromb {

/// A time of the running order, shown and typed as timecode at a rate (drop-frame where the rate has it); seconds
/// are taken too. What cannot be read is marked and answered in the tool tip, and the old time stays.
class TimecodeField : public QLineEdit {
  Q_OBJECT

public:
  explicit TimecodeField(const QString& name, QWidget* parent = nullptr);

  void setRate(const FrameRate& rate);
  void setTime(const Rational& seconds);
  [[nodiscard]] const Rational& time() const { return m_time; }

signals:
  void timeTyped(); ///< by a person; `time` is on a frame of the rate

protected:
  void focusOutEvent(QFocusEvent* event) override;

private:
  void showTime();
  void read();
  FrameRate m_rate;
  Rational m_time;
};

} // namespace tromb
