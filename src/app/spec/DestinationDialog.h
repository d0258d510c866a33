// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/style/SavedDialog.h"
#include "destination/DestinationStore.h"
#include "model/Spec.h"

namespace tromb {

/// People's own destinations: made from a deliverable, edited, starred, given away and taken in.
class DestinationDialog : public SavedDialog {
  Q_OBJECT

public:
  DestinationDialog(Spec& spec, DestinationStore& store, QWidget* parent = nullptr);

protected:
  [[nodiscard]] std::vector<Entry> entries() const override;
  [[nodiscard]] bool canSave() const override { return m_spec.current() != nullptr; }
  [[nodiscard]] QString suggestedName() const override { return QString::fromStdString(m_spec.current()->name); }
  [[nodiscard]] Status save(const std::string& name, bool overwrite) override {
    return m_store.save(destinationFrom(*m_spec.current(), name), overwrite);
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
  [[nodiscard]] std::shared_ptr<const Destination> ofDeliverable() const;
  void edit();
  void readAgain();

  Spec& m_spec;
  DestinationStore& m_store;
  QPushButton* m_star = nullptr;
  QPushButton* m_like = nullptr;
};

} // namespace tromb
