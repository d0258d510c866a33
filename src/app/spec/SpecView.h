// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/actions/Actions.h"
#include "destination/PresetStore.h"
#include "model/SampleService.h"
#include "model/Spec.h"

#include <QWidget>

namespace tromb {

class ChoicePanel;
class ConsequencePanel;
class DeliverableList;
class PreflightService;

/// Deliverables on the left, the choices of those that are chosen in the middle, and on the right all that follows from
/// them.
class SpecView : public QWidget {
  Q_OBJECT

public:
  SpecView(Session& session, const Actions& actions, const PresetStore& presets, QWidget* parent = nullptr);

  [[nodiscard]] SampleService& samples() { return m_samples; }
  [[nodiscard]] Spec& spec() { return m_spec; }
  [[nodiscard]] DeliverableList& list() { return *m_list; }
  [[nodiscard]] ChoicePanel& choices() { return *m_choices; }
  [[nodiscard]] ConsequencePanel& consequences() { return *m_consequences; }
  /// What preflight finds is counted in the list from now on. It must live as long.
  void setPreflight(const PreflightService& preflight);
  void removeSelected();
  void readAgain(); ///< when settings, presets or destinations may have changed

protected:
  void showEvent(QShowEvent* event) override;

private:
  void refresh();
  void takeSamples(); ///< the sizes that are known by samples have changed

  Spec m_spec;
  SampleService m_samples;
  DeliverableList* m_list;
  ChoicePanel* m_choices;
  ConsequencePanel* m_consequences;
};

} // namespace tromb
