// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/SheetModel.h"

#include <QHeaderView>

namespace tromb {

/// The heads of the columns (deliverables) or the left ends of the rows (shots), several lines each.
class SheetHead : public QHeaderView {
  Q_OBJECT

public:
  SheetHead(Qt::Orientation orientation, SheetModel& model, QWidget* parent = nullptr);
  [[nodiscard]] QSize sizeHint() const override;

protected:
  void paintSection(QPainter* painter, const QRect& rect, int logicalIndex) const override;

private:
  void paintShape(QPainter& painter, const QRect& box, Size canvas, bool several) const;
  SheetModel& m_model;
};

} // namespace tromb
