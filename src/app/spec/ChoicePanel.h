// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/actions/Actions.h"
#include "app/spec/Choices.h"
#include "destination/PresetStore.h"

#include <QScrollArea>
#include <QWidget>

class QFormLayout;
class QToolButton;

namespace tromb {

class PresetBar;

/// One of the short groups of choices: a head, a few fields that are always seen, and the rest folded away behind a
/// line that says what is chosen there.
class ChoiceGroup : public QWidget {
  Q_OBJECT

public:
  /// `part` is a word that its unfolding is remembered by.
  ChoiceGroup(Spec& spec, const QString& head, const QString& part, QWidget* parent);
  /// Shows what the chosen deliverables have; at least one is chosen.
  virtual void refresh();
  void unfold(bool on);

protected:
  [[nodiscard]] Spec& spec() const { return m_spec; }
  [[nodiscard]] QFormLayout& seen() const { return *m_seen; }
  /// The fields that unfold. Asking for them makes the line that unfolds them.
  [[nodiscard]] QFormLayout& folded();
  /// What the line says while they are folded.
  [[nodiscard]] virtual QString foldedWords() const { return {}; }
  /// Adds a row whose label has the width of all others. `label` may have a mnemonic.
  void addRow(QFormLayout& form, const QString& label, QWidget* field);
  /// Adds it and keeps it up to date.
  template <typename Choice> Choice* add(QFormLayout& form, const QString& label, Choice* choice) {
    addRow(form, label, choice);
    return keep(choice);
  }
  template <typename Choice> Choice* keep(Choice* choice) {
    m_refresh.push_back([choice] { choice->refresh(); });
    return choice;
  }

private:
  Spec& m_spec;
  QString m_part;
  QFormLayout* m_seen;
  QWidget* m_hidden = nullptr;
  QFormLayout* m_folded = nullptr;
  QToolButton* m_unfold = nullptr;
  std::vector<std::function<void()>> m_refresh;
};

/// All choices of the chosen deliverables, in five short groups.
class ChoicePanel : public QScrollArea {
  Q_OBJECT

public:
  ChoicePanel(Spec& spec, const PresetStore& presets, const Actions& actions, QWidget* parent = nullptr);
  void refresh();
  void readPresets();
  [[nodiscard]] const std::vector<ChoiceGroup*>& groups() const { return m_groups; }

private:
  Spec& m_spec;
  PresetBar* m_presets;
  std::vector<ChoiceGroup*> m_groups;
};

} // namespace tromb
