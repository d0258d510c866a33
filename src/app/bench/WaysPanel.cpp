// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/bench/WaysPanel.h"

#include "app/sheet/CellDelegate.h"
#include "app/style/FlowLayout.h"

#include <QLabel>
#include <QMenu>
#include <QPainter>
#include <QToolButton>
#include <QVBoxLayout>

namespace tromb {
namespace {

constexpr int kPictureHeight = 84;

QString nameOf(const WayToFill& way) {
  switch (way.kind) {
  case WayToFill::Kind::Fill:
    return WaysPanel::tr("fill");
  case WayToFill::Kind::Wider:
    return WaysPanel::tr("less zoom");
  case WayToFill::Kind::Stack2:
    return WaysPanel::tr("two stacked");
  case WayToFill::Kind::Stack3:
    return WaysPanel::tr("three stacked");
  case WayToFill::Kind::Side2:
    return WaysPanel::tr("two beside");
  case WayToFill::Kind::Side3:
    return WaysPanel::tr("three beside");
  case WayToFill::Kind::Backdrop:
    return WaysPanel::tr("backdrop");
  case WayToFill::Kind::Canvas:
    return QString::fromStdString(sizeText(way.canvas));
  }
  return {};
}

/// What is given up for it.
QString costOf(const WayToFill& way, const std::vector<Placement>& placements, Size canvas) {
  const auto pixels = [](Size size) { return double(size.width) * size.height; };
  switch (way.kind) {
  case WayToFill::Kind::Fill:
    return WaysPanel::tr("enlarged %1×").arg(1 / way.detail, 0, 'f', 1);
  case WayToFill::Kind::Wider:
    return WaysPanel::tr("less close");
  case WayToFill::Kind::Stack2:
  case WayToFill::Kind::Side2:
    return WaysPanel::tr("in 2 parts");
  case WayToFill::Kind::Stack3:
  case WayToFill::Kind::Side3:
    return WaysPanel::tr("in 3 parts");
  case WayToFill::Kind::Backdrop: {
    double covered = 0;
    for (const Placement& placed : placements)
      if (!placed.isGround()) covered += pixels({placed.canvas.width, placed.canvas.height});
    return WaysPanel::tr("on %1 % of it").arg(qRound(100 * covered / pixels(way.canvas)));
  }
  case WayToFill::Kind::Canvas:
    return WaysPanel::tr("%1 % of the pixels").arg(qRound(100 * pixels(way.canvas) / pixels(canvas)));
  }
  return {};
}

} // namespace

WaysPanel::WaysPanel(Bench& bench, PosterService& posters, QWidget* parent)
    : QWidget(parent), m_bench(bench), m_posters(posters) {
  setAccessibleName(tr("Ways to fill without softness"));
  auto* rows = new QVBoxLayout(this);
  rows->setContentsMargins(8, 6, 8, 6);
  // Drawn anew when it has come to rest, not at every step of a drag.
  m_rest.setSingleShot(true);
  m_rest.setInterval(120);
  connect(&m_rest, &QTimer::timeout, this, &WaysPanel::refresh);
  connect(&bench, &Bench::changed, &m_rest, qOverload<>(&QTimer::start));
  refresh();
}

void WaysPanel::setPoster(const Poster* poster) {
  m_poster = poster;
  m_rest.start();
}

void WaysPanel::applyTo(int first, int end, const WayToFill& way, bool softOnly) {
  Document& document = m_bench.document();
  const Project& project = document.project();
  std::vector<std::pair<CellPlace, Framing>> framings;
  for (int column = first; column < end; ++column)
    for (int row = 0; row < int(project.shots.size()); ++row) {
      const Cell cell = document.cell({row, column});
      if (cell.placements.empty()) continue;
      if (softOnly) {
        const Shot& shot = project.shots[size_t(row)];
        const Shortfall least =
            worst(cell.shape, cell.canvas, way.framing, cell.subjects, shot.in.toDouble(), shot.out.toDouble());
        if (cell.state != Cell::State::Soft || least.uncoveredPercent > 0 || least.detail <= cell.detail) continue;
      }
      framings.emplace_back(CellPlace{row, column}, way.framing);
    }
  document.setFramings(framings, tr("Another way to fill"));
}

void WaysPanel::refresh() {
  QLayout* rows = layout();
  while (QLayoutItem* item = rows->takeAt(0)) {
    delete item->widget();
    delete item;
  }
  const auto ways = m_bench.placing().ways();
  if (ways.empty()) {
    emit offered(false);
    return;
  }
  auto* head = new QLabel(tr("Ways to fill this canvas"), this);
  head->setProperty("rank", "head");
  rows->addWidget(head);
  auto* line = new QWidget(this);
  auto* flow = new FlowLayout(line, 6);
  flow->setContentsMargins(0, 0, 0, 0);
  for (const WayToFill& way : ways) {
    Cell cell = m_bench.cell(m_bench.column());
    const Size canvas = cell.canvas;
    cell.framing = way.framing;
    cell.canvas = way.canvas;
    turnTo(cell, m_bench.time().toDouble());
    QPixmap picture(std::max(24, int(kPictureHeight * way.canvas.ratio())), kPictureHeight);
    picture.fill(Qt::black);
    QPainter painter(&picture);
    paintCanvas(painter, QRectF(picture.rect()), cell, m_poster, m_posters.under(cell));
    painter.end();
    auto* button = new QToolButton(line);
    button->setIcon(QIcon(picture));
    button->setIconSize(picture.size().scaled(110, kPictureHeight, Qt::KeepAspectRatio));
    button->setToolButtonStyle(Qt::ToolButtonTextUnderIcon);
    const QString detail = QString::fromStdString(detailText(way.detail));
    const QString cost = costOf(way, cell.placements, canvas);
    button->setText(QStringLiteral("%1 · %2\n%3").arg(nameOf(way), detail, cost));
    button->setAccessibleName(tr("%1, detail %2, %3").arg(nameOf(way), detail, cost));
    button->setToolTip(way.kind == WayToFill::Kind::Canvas ? tr("Makes the deliverable as large as stays sharp")
                                                           : button->accessibleName());
    button->setFocusPolicy(Qt::TabFocus);
    // What is applied may rebuild this panel: not before the click has ended.
    connect(
        button, &QToolButton::clicked, this, [this, way] { m_bench.placing().applyWay(way); }, Qt::QueuedConnection);
    if (way.kind != WayToFill::Kind::Canvas) {
      button->setPopupMode(QToolButton::MenuButtonPopup);
      auto* menu = new QMenu(button);
      button->setMenu(menu);
      const auto offer = [&](const QString& text, bool everywhere, bool softOnly) {
        connect(
            menu->addAction(text), &QAction::triggered, this,
            [this, way, everywhere, softOnly] {
              const int columns = int(m_bench.document().project().deliverables.size());
              const int first = everywhere ? 0 : m_bench.column();
              applyTo(first, everywhere ? columns : first + 1, way, softOnly);
            },
            Qt::QueuedConnection);
      };
      offer(tr("For every soft cell of this deliverable that it helps"), false, true);
      offer(tr("For every soft cell of all deliverables that it helps"), true, true);
      offer(tr("For all cells of this deliverable"), false, false);
    }
    flow->addWidget(button);
  }
  rows->addWidget(line);
  emit offered(true);
}

} // namespace tromb
