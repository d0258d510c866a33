// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/Bench.h"

#include <QWidget>

class QComboBox;
class QDoubleSpinBox;
class QToolButton;

namespace tromb {

/// How the active cell fills its canvas: its layout, the gap and the shares of several windows, and what lies under
/// them. Shows only what the layout has.
class LayoutPanel : public QWidget {
  Q_OBJECT

public:
  explicit LayoutPanel(Bench& bench, QWidget* parent = nullptr);

private:
  void refresh();
  void chooseLayout(int index);
  void chooseColour();
  void shareTyped(int window);
  void refreshGround(const Framing& framing);
  /// Changes the active framing by `change`, as one step.
  void change(const QString& text, const std::function<void(Framing&)>& change);

  Bench& m_bench;
  QComboBox *m_layout, *m_ground, *m_still;
  QDoubleSpinBox* m_gap;
  QDoubleSpinBox* m_shares[3];
  QToolButton* m_colour;
  QWidget *m_several, *m_under;
  std::vector<std::pair<std::string, std::string>> m_stills; ///< what the list shows: ids and names
  bool m_showing = false;
};

} // namespace tromb
