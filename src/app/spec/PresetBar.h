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
  void readAgain(); ///< when presets may have changed

private:
  [[nodiscard]] const Preset* named(const std::string& name) const; ///< null when there is none

  const PresetStore& m_store;
  std::vector<Preset> m_presets; ///< read once, since a refresh follows every edit; starred ones first
  QLabel* m_changed;
  QPushButton* m_back;
};

} // namespace tromb
