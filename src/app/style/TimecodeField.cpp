// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/style/TimecodeField.h"

#include "app/style/Theme.h"
#include "model/Translation.h"
#include "time/Timecode.h"

namespace tromb {

TimecodeField::TimecodeField(const QString& name, QWidget* parent) : QLineEdit(parent) {
  setAccessibleName(name);
  setAlignment(Qt::AlignRight);
  setFixedWidth(fontMetrics().horizontalAdvance(QStringLiteral("00:00:00:000")) + 18);
  connect(this, &QLineEdit::returnPressed, this, &TimecodeField::read);
  showTime();
}

void TimecodeField::setRate(const FrameRate& rate) {
  m_rate = rate;
  showTime();
}

void TimecodeField::setTime(const Rational& seconds) {
  m_time = seconds;
  if (!hasFocus() || !isModified()) showTime();
}

void TimecodeField::showTime() {
  setText(QString::fromStdString(timecode(std::max<int64_t>(0, m_rate.frameAt(m_time)), m_rate, hasDropFrame(m_rate))));
  setModified(false);
  setToolTip(tr("%1 at %2 frames a second").arg(accessibleName(), QString::fromStdString(m_rate.name())));
  if (!styleSheet().isEmpty()) setStyleSheet({});
}

void TimecodeField::read() {
  const auto typed = parseTime(text().trimmed().toStdString(), m_rate);
  if (!typed || *typed < Rational(0)) {
    setToolTip(typed ? tr("A time cannot lie before the start") : said(typed.error()));
    setStyleSheet(QStringLiteral("border: 2px solid %1").arg(Theme::current().broken.name()));
    return;
  }
  m_time = m_rate.timeOf(m_rate.frameAt(*typed));
  setModified(false);
  showTime();
  emit timeTyped();
  selectAll(); // the next thing that is typed replaces the time
}

void TimecodeField::focusOutEvent(QFocusEvent* event) {
  if (isModified()) read();
  if (isModified()) showTime(); // it could not be read
  QLineEdit::focusOutEvent(event);
}

} // namespace tromb
