// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/bench/BenchResults.h"

#include "app/sheet/CellDelegate.h"
#include "app/style/Theme.h"
#include "destination/Destination.h"

#include <QMouseEvent>
#include <QPainter>
#include <algorithm>

namespace tromb {
namespace {

constexpr double kResultGap = 10;
/// EBU R 95 (2017), for pictures of 16:9: 3.5 % from each edge for action, 5 % for graphics.
constexpr double kActionSafe = 0.035;
constexpr double kGraphicsSafe = 0.05;

} // namespace

BenchResults::BenchResults(Bench& bench, PosterService& posters, QWidget* parent)
    : QWidget(parent), m_bench(bench), m_posters(posters) {
  setFocusPolicy(Qt::StrongFocus);
  setMinimumSize(220, 160);
  setAccessibleName(tr("The shot in every shape"));
  connect(&bench, &Bench::changed, this, qOverload<>(&QWidget::update));
  connect(&bench, &Bench::moved, this, qOverload<>(&QWidget::update));
  connect(&posters, &PosterService::ready, this, qOverload<>(&QWidget::update));
}

void BenchResults::setPoster(const Poster* poster) {
  m_poster = poster;
  update();
}

void BenchResults::setSafeAreas(bool shown) {
  m_safeAreas = shown;
  update();
}

void BenchResults::setCovered(bool shown) {
  m_covered = shown;
  update();
}

double BenchResults::least() const {
  return fontMetrics().horizontalAdvance(tr("soft %1").arg(QStringLiteral("0.00"))) + fontMetrics().ascent() * 0.7 + 6;
}

void BenchResults::paintGuides(QPainter& painter, const QRectF& canvas, const Deliverable& deliverable) const {
  if (m_safeAreas) {
    painter.setBrush(Qt::NoBrush);
    for (const double inset : {kActionSafe, kGraphicsSafe}) {
      const double x = canvas.width() * inset;
      const double y = canvas.height() * inset;
      painter.setPen(QPen(QColor(255, 255, 255, inset == kActionSafe ? 110 : 190), 1));
      painter.drawRect(canvas.adjusted(x, y, -x, -y));
    }
  }
  const Destination* to = m_covered ? destination(deliverable.destination) : nullptr;
  if (!to) return;
  for (const CoveredPart& each : to->covered) {
    const QRectF part(canvas.left() + each.part.x * canvas.width(), canvas.top() + each.part.y * canvas.height(),
                      each.part.width * canvas.width(), each.part.height * canvas.height());
    painter.fillRect(part, QColor(0, 0, 0, 90));
    painter.fillRect(part, QBrush(QColor(255, 255, 255, 150), Qt::BDiagPattern));
  }
}

std::vector<QRectF> BenchResults::layOut() const {
  const auto& all = m_bench.document().project().deliverables;
  const double caption = fontMetrics().height() + 2;
  // Rows as text flows, at the largest scale at which all rows fit.
  const auto flowed = [&](double scale, std::vector<QRectF>& rects) {
    rects.clear();
    double x = kResultGap;
    double y = kResultGap;
    double tallest = 0;
    for (const Deliverable& d : all) {
      const QSizeF size(d.canvas.width * scale, d.canvas.height * scale);
      const double room = std::max(size.width(), least());
      if (x > kResultGap && x + room + kResultGap > width()) {
        x = kResultGap;
        y += tallest + caption + kResultGap;
        tallest = 0;
      }
      rects.emplace_back(QPointF(x, y), size);
      x += room + kResultGap;
      tallest = std::max(tallest, size.height());
      if (size.width() + 2 * kResultGap > width()) return false;
    }
    return y + tallest + caption + kResultGap <= height();
  };
  double most = 0;
  for (const Deliverable& d : all) most = std::max({most, double(d.canvas.width), double(d.canvas.height)});
  std::vector<QRectF> rects;
  double low = 1 / std::max(1.0, most);
  double high = 1;
  for (int i = 0; i < 24; ++i) {
    const double middle = (low + high) / 2;
    (flowed(middle, rects) ? low : high) = middle;
  }
  (void)flowed(low, rects);
  return rects;
}

void BenchResults::mousePressEvent(QMouseEvent* event) {
  const auto rects = layOut();
  for (int column = 0; column < int(rects.size()); ++column)
    if (rects[size_t(column)].adjusted(-3, -3, 3, fontMetrics().height() + 3.0).contains(event->position()))
      m_bench.session().setDeliverable(column);
}

void BenchResults::keyPressEvent(QKeyEvent* event) {
  const int by = event->key() == Qt::Key_Left || event->key() == Qt::Key_Up      ? -1
                 : event->key() == Qt::Key_Right || event->key() == Qt::Key_Down ? 1
                                                                                 : 0;
  if (by == 0) return QWidget::keyPressEvent(event);
  m_bench.session().setDeliverable(m_bench.column() + by);
}

void BenchResults::paintEvent(QPaintEvent*) {
  const Theme& theme = Theme::current();
  QPainter painter(this);
  painter.fillRect(rect(), theme.surround);
  painter.setRenderHint(QPainter::Antialiasing);
  if (m_bench.row() < 0) return;
  const auto rects = layOut();
  for (int column = 0; column < int(rects.size()); ++column) {
    const Cell cell = m_bench.cell(column);
    const QRectF& canvas = rects[size_t(column)];
    paintCanvas(painter, canvas, cell, m_poster, m_posters.under(cell));
    paintGuides(painter, canvas, m_bench.document().project().deliverables[size_t(column)]);
    if (column == m_bench.column()) {
      painter.setBrush(Qt::NoBrush);
      painter.setPen(QPen(theme.accent, 3));
      painter.drawRect(canvas.adjusted(-2, -2, 2, 2));
    }
    const double box = fontMetrics().ascent() * 0.7;
    const double base = canvas.bottom() + 4;
    drawStatusShape(painter, QRectF(canvas.left(), base + 2, box, box), cell.state);
    painter.setPen(Qt::white);
    const double room = std::max(canvas.width(), least()) - box - 4;
    painter.drawText(QRectF(canvas.left() + box + 4, base - 2, room, fontMetrics().height()), Qt::AlignVCenter,
                     fontMetrics().elidedText(cellWords(cell), Qt::ElideRight, int(room)));
  }
  if (hasFocus()) {
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(theme.accent, 2));
    painter.drawRect(QRectF(rect()).adjusted(1, 1, -1, -1));
  }
}

} // namespace tromb
