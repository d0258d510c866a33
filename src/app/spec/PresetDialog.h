// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/style/SavedDialog.h"
#include "destination/PresetStore.h"
#include "model/Spec.h"

class QCheckBox;
class QComboBox;
class QLineEdit;

namespace tromb {

/// The presets that were saved: of encodings, of deliverables and of sets of them; laid, saved anew, given away, and
/// chosen as what new projects start from.
class PresetDialog : public SavedDialog {
  Q_OBJECT

public:
  PresetDialog(Spec& spec, PresetStore& store, QWidget* parent = nullptr);

protected:
  [[nodiscard]] std::vector<Entry> entries() const override;
  [[nodiscard]] bool canSave() const override { return m_spec.current() != nullptr; }
  [[nodiscard]] QString suggestedName() const override;
  [[nodiscard]] Status save(const std::string& name, bool overwrite) override;
  [[nodiscard]] Status renameTo(const std::string& from, const std::string& to) override {
    return m_store.rename(from, to);
  }
  [[nodiscard]] bool mayRemove() override { return true; } // it can be brought back
  [[nodiscard]] Status removeNamed(const std::string& name) override;
  [[nodiscard]] Result<std::string> importFrom(const std::string& path) override { return m_store.importFile(path); }
  [[nodiscard]] Status exportTo(const std::string& name, const std::string& path) override {
    return m_store.exportFile(name, path);
  }
  void chosenChanged() override;

private:
  [[nodiscard]] bool startsWith(const std::string& name) const;
  void layChosen();
  void saveWords();

  Spec& m_spec;
  PresetStore& m_store;
  QComboBox* m_kind;
  QLineEdit* m_filter;
  QCheckBox* m_fits;
  QCheckBox* m_starred;
  QLineEdit* m_comment;
  QLineEdit* m_tags;
  QPushButton* m_lay = nullptr;
  QPushButton* m_star = nullptr;
  QPushButton* m_default = nullptr;
  QPushButton* m_back = nullptr;
  std::optional<Preset> m_removed; ///< the last one
  bool m_removedStarts = false;    ///< new ones began with it
};

} // namespace tromb
