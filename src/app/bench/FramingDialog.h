// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/style/SavedDialog.h"
#include "project/FramingStore.h"

#include <functional>
#include <optional>

namespace tromb {

/// The framings that were saved: the current cell's can be, and any of them laid on the selected cells.
class FramingDialog : public SavedDialog {
  Q_OBJECT

public:
  /// `current` is the framing that can be saved, if there is one; `apply` is given the chosen one.
  FramingDialog(std::optional<Framing> current, FramingStore& store, std::function<void(const Framing&)> apply,
                QWidget* parent = nullptr);
  void forOneCell(); ///< what is applied goes to the bench's cell alone, and says so

protected:
  [[nodiscard]] std::vector<Entry> entries() const override;
  [[nodiscard]] bool canSave() const override { return m_current.has_value(); }
  [[nodiscard]] QString suggestedName() const override;
  [[nodiscard]] Status save(const std::string& name, bool overwrite) override {
    return m_store.save(name, *m_current, overwrite);
  }
  [[nodiscard]] Status renameTo(const std::string& from, const std::string& to) override {
    return m_store.rename(from, to);
  }
  [[nodiscard]] Status removeNamed(const std::string& name) override { return m_store.remove(name); }
  [[nodiscard]] Result<std::string> importFrom(const std::string& path) override { return m_store.importFile(path); }
  [[nodiscard]] Status exportTo(const std::string& name, const std::string& path) override {
    return m_store.exportFile(name, path);
  }

private:
  std::optional<Framing> m_current;
  FramingStore& m_store;
  QPushButton* m_applyButton = nullptr;
  std::function<void(const Framing&)> m_apply;
};

} // namespace tromb
