// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/bench/WaysPanel.h"

#include "app/sheet/CellDelegate.h"
#include "model/Translation.h"
#include "preflight/Filling.h"
#include "project/Sharing.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QPainter>
#include <QScrollArea>
#include <QScrollBar>
#include <QToolButton>
#include <QVBoxLayout>
#include <algorithm>

namespace tromb {
namespace {

constexpr int kPictureHeight = 66;
constexpr int kLeastCard = 92; ///< width

} // namespace

WaysPanel::WaysPanel(Bench& bench, PosterService& posters, QWidget* parent)
    : QWidget(parent), m_bench(bench), m_posters(posters), m_scope(new QComboBox(this)), m_area(new QScrollArea(this)) {
  setAccessibleName(tr("Ways to fill without softness"));
  auto* rows = new QVBoxLayout(this);
  rows->setContentsMargins(12, 6, 8, 8);
  rows->setSpacing(6);
  auto* head = new QHBoxLayout;
  head->setSpacing(6);
  auto* words = new QLabel(tr("Ways to fill"), this);
  words->setProperty("rank", "head");
  words->setBuddy(m_scope);
  m_scope->addItems({tr("this cell"), tr("soft cells of this deliverable"), tr("soft cells of all deliverables"),
                     tr("all cells of this deliverable")});
  m_scope->setAccessibleName(tr("What a way to fill is applied to"));
  m_scope->setToolTip(tr("What a way is applied to: soft cells only where it makes them sharper"));
  m_scope->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
  head->addWidget(words);
  head->addWidget(m_scope, 1);
  rows->addLayout(head);
  m_area->setFrameShape(QFrame::NoFrame);
  m_area->setWidgetResizable(true);
  m_area->setVerticalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  m_area->setFocusPolicy(Qt::NoFocus);
  rows->addWidget(m_area);
  // The cards are drawn again when a drag has ended, not at each of its steps.
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
  for (int column = first; column < end; ++column) {
    if (!framesItself(project.deliverables[size_t(column)])) continue; // framed with its normal version
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
  }
  document.setFramings(framings, tr("Another way to fill"));
}

void WaysPanel::apply(const WayToFill& way) {
  const int columns = int(m_bench.document().project().deliverables.size());
  const auto scope = Scope(m_scope->currentIndex());
  m_scope->setCurrentIndex(int(Scope::Cell)); // another cell begins with the choice of this cell alone
  // Changing the canvas always concerns the whole deliverable, so there is nothing to choose.
  if (scope == Scope::Cell || way.kind == WayToFill::Kind::Canvas) return m_bench.placing().applyWay(way);
  const int first = scope == Scope::SoftOfAll ? 0 : m_bench.column();
  applyTo(first, scope == Scope::SoftOfAll ? columns : first + 1, way, scope != Scope::Column);
}

void WaysPanel::refresh() {
  const auto ways = m_bench.placing().ways();
  delete m_area->takeWidget();
  if (ways.empty()) {
    emit offered(false);
    return;
  }
  auto* line = new QWidget(m_area);
  auto* cards = new QHBoxLayout(line);
  cards->setContentsMargins(0, 0, 0, 0);
  cards->setSpacing(6);
  int widest = kLeastCard;
  QList<QToolButton*> made;
  for (const WayToFill& way : ways) {
    Cell cell = m_bench.cell(m_bench.column());
    const Size canvas = cell.canvas;
    cell.framing = way.framing;
    cell.canvas = way.canvas;
    turnTo(cell, m_bench.time().toDouble());
    const double ratio = way.canvas.ratio() * cell.shown.width / canvas.width;
    QPixmap picture(std::max(24, int(kPictureHeight * ratio)), kPictureHeight);
    picture.fill(Qt::black);
    QPainter painter(&picture);
    paintCanvas(painter, QRectF(picture.rect()), cell, m_poster, m_posters.under(cell));
    painter.end();
    auto* button = new QToolButton(line);
    button->setIcon(QIcon(picture));
    button->setIconSize(picture.size().scaled(kLeastCard - 14, kPictureHeight, Qt::KeepAspectRatio));
    button->setToolButtonStyle(Qt::ToolButtonTextUnderIcon);
    const QString detail = QString::fromStdString(detailText(way.detail));
    const QString name = said(wayName(way));
    QStringList losses;
    for (const Message& each : lossWords(way.loss)) losses << said(each);
    button->setText(QStringLiteral("%1\n%2\n%3").arg(name, detail, losses.first()));
    button->setAccessibleName(tr("%1, detail %2, %3").arg(name, detail, losses.join(QStringLiteral(", "))));
    QString tip = tr("Gives up: %1").arg(losses.join(QStringLiteral(", ")));
    if (made.isEmpty()) tip += QLatin1Char('\n') + tr("Of all ways this one loses least.");
    if (way.kind == WayToFill::Kind::Canvas) tip += QLatin1Char('\n') + tr("Makes the deliverable that large");
    button->setToolTip(tip);
    if (made.isEmpty()) button->setProperty("best", true);
    button->setFocusPolicy(Qt::TabFocus);
    button->setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Preferred);
    button->ensurePolished(); // so that it knows how much it needs
    widest = std::max(widest, button->minimumSizeHint().width() + 2);
    // Applying may rebuild this panel, which must not happen while its button handles the click.
    connect(
        button, &QToolButton::clicked, this, [this, way] { apply(way); }, Qt::QueuedConnection);
    cards->addWidget(button, 1);
    made << button;
  }
  for (QToolButton* button : made) button->setMinimumWidth(widest); // all of one width
  m_area->setWidget(line);                                          // takes the place of the one before
  m_area->setFixedHeight(line->sizeHint().height() + (line->minimumSizeHint().width() > m_area->width()
                                                          ? m_area->horizontalScrollBar()->sizeHint().height()
                                                          : 0));
  emit offered(true);
}

} // namespace tromb
