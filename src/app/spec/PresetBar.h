// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/spec/ChoicePanel.h"
#include "destination/PresetStore.h"

class QLabel;
class QPushButton;

namespace tromb {

/// The preset that was laid on the chosen deliverables, what was changed since, and the way back to it.
class PresetBar : public ChoiceGroup {
  Q_OBJECT

public:
  PresetBar(Spec& spec, const PresetStore& store, const Actions& actions, QWidget* parent);
  void refresh() override;

private:
  const PresetStore& m_store;
  QLabel* m_changed;
  QPushButton* m_back;
};

} // namespace tromb
