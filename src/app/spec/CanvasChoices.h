// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/spec/ChoicePanel.h"

class QButtonGroup;
class QLabel;
class QPushButton;

namespace tromb {

/// Shape and size of the canvas, its pixels, and whether pictures may be enlarged on it.
class CanvasChoices : public ChoiceGroup {
  Q_OBJECT

public:
  CanvasChoices(Spec& spec, QWidget* parent);
  void refresh() override;

protected:
  [[nodiscard]] QString foldedWords() const override;

private:
  QWidget* buildShapes();
  QWidget* buildSides();
  [[nodiscard]] ListChoice::Entries sizes(const Deliverable& d) const;
  void chooseSide(Deliverable& d, bool width, int pixels) const;

  QWidget* buildSharing();

  QButtonGroup* m_shapes;
  QLabel* m_shared; ///< what a normal and a high version have in common
  QPushButton* m_own;
  QToolButton* m_keep = nullptr; ///< when one side is typed, the other follows
  double m_ratio = 1;            ///< that is kept
};

} // namespace tromb
