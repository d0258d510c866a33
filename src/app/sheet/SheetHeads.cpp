// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/sheet/SheetHeads.h"

#include "app/style/Theme.h"
#include "project/Sharing.h"

#include <QPainter>

namespace tromb {
namespace {

constexpr int kHeadPad = 7;
constexpr int kHeadLeading = 3; ///< between lines
constexpr int kGlyph = 22;      ///< room for the drawn shape beside a deliverable's name

QFont boldOf(const QFont& font) {
  QFont bold(font);
  bold.setWeight(QFont::DemiBold);
  return bold;
}

} // namespace

SheetHead::SheetHead(Qt::Orientation orientation, SheetModel& model, QWidget* parent)
    : QHeaderView(orientation, parent), m_model(model) {
  setSectionsClickable(true);
  setHighlightSections(true);
  setSectionResizeMode(QHeaderView::Fixed);
  setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
  setMinimumSectionSize(40);
}

QSize SheetHead::sizeHint() const {
  const int line = fontMetrics().height();
  if (orientation() == Qt::Horizontal) return {100, 4 * (line + kHeadLeading) + 2 * kHeadPad + 2};
  return {qMax(168, fontMetrics().averageCharWidth() * 25), 60};
}

void SheetHead::paintShape(QPainter& painter, const QRect& box, Size canvas, bool several) const {
  const double scale = double(box.width()) / std::max(canvas.width, canvas.height);
  const QSizeF size(std::max(3.0, canvas.width * scale), std::max(3.0, canvas.height * scale));
  painter.setRenderHint(QPainter::Antialiasing);
  painter.setPen(QPen(Theme::current().ink, 1.3));
  painter.setBrush(Qt::NoBrush);
  const QRectF shape(QRectF(box).center() - QPointF(size.width() / 2, size.height() / 2), size);
  if (several) { // versions lie one behind the other
    painter.drawRoundedRect(shape.translated(3, -3), 1.5, 1.5);
    painter.setBrush(Theme::current().raised);
  }
  painter.drawRoundedRect(shape, 1.5, 1.5);
}

void SheetHead::paintSection(QPainter* painter, const QRect& rect, int section) const {
  const Theme& theme = Theme::current();
  const bool columns = orientation() == Qt::Horizontal;
  painter->save();
  painter->setClipRect(rect);
  painter->fillRect(rect, theme.raised);
  const auto* view = qobject_cast<const QAbstractItemView*>(parent());
  const bool marked = view && view->selectionModel() &&
                      (columns ? view->selectionModel()->columnIntersectsSelection(section)
                               : view->selectionModel()->rowIntersectsSelection(section));
  if (marked) {
    const QRect edge = columns ? QRect(rect.left(), rect.bottom() - 2, rect.width(), 3)
                               : QRect(rect.right() - 2, rect.top(), 3, rect.height());
    painter->fillRect(edge, theme.accent);
  }
  painter->setPen(theme.line);
  if (columns) painter->drawLine(rect.topRight(), rect.bottomRight());
  painter->drawLine(rect.bottomLeft(), rect.bottomRight());

  const auto& all = m_model.document().project().deliverables;
  const QStringList lines = columns ? m_model.deliverableLines(section) : m_model.shotLines(section);
  const int height = fontMetrics().height();
  int y = rect.top() + kHeadPad;
  for (int i = 0; i < lines.size(); ++i) {
    QRect line(rect.left() + kHeadPad, y, rect.width() - 2 * kHeadPad, height + kHeadLeading);
    y += line.height();
    const QFont lineFont = i == 0 ? boldOf(font()) : font();
    QColor colour = i == 0 ? theme.ink : theme.faint;
    if (columns && i == 0) {
      paintShape(*painter, QRect(line.left(), line.top() + (line.height() - 15) / 2, 15, 15),
                 all[size_t(section)].shownSize(), sharersOf(all, all[size_t(section)]).size() > 1);
      line.adjust(kGlyph, 0, 0, 0);
    }
    if (columns && i == 3) {
      const Cell::State worst = m_model.worstInColumn(section);
      const double box = fontMetrics().ascent() * 0.72;
      drawStatusShape(*painter, {double(line.left()) + 1, line.center().y() - box / 2 + 1, box, box}, worst);
      line.adjust(int(box) + 6, 0, 0, 0);
      colour = statusColour(worst);
    }
    if (const double guess = columns ? 0 : m_model.suggestion(section); i == 3 && guess > 0 && guess < kSureEnough)
      colour = statusColour(Cell::State::Soft);
    painter->setFont(lineFont);
    painter->setPen(colour);
    painter->drawText(line, Qt::AlignLeft | Qt::AlignVCenter,
                      QFontMetrics(lineFont).elidedText(lines[i], Qt::ElideRight, line.width()));
  }
  painter->restore();
}

} // namespace tromb
