// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/spec/PresetBar.h"

#include "model/Translation.h"

#include <QAction>
#include <QFormLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>

namespace tromb {

PresetBar::PresetBar(Spec& spec, const PresetStore& store, const Actions& actions, QWidget* parent)
    : ChoiceGroup(spec, tr("Preset"), QStringLiteral("preset"), parent), m_store(store), m_changed(new QLabel(this)),
      m_back(new QPushButton(tr("&Back to it"), this)) {
  auto* line = new QWidget(this);
  auto* row = new QHBoxLayout(line);
  row->setContentsMargins(0, 0, 0, 0);
  auto* laid = keep(new ListChoice(
      spec,
      {.name = tr("Preset"),
       .entries =
           [this](const Deliverable& d) {
             ListChoice::Entries entries{{tr("None"), QString()}};
             for (const Preset& each : m_presets)
               if (each.kind != PresetKind::Set && fits(each, d))
                 entries.emplace_back((each.starred ? QStringLiteral("★ ") : QString()) +
                                          QString::fromStdString(each.name),
                                      QString::fromStdString(each.name));
             return entries;
           },
       .value = [](const Deliverable& d) { return QString::fromStdString(d.preset); },
       .choose =
           [this](Deliverable& d, const QVariant& value) {
             if (const Preset* preset = named(value.toString().toStdString()))
               lay(*preset, d);
             else
               d.preset.clear();
           },
       .other = [](const Deliverable& d) { return tr("%1, which is not here").arg(QString::fromStdString(d.preset)); }},
      line));
  row->addWidget(laid, 1);
  row->addWidget(m_back);
  QAction* action = actions.at("presets");
  auto* open = new QPushButton(Actions::plainText(action), line);
  open->setAutoDefault(true);
  connect(open, &QPushButton::clicked, action, &QAction::trigger);
  row->addWidget(open);
  line->setFocusProxy(laid);
  addRow(seen(), tr("Laid"), line);
  m_changed->setProperty("rank", "faint");
  m_changed->setWordWrap(true);
  seen().addRow(QString(), m_changed);
  m_back->setAccessibleName(tr("Back to the preset as it is saved"));
  connect(m_back, &QPushButton::clicked, this, [this] {
    this->spec().change(tr("Back to the preset"), [this](Deliverable& d) {
      if (const Preset* preset = named(d.preset)) lay(*preset, d);
    });
  });
}

void PresetBar::readAgain() {
  m_presets = m_store.all();
  std::stable_sort(m_presets.begin(), m_presets.end(),
                   [](const Preset& a, const Preset& b) { return a.starred > b.starred; });
}

const Preset* PresetBar::named(const std::string& name) const {
  for (const Preset& each : m_presets)
    if (each.name == name) return &each;
  return nullptr;
}

void PresetBar::refresh() {
  ChoiceGroup::refresh();
  std::vector<Message> changed;
  bool there = false;
  for (const int column : spec().columns()) {
    const Deliverable& d = spec().document().project().deliverables[size_t(column)];
    const Preset* preset = named(d.preset);
    if (!preset) continue;
    there = true;
    for (Message& each : changedSince(*preset, d))
      if (std::find(changed.begin(), changed.end(), each) == changed.end()) changed.push_back(std::move(each));
  }
  m_back->setVisible(there);
  m_back->setEnabled(!changed.empty());
  seen().setRowVisible(m_changed, !changed.empty());
  m_changed->setText(tr("Changed since: %1").arg(said(joined(changed, ", "))));
}

} // namespace tromb
