// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/style/SavedDialog.h"
#include "destination/TemplateStore.h"
#include "model/Document.h"

namespace tromb {

/// The templates that were saved, of the open project among others, and which of them new projects start from.
class TemplateDialog : public SavedDialog {
  Q_OBJECT

public:
  TemplateDialog(const Document& document, TemplateStore& store, QWidget* parent = nullptr);

protected:
  [[nodiscard]] std::vector<Entry> entries() const override;
  [[nodiscard]] bool canSave() const override { return !m_document.project().deliverables.empty(); }
  [[nodiscard]] QString suggestedName() const override { return m_document.title(); }
  [[nodiscard]] Status save(const std::string& name, bool overwrite) override {
    return m_store.save(name, m_document.project(), overwrite);
  }
  [[nodiscard]] Status renameTo(const std::string& from, const std::string& to) override {
    return m_store.rename(from, to);
  }
  [[nodiscard]] Status removeNamed(const std::string& name) override { return m_store.remove(name); }
  [[nodiscard]] Result<std::string> importFrom(const std::string& path) override { return m_store.importFile(path); }
  [[nodiscard]] Status exportTo(const std::string& name, const std::string& path) override {
    return m_store.exportFile(name, path);
  }
  void chosenChanged() override;

private:
  const Document& m_document;
  TemplateStore& m_store;
  QPushButton* m_default = nullptr;
};

} // namespace tromb
