// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/spec/DeliverableList.h"

#include "app/style/Theme.h"
#include "project/Sharing.h"

#include <QPainter>
#include <QStyledItemDelegate>
#include <cmath>

namespace tromb {
namespace {

enum Role { CanvasRole = Qt::UserRole + 1, FactsRole, StateRole, StandsRole };
constexpr int kShapeRoom = 58; ///< pixels that a shape is drawn in

/// A shape with the name, size and rate of its deliverable, and what does not hold.
class ShapeDelegate : public QStyledItemDelegate {
public:
  using QStyledItemDelegate::QStyledItemDelegate;

  [[nodiscard]] QSize sizeHint(const QStyleOptionViewItem& option, const QModelIndex&) const override {
    return {160, std::max(kShapeRoom + 8, 3 * option.fontMetrics.height() + 14)};
  }

  void paint(QPainter* painter, const QStyleOptionViewItem& option, const QModelIndex& index) const override {
    const Theme& theme = Theme::current();
    painter->save();
    painter->setRenderHint(QPainter::Antialiasing);
    const QRectF all = QRectF(option.rect).adjusted(4, 2, -4, -2);
    const bool chosen = option.state & QStyle::State_Selected;
    if (chosen) {
      QColor fill = theme.accent;
      fill.setAlphaF(0.16F);
      painter->setPen(QPen(theme.accent, option.state & QStyle::State_HasFocus ? 2 : 1));
      painter->setBrush(fill);
      painter->drawRoundedRect(all, 5, 5);
    }
    const QSizeF canvas = index.data(CanvasRole).toSizeF();
    // All with the same area, so that none looks more important.
    constexpr double kSide = 38;
    const double scale = kSide / std::sqrt(canvas.width() * canvas.height());
    QSizeF shape = canvas * scale;
    shape *= std::min({1.0, (kShapeRoom - 4.0) / shape.width(), (kShapeRoom - 4.0) / shape.height()});
    const QPointF middle(all.left() + 6 + kShapeRoom / 2.0, all.center().y());
    painter->setPen(QPen(theme.ink, 1.5));
    painter->setBrush(theme.surround);
    painter->drawRect(QRectF(middle - QPointF(shape.width() / 2, shape.height() / 2), shape));
    const int line = option.fontMetrics.height();
    const double left = all.left() + kShapeRoom + 14;
    const double width = all.right() - left - 6;
    double top = all.center().y() - 1.5 * line - 2;
    const auto say = [&](const QString& text, const QColor& colour, const QFont& font, double indent = 0) {
      painter->setFont(font);
      painter->setPen(colour);
      painter->drawText(QRectF(left + indent, top, width - indent, line), Qt::AlignVCenter,
                        QFontMetrics(font).elidedText(text, Qt::ElideRight, int(width - indent)));
      top += line + 2;
    };
    QFont bold = option.font;
    bold.setWeight(QFont::DemiBold);
    say(index.data(Qt::DisplayRole).toString(), theme.ink, bold);
    say(index.data(FactsRole).toString(), theme.faint, option.font);
    const auto state = Cell::State(index.data(StateRole).toInt());
    drawStatusShape(*painter, {left, top + (line - 9) / 2.0, 9, 9}, state);
    say(index.data(StandsRole).toString(), statusColour(state), option.font, 15);
    painter->restore();
  }
};

} // namespace

DeliverableList::DeliverableList(Spec& spec, QWidget* parent) : QListWidget(parent), m_spec(spec) {
  setObjectName(QStringLiteral("deliverables"));
  setAccessibleName(tr("Deliverables"));
  setSelectionMode(QAbstractItemView::ExtendedSelection);
  setItemDelegate(new ShapeDelegate(this));
  setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  setVerticalScrollMode(QAbstractItemView::ScrollPerPixel);
  connect(this, &QListWidget::itemSelectionChanged, this, [this] {
    if (m_showing) return;
    std::vector<int> columns;
    // The one with the keyboard comes first: what is offered goes by it.
    if (currentItem() && currentItem()->isSelected()) columns.push_back(currentRow());
    for (const QListWidgetItem* item : selectedItems())
      if (row(item) != (columns.empty() ? -1 : columns.front())) columns.push_back(row(item));
    m_spec.session().selectDeliverables(columns);
  });
}

void DeliverableList::setPreflight(const PreflightService& preflight) {
  m_preflight = &preflight;
  connect(&preflight, &PreflightService::changed, this, [this] {
    if (isVisible()) refresh();
  });
}

void DeliverableList::refresh() {
  m_showing = true;
  const auto& all = m_spec.document().project().deliverables;
  while (count() > int(all.size())) delete takeItem(count() - 1);
  while (count() < int(all.size())) addItem(QString());
  for (int i = 0; i < count(); ++i) {
    const Deliverable& d = all[size_t(i)];
    const Size shown = d.shownSize();
    const auto [broken, near, notes] = m_preflight ? m_preflight->countsIn(d.id) : PreflightService::Counts();
    const QString stands = broken > 0 ? tr("%n to mend", nullptr, broken)
                           : near > 0 ? tr("%n to look at", nullptr, near)
                                      : tr("all holds");
    const Deliverable* normal = framesItself(d) ? nullptr : m_spec.document().project().deliverable(d.sharesWith);
    const QString facts =
        normal ? tr("framed as %1").arg(QString::fromStdString(normal->name))
               : tr("%1 · %2").arg(QString::fromStdString(sizeText(d.canvas)), QString::fromStdString(d.rate.name()));
    item(i)->setText(QString::fromStdString(d.name));
    item(i)->setData(CanvasRole, QSizeF(shown.width, shown.height));
    item(i)->setData(FactsRole, facts);
    item(i)->setData(StateRole, int(broken > 0 ? Cell::State::Bars : near > 0 ? Cell::State::Soft : Cell::State::Good));
    item(i)->setData(StandsRole, stands);
    item(i)->setData(Qt::AccessibleTextRole, tr("%1, %2, %3").arg(item(i)->text(), facts, stands));
    item(i)->setToolTip(item(i)->text());
  }
  const std::vector<int> chosen = m_spec.columns();
  if (!chosen.empty()) setCurrentRow(m_spec.session().current().deliverable, QItemSelectionModel::NoUpdate);
  for (int i = 0; i < count(); ++i) item(i)->setSelected(std::find(chosen.begin(), chosen.end(), i) != chosen.end());
  m_showing = false;
}

} // namespace tromb
