// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "geometry/Rect.h"

#include <QAbstractButton>

namespace tromb {

/// A choice of canvas, drawn in its true shape with its name and size below.
class ShapeButton : public QAbstractButton {
  Q_OBJECT

public:
  ShapeButton(const QString& name, Size canvas, QWidget* parent = nullptr);
  [[nodiscard]] QSize sizeHint() const override;

protected:
  void paintEvent(QPaintEvent* event) override;

private:
  Size m_canvas;
};

} // namespace tromb
