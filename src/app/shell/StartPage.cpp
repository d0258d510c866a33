// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/shell/StartPage.h"

#include "app/style/Icons.h"
#include "app/style/Theme.h"

#include <QAction>
#include <QHBoxLayout>
#include <QLabel>
#include <QPainter>
#include <QPushButton>
#include <QVBoxLayout>
#include <algorithm>

namespace tromb {

StartPage::StartPage(const Actions& actions, QWidget* parent) : QWidget(parent) {
  setAccessibleName(tr("Empty project"));
  auto* rows = new QVBoxLayout(this);
  rows->addStretch(7);
  auto* head = new QLabel(tr("Drop wide footage here"), this);
  head->setProperty("rank", "title");
  head->setAlignment(Qt::AlignCenter);
  auto* text = new QLabel(tr("Every shot becomes a row. Every deliverable becomes a column.\nThe job is finished "
                             "when nothing is left to fix."),
                          this);
  text->setProperty("rank", "faint");
  text->setAlignment(Qt::AlignCenter);
  rows->addWidget(head);
  rows->addSpacing(4);
  rows->addWidget(text);
  rows->addSpacing(14);
  auto* buttons = new QHBoxLayout;
  buttons->addStretch();
  for (const char* id : {"bring-in", "open"}) {
    QAction* action = actions.at(id);
    const bool main = buttons->count() == 1;
    auto* button = new QPushButton(Actions::plainText(action), this);
    button->setIcon(icon(QString::fromLatin1(Actions::rowOf(action).icon), main ? Ink::OnAccent : Ink::Text));
    button->setProperty("main", main);
    if (main) setFocusProxy(button);
    connect(button, &QPushButton::clicked, action, &QAction::trigger);
    buttons->addWidget(button);
  }
  buttons->addStretch();
  rows->addLayout(buttons);
  rows->addStretch(4);
}

void StartPage::paintEvent(QPaintEvent*) {
  // Draws the idea of the program: one wide picture and the shapes in it.
  const Theme& theme = Theme::current();
  QPainter painter(this);
  painter.setRenderHint(QPainter::Antialiasing);
  const double h = std::min(height() * 0.26, 190.0);
  const QRectF wide((width() - h * 16 / 9) / 2, height() * 0.2, h * 16 / 9, h);
  QColor fill = theme.raised;
  painter.setPen(QPen(theme.line, 1.5));
  painter.setBrush(fill);
  painter.drawRoundedRect(wide, 4, 4);
  painter.setBrush(Qt::NoBrush);
  const double centre = wide.left() + wide.width() * 0.58;
  const std::pair<double, double> shapes[] = {{9.0 / 16, 0.94}, {4.0 / 5, 0.86}, {1.0, 0.78}};
  for (const auto& [ratio, size] : shapes) {
    const double side = wide.height() * size;
    painter.setPen(QPen(theme.accent, ratio < 0.6 ? 2.2 : 1.2, ratio < 0.6 ? Qt::SolidLine : Qt::DashLine));
    painter.drawRoundedRect(QRectF(centre - side * ratio / 2, wide.center().y() - side / 2, side * ratio, side), 3, 3);
  }
  painter.setPen(Qt::NoPen);
  painter.setBrush(theme.accent);
  painter.drawEllipse(QPointF(centre, wide.center().y()), 4, 4);
}

} // namespace tromb
