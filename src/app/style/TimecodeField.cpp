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

void TimecodeField::showTime() {
  setText(QString::fromStdString(positionText(m_time, m_rate, PositionChoice::chosen().style())));
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
  const auto typed = typedTime(text().trimmed().toStdString(), m_time, m_rate, PositionChoice::chosen().style());
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
