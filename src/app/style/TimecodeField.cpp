// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/style/TimecodeField.h"

#include "app/style/Settings.h"
#include "app/style/Theme.h"
#include "model/Translation.h"

#include <QActionGroup>
#include <QContextMenuEvent>
#include <QMenu>
#include <algorithm>
#include <memory>

namespace tromb {

PositionChoice::PositionChoice()
    : m_style(PositionStyle(std::clamp(Settings::left(QStringLiteral("positions"), 0).toInt(), 0, 2))) {}

PositionChoice& PositionChoice::chosen() {
  static PositionChoice choice;
  return choice;
}

void PositionChoice::setStyle(PositionStyle style) {
  if (style == m_style) return;
  m_style = style;
  Settings::setLeft(QStringLiteral("positions"), int(style));
  emit changed();
}

TimecodeField::TimecodeField(const QString& name, QWidget* parent) : QLineEdit(parent) {
  setAccessibleName(name);
  setAlignment(Qt::AlignRight);
  setFixedWidth(fontMetrics().horizontalAdvance(QStringLiteral("00:00:00:000")) + 18);
  connect(this, &QLineEdit::returnPressed, this, &TimecodeField::read);
  connect(&PositionChoice::chosen(), &PositionChoice::changed, this, &TimecodeField::showTime);
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

void TimecodeField::setLabels(const std::optional<SourceTimecode>& labels, int64_t frames) {
  m_frames = frames;
  if (m_labels == labels) return;
  m_labels = labels;
  showTime();
}

void TimecodeField::showTime() {
  const PositionStyle style = PositionChoice::chosen().style();
  setText(QString::fromStdString(m_labels && style == PositionStyle::Timecode
                                     ? m_labels->labelOf(std::max<int64_t>(0, m_rate.frameAt(m_time)), m_rate)
                                     : positionText(m_time, m_rate, style)));
  setModified(false);
  tell({});
  if (!styleSheet().isEmpty()) setStyleSheet({});
}

/// The tool tip: what is amiss, or what can be typed.
void TimecodeField::tell(const QString& what) {
  const QString known =
      tr("%1 at %2 frames a second. Take +10 for ten frames on, ++1:00 for a second, 128f for a frame")
          .arg(accessibleName(), QString::fromStdString(m_rate.name()));
  setToolTip(what.isEmpty() ? known : what);
}

void TimecodeField::read() {
  const std::string words = text().trimmed().toStdString();
  auto typed = typedTime(words, m_time, m_rate, PositionChoice::chosen().style());
  const bool label = std::count_if(words.begin(), words.end(), [](char c) { return c == ':' || c == ';'; }) == 3;
  if (m_labels && label && words.front() != '+' && words.front() != '-') {
    const auto frame = m_labels->frameOf(words, m_rate, m_frames);
    if (frame)
      typed = TypedTime{m_rate.timeOf(*frame), false};
    else
      typed = tl::unexpected(frame.error());
  }
  if (!typed) {
    tell(said(typed.error()));
    setStyleSheet(QStringLiteral("border: 2px solid %1").arg(Theme::current().broken.name()));
    return;
  }
  m_time = typed->seconds;
  setModified(false);
  showTime();
  if (typed->nextLabel) tell(tr("Drop-frame timecode leaves that label out; this is the next"));
  emit timeTyped();
  selectAll(); // the next thing that is typed replaces the time
}

void TimecodeField::contextMenuEvent(QContextMenuEvent* event) {
  const std::unique_ptr<QMenu> menu(createStandardContextMenu());
  menu->addSeparator();
  auto* styles = new QActionGroup(menu.get());
  const std::pair<PositionStyle, QString> choices[] = {{PositionStyle::Timecode, tr("Positions as timecode")},
                                                       {PositionStyle::Frames, tr("Positions in frames")},
                                                       {PositionStyle::Seconds, tr("Positions in seconds")}};
  for (const auto& [style, words] : choices) {
    QAction* action = menu->addAction(words);
    action->setCheckable(true);
    action->setChecked(style == PositionChoice::chosen().style());
    styles->addAction(action);
    connect(action, &QAction::triggered, &PositionChoice::chosen(),
            [style = style] { PositionChoice::chosen().setStyle(style); });
  }
  menu->exec(event->globalPos());
}

void TimecodeField::focusOutEvent(QFocusEvent* event) {
  if (isModified()) read();
  if (isModified()) showTime(); // it could not be read
  QLineEdit::focusOutEvent(event);
}

} // namespace tromb
