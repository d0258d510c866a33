// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QLayout>
#include <QList>

namespace tromb {

/// Lays widgets side by side at their own size, and goes on in a new line where the width ends. A label stays in one
/// line with what it names, its buddy, if that comes next.
class FlowLayout : public QLayout {
  Q_OBJECT

public:
  explicit FlowLayout(QWidget* parent, int gap = 5) : QLayout(parent), m_gap(gap) {}
  ~FlowLayout() override;

  void addItem(QLayoutItem* item) override { m_items << item; }
  [[nodiscard]] int count() const override { return int(m_items.size()); }
  [[nodiscard]] QLayoutItem* itemAt(int index) const override { return m_items.value(index); }
  QLayoutItem* takeAt(int index) override;
  [[nodiscard]] Qt::Orientations expandingDirections() const override { return {}; }
  [[nodiscard]] bool hasHeightForWidth() const override { return true; }
  [[nodiscard]] int heightForWidth(int width) const override { return arrange({0, 0, width, 0}, false); }
  [[nodiscard]] QSize sizeHint() const override;
  [[nodiscard]] QSize minimumSize() const override;
  void setGeometry(const QRect& rect) override;

private:
  [[nodiscard]] qsizetype unitEnd(qsizetype first) const; ///< behind what stays together with an item
  int arrange(const QRect& rect, bool place) const;       ///< the height that it takes
  QList<QLayoutItem*> m_items;
  int m_gap;
};

} // namespace tromb
