// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/shell/TemplateDialog.h"

#include <QPushButton>

namespace tromb {

TemplateDialog::TemplateDialog(const Document& document, TemplateStore& store, QWidget* parent)
    : SavedDialog({tr("Project templates"),
                   tr("A template keeps a project's deliverables with their canvases, rates, destinations and "
                      "encodings, and none of its footage."),
                   tr("&Save this project as a template …"), tr("&Update it from this project"),
                   tr("Bring in a template"), tr("No template was saved yet."), tr("Templates (*.tromb-template)"),
                   tr("Templates and projects (*.tromb-template *.tromb)"), QStringLiteral(".tromb-template")},
                  parent),
      m_document(document), m_store(store) {
  setObjectName(QStringLiteral("templateDialog"));
  m_default = addButton(tr("Start &new projects like this"), [this] {
    const bool was = m_store.defaultName() == chosen().toStdString();
    if (say(m_store.setDefault(was ? std::string() : chosen().toStdString()))) refresh(chosen());
  });
  m_default->setCheckable(true);
  refresh();
}

std::vector<SavedDialog::Entry> TemplateDialog::entries() const {
  std::vector<Entry> entries;
  const std::string standard = m_store.defaultName();
  for (const SavedTemplate& each : m_store.all()) {
    const QString name = QString::fromStdString(each.name);
    QStringList lines;
    for (const Deliverable& d : each.project.deliverables)
      lines << QString::fromStdString(d.name + "  " + sizeText(d.canvas) + " · " + d.rate.name());
    entries.push_back(
        {name, lines.join(QLatin1Char('\n')), each.name == standard ? tr("%1  (new projects)").arg(name) : QString()});
  }
  return entries;
}

void TemplateDialog::chosenChanged() {
  m_default->setChecked(!chosen().isEmpty() && m_store.defaultName() == chosen().toStdString());
}

} // namespace tromb
