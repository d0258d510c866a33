// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/sheet/SheetView.h"

#include <QWidget>

class QDoubleSpinBox;
class QLabel;
class QSlider;

namespace tromb {

/// The line below the sheet: what is selected, its framing commands, its place and zoom as numbers, and what comes
/// of it. Shows the current cell; changes all selected ones.
class CellStrip : public QWidget {
  Q_OBJECT

public:
  CellStrip(Session& session, SheetView& sheet, const Actions& actions, QWidget* parent = nullptr);

private:
  void show(const Cell* cell, int count);
  void refresh();
  void typed(const QDoubleSpinBox* field, double value);

  Session& m_session;
  Document& m_document;
  SheetView& m_sheet;
  QLabel* m_what;
  QLabel* m_consequence;
  QDoubleSpinBox* m_x;
  QDoubleSpinBox* m_y;
  QDoubleSpinBox* m_zoom;
  bool m_showing = false;
};

} // namespace tromb
