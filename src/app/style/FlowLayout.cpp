// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/style/FlowLayout.h"

#include <algorithm>

namespace tromb {

FlowLayout::~FlowLayout() {
  qDeleteAll(m_items);
}

QLayoutItem* FlowLayout::takeAt(int index) {
  return index >= 0 && index < m_items.size() ? m_items.takeAt(index) : nullptr;
}

QSize FlowLayout::sizeHint() const {
  const QMargins m = contentsMargins();
  int width = 0;
  int height = 0;
  for (const QLayoutItem* item : m_items)
    if (!item->isEmpty()) {
      width += item->sizeHint().width() + m_gap;
      height = std::max(height, item->sizeHint().height());
    }
  return {width + m.left() + m.right(), height + m.top() + m.bottom()};
}

QSize FlowLayout::minimumSize() const {
  const QMargins m = contentsMargins();
  QSize most;
  for (const QLayoutItem* item : m_items)
    if (!item->isEmpty()) most = most.expandedTo(item->sizeHint());
  return most + QSize(m.left() + m.right(), m.top() + m.bottom());
}

void FlowLayout::setGeometry(const QRect& rect) {
  QLayout::setGeometry(rect);
  arrange(rect, true);
}

int FlowLayout::arrange(const QRect& rect, bool place) const {
  const QRect inside = rect.marginsRemoved(contentsMargins());
  int y = inside.top();
  qsizetype from = 0;
  while (from < m_items.size()) {
    // One line: as many as fit, centred on its height.
    qsizetype to = from;
    int width = 0;
    int height = 0;
    for (; to < m_items.size(); ++to) {
      if (m_items[to]->isEmpty()) continue;
      const QSize size = m_items[to]->sizeHint();
      if (width > 0 && width + size.width() > inside.width()) break;
      width += size.width() + m_gap;
      height = std::max(height, size.height());
    }
    int x = inside.left();
    for (qsizetype i = from; place && i < to; ++i) {
      if (m_items[i]->isEmpty()) continue;
      const QSize size = m_items[i]->sizeHint();
      m_items[i]->setGeometry({QPoint(x, y + (height - size.height()) / 2), size});
      x += size.width() + m_gap;
    }
    if (height > 0) y += height + m_gap;
    from = to;
  }
  return std::max(0, y - m_gap - rect.top()) + contentsMargins().bottom();
}

} // namespace tromb
