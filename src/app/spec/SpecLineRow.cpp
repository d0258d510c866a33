// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/spec/SpecLineRow.h"

#include "app/style/Theme.h"
#include "model/Translation.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QPainter>
#include <QPushButton>
#include <algorithm>

namespace tromb {
namespace {

Cell::State stateOf(Standing standing) {
  switch (standing) {
  case Standing::Told:
    return Cell::State::Waiting;
  case Standing::Met:
    return Cell::State::Good;
  case Standing::Near:
    return Cell::State::Soft;
  case Standing::Broken:
    return Cell::State::Bars;
  }
  return Cell::State::Waiting;
}

constexpr int kSignRoom = 20;

} // namespace

QColor standingColour(Standing standing) {
  return standing == Standing::Told || standing == Standing::Met ? Theme::current().ink
                                                                 : statusColour(stateOf(standing));
}

void drawStanding(QPainter& painter, const QRectF& box, Standing standing) {
  if (standing != Standing::Told) drawStatusShape(painter, box, stateOf(standing));
}

QString standingSaid(Standing standing) {
  const QString all[] = {QString(), SpecLineRow::tr("holds"), SpecLineRow::tr("near its limit"),
                         SpecLineRow::tr("does not hold")};
  return all[size_t(standing)];
}

SpecLineRow::SpecLineRow(QWidget* parent)
    : QWidget(parent), m_what(new QLabel(this)), m_value(new QLabel(this)), m_beside(new QLabel(this)) {
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(kSignRoom, 1, 0, 1);
  row->setSpacing(8);
  m_what->setProperty("rank", "faint");
  m_value->setWordWrap(true);
  m_value->setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Preferred);
  row->addWidget(m_what);
  row->addWidget(m_value, 1);
  row->addWidget(m_beside, 1);
  m_beside->setWordWrap(true);
  m_buttons = new QBoxLayout(QBoxLayout::LeftToRight);
  m_buttons->setSpacing(2);
  row->addLayout(m_buttons);
  for (size_t i = 0; i < m_fixes.size(); ++i) {
    m_fixes[i] = new QPushButton(this);
    m_fixes[i]->setProperty("small", true);
    m_fixes[i]->setAutoDefault(true);
    m_buttons->addWidget(m_fixes[i]);
    connect(m_fixes[i], &QPushButton::clicked, this, [this, i] { emit fixAsked(int(i)); });
  }
}

void SpecLineRow::show(const SpecLine& line, const QString& beside) {
  m_line = line;
  const QString what = said(line.what);
  const QString value = said(line.value);
  const QString reason = said(line.reason);
  // There may be a line for each of hundreds of sources, and most stay as they are at an edit.
  QStringList shown{what, value, reason, beside, QString::number(int(line.standing)), QString::number(int(line.topic))};
  for (const Fix& each : line.fixes) shown << said(each.words);
  if (shown == m_shown) return;
  m_shown = shown;
  constexpr int kLetters = 13;
  constexpr int kLettersOfNames = 15;
  m_what->setFixedWidth(fontMetrics().averageCharWidth() *
                        (line.topic == SpecTopic::Source ? kLettersOfNames : kLetters));
  m_what->setText(m_what->fontMetrics().elidedText(what, Qt::ElideRight, m_what->width()));
  // Why a file cannot be made or played is read at once; what a destination's limits rest on, when it is asked for.
  const bool told = line.standing == Standing::Broken && line.topic == SpecTopic::Playing && !line.reason.empty();
  m_value->setText(told ? tr("%1. %2").arg(value, said(line.reason)) : value);
  const QColor colour = standingColour(line.standing);
  if (line.standing == Standing::Told || line.standing == Standing::Met)
    m_value->setStyleSheet(QString());
  else
    colourWords(m_value, colour);
  m_beside->setVisible(!beside.isEmpty());
  m_beside->setText(beside);
  colourWords(m_beside, beside == value ? Theme::current().faint : Theme::current().ink); // what differs stands out
  setToolTip(reason);
  // Those of a source stand one above the other, as its words go over several lines, too.
  m_buttons->setDirection(line.topic == SpecTopic::Source ? QBoxLayout::TopToBottom : QBoxLayout::LeftToRight);
  for (size_t i = 0; i < m_fixes.size(); ++i) {
    const bool there = beside.isEmpty() && i < line.fixes.size();
    m_fixes[i]->setVisible(there);
    if (!there) continue;
    const QString words = said(line.fixes[i].words);
    m_fixes[i]->setText(words);
    m_fixes[i]->setAccessibleName(tr("%1: %2").arg(what, words));
  }
  QStringList all{what, value};
  if (!beside.isEmpty()) all << tr("there %1").arg(beside);
  if (const QString stands = standingSaid(line.standing); !stands.isEmpty()) all << stands;
  if (!reason.isEmpty()) all << reason;
  setAccessibleName(all.join(QStringLiteral(", ")));
  update();
}

void SpecLineRow::changeEvent(QEvent* event) {
  QWidget::changeEvent(event);
  m_shown.clear(); // widths and colours are others
}

void SpecLineRow::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  drawStanding(painter, {3, m_what->y() + (m_what->height() - 10) / 2.0, 10, 10}, m_line.standing);
}

} // namespace tromb
