// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/bench/BenchResults.h"

#include "app/sheet/CellDelegate.h"
#include "app/style/CadenceDrawing.h"
#include "app/style/CanvasGuides.h"
#include "app/style/Theme.h"
#include "model/Translation.h"
#include "project/Sharing.h"

#include <QApplication>
#include <QMouseEvent>
#include <QPainter>
#include <algorithm>
#include <cmath>

namespace tromb {
namespace {

constexpr double kResultGap = 10;
constexpr double kCatches = 1;  ///< percent of the shorter side
constexpr double kMostRow = 92; ///< height of the tallest in the row

} // namespace

BenchResults::BenchResults(Bench& bench, PosterService& posters, QWidget* parent)
    : QWidget(parent), m_bench(bench), m_posters(posters) {
  setFocusPolicy(Qt::StrongFocus);
  setMinimumSize(220, 160);
  setMouseTracking(true);
  setAccessibleName(tr("The shot in every deliverable"));
  connect(&bench, &Bench::changed, this, qOverload<>(&QWidget::update));
  connect(&bench, &Bench::moved, this, qOverload<>(&QWidget::update));
  connect(&posters, &PosterService::ready, this, qOverload<>(&QWidget::update));
}

void BenchResults::setPreflight(const PreflightService& preflight) {
  m_preflight = &preflight;
  connect(&preflight, &PreflightService::changed, this, qOverload<>(&QWidget::update));
}

int BenchResults::amissIn(int column) const {
  const Project& p = m_bench.document().project();
  if (!m_preflight || m_bench.row() < 0) return 0;
  return int(m_preflight->besideState(p.deliverables[size_t(column)].id, p.shots[size_t(m_bench.row())].id).size());
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

void BenchResults::setCadence(bool shown) {
  m_cadence = shown;
  update();
}

double BenchResults::footHeight() const {
  return fontMetrics().height() + 4.0 + (m_cadence ? fontMetrics().height() + DrawnCadence::kHeight + 6 : 0);
}

double BenchResults::least(double count) const {
  const double words =
      fontMetrics().horizontalAdvance(tr("soft %1").arg(QStringLiteral("0.00"))) + fontMetrics().ascent() * 0.7 + 6;
  // Captions are shortened where there is no room for them; pictures are not made smaller for them.
  return std::min(words, std::max(0.0, (width() - kResultGap) / std::max(1.0, count) - kResultGap));
}

/// A status and its words, after others; how much more is amiss stands behind them.
void BenchResults::paintWords(QPainter& painter, const QRectF& line, const Cell& cell, int more,
                              const QString& before) const {
  const double box = fontMetrics().ascent() * 0.7;
  drawStatusShape(painter, QRectF(line.left(), line.center().y() - box / 2, box, box), cell.state,
                  statusColourOnSurround(cell.state));
  painter.setPen(Qt::white);
  QRectF room = line.adjusted(box + 4, 0, 0, 0);
  const QString count = more > 0 ? tr(" +%1").arg(more) : QString();
  room.setRight(room.right() - fontMetrics().horizontalAdvance(count));
  QString text = before + cellWords(cell);
  if (fontMetrics().horizontalAdvance(text) > room.width()) text = before + cellNumber(cell);
  text = fontMetrics().elidedText(text, Qt::ElideRight, int(room.width()));
  painter.drawText(room, Qt::AlignVCenter, text);
  if (more == 0) return;
  painter.setPen(statusColourOnSurround(Cell::State::Soft));
  room.setLeft(room.left() + fontMetrics().horizontalAdvance(text));
  room.setRight(line.right());
  painter.drawText(room, Qt::AlignVCenter, count);
}

std::vector<QRectF> BenchResults::layOut() const {
  const auto& all = m_bench.document().project().deliverables;
  std::vector<QRectF> rects(all.size()); // empty for those that are framed with another
  const std::vector<int> framed = m_bench.columns();
  if (framed.empty()) return rects;
  const double caption = fontMetrics().height() + 4.0;
  // Lays all results in a row at the foot, at their true relative sizes. The row is as high as the active result
  // allows.
  const double words = least(double(framed.size())); // measured once: there may be many
  double tallest = 0;
  const double row = std::min(kMostRow, height() * 0.3);
  for (const int i : framed) tallest = std::max(tallest, double(all[size_t(i)].canvas.height));
  double scale = row / std::max(1.0, tallest);
  const auto wide = [&] {
    double across = kResultGap;
    for (const int i : framed) across += std::max(all[size_t(i)].shownSize().width * scale, words) + kResultGap;
    return across;
  };
  for (int i = 0; i < 40 && wide() > width(); ++i) scale *= 0.93;
  double x = kResultGap;
  const double foot = height() - caption - kResultGap / 2;
  for (const int place : framed) {
    const auto i = size_t(place);
    const QSizeF size(all[i].shownSize().width * scale, all[i].canvas.height * scale);
    rects[i] = QRectF(QPointF(x, foot - size.height()), size);
    x += std::max(size.width(), words) + kResultGap;
  }
  return rects;
}

QRectF BenchResults::activeRect() const {
  return activeRect(layOut());
}

QRectF BenchResults::activeRect(const std::vector<QRectF>& row) const {
  const auto& all = m_bench.document().project().deliverables;
  if (all.empty()) return {};
  double top = height();
  for (const int i : m_bench.columns()) top = std::min(top, row[size_t(i)].top());
  const QRectF room(kResultGap, kResultGap, width() - 2 * kResultGap, top - footHeight() - 2 * kResultGap);
  const Size canvas = all[size_t(m_bench.column())].shownSize();
  const double scale = std::min(room.width() / canvas.width, room.height() / canvas.height);
  const QSizeF size(canvas.width * scale, canvas.height * scale);
  return {QPointF(room.center().x() - size.width() / 2, room.top() + (room.height() - size.height()) / 2), size};
}

std::vector<PaintedPart> BenchResults::paintedParts() const {
  const auto& all = m_bench.document().project().deliverables;
  const std::vector<QRectF> rects = layOut();
  std::vector<PaintedPart> parts;
  if (m_bench.row() < 0) return parts;
  for (const int column : m_bench.columns()) {
    const Deliverable& d = all[size_t(column)];
    const int amiss = amissIn(column);
    parts.push_back(
        {QStringLiteral("%1 %2").arg(QString::fromStdString(d.name), QString::fromStdString(sizeText(d.canvas))),
         amiss > 0 ? tr("%1, %n more to look at", nullptr, amiss).arg(cellWords(m_bench.cell(column)))
                   : cellWords(m_bench.cell(column)),
         rects[size_t(column)].toAlignedRect(), column == m_bench.column()});
  }
  return parts;
}

void BenchResults::setElements(ElementPictures& elements) {
  m_elements = &elements;
  connect(&elements, &ElementPictures::ready, this, [this] { update(); });
  connect(&m_bench.document(), &Document::elementsChanged, this, [this] { update(); });
}

void BenchResults::pressPart(int part) {
  m_bench.session().setDeliverable(m_bench.columns()[size_t(part)]);
}

std::string BenchResults::elementAt(const QPointF& point) {
  if (!m_elements || m_bench.row() < 0) return {};
  return m_elements->at(point, activeRect(), devicePixelRatioF(), m_bench.column(), m_bench.session().playhead());
}

void BenchResults::mousePressEvent(QMouseEvent* event) {
  if (const std::string id = elementAt(event->position()); !id.empty() && event->button() == Qt::LeftButton) {
    const Project& project = m_bench.document().project();
    const Element held = project.elements[size_t(placeOf(project.elements, id))].styled(project.captionStyle);
    m_drag = {id, event->position(), held.placeIn(framedAs(project.deliverables[size_t(m_bench.column())])),
              m_bench.document().newGesture()};
    return;
  }
  const auto rects = layOut();
  for (const int column : m_bench.columns())
    if (rects[size_t(column)].adjusted(-3, -3, 3, fontMetrics().height() + 3.0).contains(event->position()))
      m_bench.session().setDeliverable(column);
}

void BenchResults::mouseMoveEvent(QMouseEvent* event) {
  if (!m_drag) {
    setCursor(elementAt(event->position()).empty() ? Qt::ArrowCursor : Qt::SizeAllCursor);
    return;
  }
  const QPointF way = event->position() - m_drag->from;
  if (way.manhattanLength() < QApplication::startDragDistance()) return;
  const QRectF canvas = activeRect();
  const double percent = 100 / std::min(canvas.width(), canvas.height());
  ElementPlace place = m_drag->place;
  // It catches where it is held, so that it is easily put back.
  const auto caught = [](double offset) { return std::abs(offset) < kCatches ? 0 : offset; };
  place.x = caught(std::clamp(place.x + way.x() * percent, -kMostElementOffset, kMostElementOffset));
  place.y = caught(std::clamp(place.y + way.y() * percent, -kMostElementOffset, kMostElementOffset));
  const std::string in = framedAs(m_bench.document().project().deliverables[size_t(m_bench.column())]);
  m_bench.document().changeElement(
      m_drag->id, [&](Element& e) { e.own[in].place = place; }, tr("Drag words or a picture"), m_drag->gesture);
}

void BenchResults::mouseReleaseEvent(QMouseEvent*) {
  m_drag.reset();
}

void BenchResults::mouseDoubleClickEvent(QMouseEvent* event) {
  m_drag.reset();
  if (const std::string id = elementAt(event->position()); !id.empty()) emit elementAsked(id);
}

void BenchResults::keyPressEvent(QKeyEvent* event) {
  const int by = event->key() == Qt::Key_Left || event->key() == Qt::Key_Up      ? -1
                 : event->key() == Qt::Key_Right || event->key() == Qt::Key_Down ? 1
                                                                                 : 0;
  if (by == 0) return QWidget::keyPressEvent(event);
  const int to = m_bench.columnAfter(by);
  if ((to > m_bench.column()) == (by > 0)) m_bench.session().setDeliverable(to); // stops at the ends
}

void BenchResults::paintEvent(QPaintEvent*) {
  const Theme& theme = Theme::current();
  QPainter painter(this);
  painter.fillRect(rect(), theme.surround);
  painter.setRenderHint(QPainter::Antialiasing);
  if (m_bench.row() < 0) return;
  const auto rects = layOut();
  const Deliverable& active = m_bench.document().project().deliverables[size_t(m_bench.column())];
  const QRectF large = activeRect(rects);
  const Cell shown = m_bench.cell(m_bench.column());
  paintCanvas(painter, large, shown, m_poster, m_posters.under(shown));
  const Rational& moment = m_bench.session().playhead();
  if (m_elements) m_elements->paint(painter, large, m_bench.column(), moment);
  paintGuides(painter, large, active, {m_safeAreas, m_covered, false});
  paintWords(painter, QRectF(kResultGap, large.bottom() + 2, width() - 2 * kResultGap, fontMetrics().height()), shown,
             amissIn(m_bench.column()),
             QStringLiteral("%1  %2 · ")
                 .arg(QString::fromStdString(active.name), QString::fromStdString(sizeText(active.canvas))));
  if (m_cadence)
    if (const auto cadence = m_bench.document().cadence({m_bench.row(), m_bench.column()})) {
      const QRectF words(kResultGap, large.bottom() + 6 + fontMetrics().height(), width() - 2 * kResultGap,
                         fontMetrics().height());
      painter.setPen(Qt::white);
      painter.drawText(words, Qt::AlignVCenter,
                       fontMetrics().elidedText(said(cadence->words()), Qt::ElideRight, int(words.width())));
      DrawnCadence(*cadence).paint(painter,
                                   QRectF(words.left(), words.bottom() + 2, words.width(), DrawnCadence::kHeight),
                                   DrawnCadence::Ground::Surround);
    }
  const double leastWords = least(double(m_bench.columns().size()));
  for (const int column : m_bench.columns()) {
    const Cell cell = m_bench.cell(column);
    const QRectF& canvas = rects[size_t(column)];
    paintCanvas(painter, canvas, cell, m_poster, m_posters.under(cell));
    if (m_elements) m_elements->paint(painter, canvas, column, moment);
    if (column == m_bench.column()) {
      painter.setBrush(Qt::NoBrush);
      painter.setPen(QPen(theme.accent, 3));
      painter.drawRect(canvas.adjusted(-2, -2, 2, 2));
    }
    paintWords(painter,
               QRectF(canvas.left(), canvas.bottom() + 2, std::max(canvas.width(), leastWords), fontMetrics().height()),
               cell, amissIn(column), {});
  }
  if (hasFocus()) {
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(theme.accent, 2));
    painter.drawRect(QRectF(rect()).adjusted(1, 1, -1, -1));
  }
}

} // namespace tromb
