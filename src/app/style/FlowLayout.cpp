// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/style/FlowLayout.h"

#include <QLabel>
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

qsizetype FlowLayout::unitEnd(qsizetype first) const {
  qsizetype end = first + 1;
  while (end < m_items.size() && m_items[end]->isEmpty()) ++end;
  const auto* label = qobject_cast<QLabel*>(m_items[first]->widget());
  return label && label->buddy() && end < m_items.size() && m_items[end]->widget() == label->buddy() ? end + 1
                                                                                                     : first + 1;
}

int FlowLayout::arrange(const QRect& rect, bool place) const {
  const QRect inside = rect.marginsRemoved(contentsMargins());
  int y = inside.top();
  qsizetype from = 0;
  while (from < m_items.size()) {
    // Takes as many items as fit into one line and centres them on its height.
    qsizetype to = from;
    int width = 0;
    int height = 0;
    while (to < m_items.size()) {
      if (m_items[to]->isEmpty()) {
        ++to;
        continue;
      }
      const qsizetype end = unitEnd(to);
      int across = 0;
      int high = 0;
      for (qsizetype i = to; i < end; ++i)
        if (!m_items[i]->isEmpty()) {
          across += m_items[i]->sizeHint().width() + (i > to ? m_gap : 0);
          high = std::max(high, m_items[i]->sizeHint().height());
        }
      if (width > 0 && width + across > inside.width()) break;
      width += across + m_gap;
      height = std::max(height, high);
      to = end;
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
