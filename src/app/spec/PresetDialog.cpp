// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/spec/PresetDialog.h"

#include "model/Translation.h"
#include "preflight/Preflight.h"
#include "project/Sharing.h"

#include <QCheckBox>
#include <QComboBox>
#include <QFormLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>

namespace tromb {
namespace {

QString kindWords(PresetKind kind) {
  const QString all[] = {PresetDialog::tr("encoding"), PresetDialog::tr("deliverable"), PresetDialog::tr("set")};
  return all[size_t(kind)];
}

} // namespace

PresetDialog::PresetDialog(Spec& spec, PresetStore& store, QWidget* parent)
    : SavedDialog({tr("Presets"),
                   tr("A preset keeps an encoding, a whole deliverable, or all deliverables of a project, and none of "
                      "its footage."),
                   tr("&Save as a preset …"), tr("Save &changes into it"), tr("Bring in a preset"),
                   tr("No preset was saved yet."), tr("Presets (*.tromb-preset)"),
                   tr("Presets and projects (*.tromb-preset *.tromb-template *.tromb)"),
                   QStringLiteral(".tromb-preset")},
                  parent),
      m_spec(spec), m_store(store), m_kind(new QComboBox(this)), m_filter(new QLineEdit(this)),
      m_fits(new QCheckBox(tr("&fits the canvas"), this)), m_starred(new QCheckBox(tr("starre&d"), this)),
      m_comment(new QLineEdit(this)), m_tags(new QLineEdit(this)) {
  setObjectName(QStringLiteral("presetDialog"));
  auto* line = new QWidget(this);
  auto* row = new QHBoxLayout(line);
  row->setContentsMargins(0, 0, 0, 0);
  m_filter->setPlaceholderText(tr("Find"));
  m_filter->setAccessibleName(tr("Find presets by name, tag or comment"));
  m_filter->setClearButtonEnabled(true);
  row->addWidget(m_filter, 1);
  row->addWidget(m_fits);
  row->addWidget(m_starred);
  auto* label = new QLabel(tr("&To save:"), line);
  label->setBuddy(m_kind);
  m_kind->setAccessibleName(tr("What is saved"));
  m_kind->addItem(tr("the encoding of the chosen deliverable"), int(PresetKind::Encoding));
  m_kind->addItem(tr("the chosen deliverable"), int(PresetKind::Deliverable));
  m_kind->addItem(tr("all deliverables"), int(PresetKind::Set));
  m_kind->setCurrentIndex(int(PresetKind::Deliverable));
  row->addWidget(label);
  row->addWidget(m_kind);
  addTop(line);
  auto* words = new QWidget(this);
  auto* form = new QFormLayout(words);
  m_comment->setAccessibleName(tr("Comment on the preset"));
  m_tags->setPlaceholderText(tr("words, with commas between"));
  m_tags->setAccessibleName(tr("Tags of the preset"));
  form->addRow(tr("C&omment"), m_comment);
  form->addRow(tr("Ta&gs"), m_tags);
  addBelow(words);
  for (QLineEdit* each : {m_comment, m_tags})
    connect(each, &QLineEdit::editingFinished, this, &PresetDialog::saveWords);
  connect(m_filter, &QLineEdit::textChanged, this, [this] { refresh(chosen()); });
  for (QCheckBox* box : {m_fits, m_starred}) connect(box, &QCheckBox::toggled, this, [this] { refresh(chosen()); });
  m_lay = addButton(tr("&Lay it on what is chosen"), [this] { layChosen(); });
  m_star = addButton(tr("St&ar"), [this] {
    auto preset = m_store.read(chosen().toStdString());
    if (preset) preset->starred = !preset->starred;
    if (say(preset ? m_store.save(*preset, true) : Status(tl::unexpected(preset.error())))) refresh(chosen());
  });
  m_star->setCheckable(true);
  m_default = addButton(tr("Start &new projects like this"), [this] {
    const std::string name = chosen().toStdString();
    if (say(m_store.setDefault(name, !startsWith(name)))) refresh(chosen());
  });
  m_default->setCheckable(true);
  m_back = addButton(tr("Bring bac&k"), [this] {
    const QString name = QString::fromStdString(m_removed->name);
    if (!say(m_store.save(*m_removed, false))) return;
    if (m_removedStarts && !say(m_store.setDefault(m_removed->name))) return;
    m_removed.reset();
    refresh(name);
  });
  refresh();
  for (const Error& fault : m_store.faults()) (void)this->say(Status(tl::unexpected(fault)));
}

/// Whether new projects, or new deliverables, start with a preset.
bool PresetDialog::startsWith(const std::string& name) const {
  return !name.empty() && (m_store.defaultName() == name || m_store.defaultEncoding() == name);
}

std::vector<SavedDialog::Entry> PresetDialog::entries() const {
  std::vector<Entry> entries;
  const QString wanted = m_filter->text().trimmed();
  for (const Preset& each : m_store.all()) {
    const QString name = QString::fromStdString(each.name);
    QStringList words{name, QString::fromStdString(each.comment), kindWords(each.kind)};
    for (const std::string& tag : each.tags) words << QString::fromStdString(tag);
    if (!wanted.isEmpty() && !words.join(QLatin1Char('\n')).contains(wanted, Qt::CaseInsensitive)) continue;
    if (m_starred->isChecked() && !each.starred) continue;
    if (m_fits->isChecked() && (!m_spec.current() || !fits(each, *m_spec.current()))) continue;
    QStringList lines;
    for (const Deliverable& d : each.project.deliverables)
      lines << (each.kind == PresetKind::Encoding
                    ? said(codecText(resolvedEncoding(d)))
                    : QString::fromStdString(d.name + "  " + sizeText(d.canvas) + " · " + d.rate.name()));
    QStringList users;
    for (const Deliverable& d : m_spec.document().project().deliverables)
      if (d.preset == each.name) users << QString::fromStdString(d.name);
    if (!users.isEmpty()) lines << QString() << tr("Laid on %1").arg(users.join(QStringLiteral(", ")));
    QString label = each.kind == PresetKind::Set
                        ? tr("%1: set of %n", nullptr, int(each.project.deliverables.size())).arg(name)
                        : tr("%1: %2").arg(name, kindWords(each.kind));
    if (each.starred) label = QStringLiteral("★ ") + label;
    if (startsWith(each.name))
      label = (each.kind == PresetKind::Encoding ? tr("%1 (new deliverables)") : tr("%1 (new projects)")).arg(label);
    entries.push_back({name, lines.join(QLatin1Char('\n')), label});
  }
  std::stable_sort(entries.begin(), entries.end(), [](const Entry& a, const Entry& b) {
    return a.label.startsWith(QStringLiteral("★")) > b.label.startsWith(QStringLiteral("★"));
  });
  return entries;
}

QString PresetDialog::suggestedName() const {
  return PresetKind(m_kind->currentData().toInt()) == PresetKind::Set ? m_spec.document().title()
                                                                      : QString::fromStdString(m_spec.current()->name);
}

Status PresetDialog::save(const std::string& name, bool overwrite) {
  const auto before = m_store.read(name);
  // What is there keeps its kind, its star and its words.
  const PresetKind kind = overwrite && before ? before->kind : PresetKind(m_kind->currentData().toInt());
  Preset preset =
      kind == PresetKind::Set ? presetOf(m_spec.document().project(), name) : presetOf(*m_spec.current(), kind, name);
  if (overwrite && before) {
    preset.comment = before->comment;
    preset.starred = before->starred;
    preset.tags = before->tags;
  }
  return m_store.save(preset, overwrite);
}

Status PresetDialog::removeNamed(const std::string& name) {
  auto preset = m_store.read(name);
  const bool starts = startsWith(name);
  Status done = m_store.remove(name);
  if (done && preset) {
    m_removed = std::move(*preset);
    m_removedStarts = starts;
  }
  return done;
}

/// Keeps the comment and the tags of the chosen preset as they were typed.
void PresetDialog::saveWords() {
  auto preset = m_store.read(chosen().toStdString());
  if (!preset) return;
  const Preset before = *preset;
  // What nobody typed stays, also where a field of one line cannot show it as it is.
  if (m_comment->isModified()) preset->comment = m_comment->text().trimmed().toStdString();
  if (m_tags->isModified()) preset->tags.clear();
  for (const QString& each : m_tags->isModified() ? m_tags->text().split(QLatin1Char(',')) : QStringList()) {
    std::string tag = each.trimmed().toStdString();
    if (!tag.empty() && std::find(preset->tags.begin(), preset->tags.end(), tag) == preset->tags.end())
      preset->tags.push_back(std::move(tag));
  }
  if (*preset != before && say(m_store.save(*preset, true))) refresh(chosen());
}

void PresetDialog::layChosen() {
  const auto preset = m_store.read(chosen().toStdString());
  if (!say(preset ? Status() : Status(tl::unexpected(preset.error())))) return;
  if (preset->kind == PresetKind::Set) {
    m_spec.document().addDeliverables(asNewIn(m_spec.document().project(), preset->project.deliverables),
                                      tr("Add the preset '%1'").arg(chosen()));
  } else {
    m_spec.change(tr("Lay the preset '%1'").arg(chosen()), [&](Deliverable& d) { lay(*preset, d); });
  }
  refresh(chosen());
}

void PresetDialog::chosenChanged() {
  if (!m_back) return; // still being built
  const auto preset = m_store.read(chosen().toStdString());
  const bool set = preset && preset->kind == PresetKind::Set;
  m_lay->setText(set ? tr("&Add its deliverables") : tr("&Lay it on what is chosen"));
  m_lay->setEnabled(preset && (set || m_spec.current()));
  m_star->setChecked(preset && preset->starred);
  QStringList tags;
  if (preset)
    for (const std::string& tag : preset->tags) tags << QString::fromStdString(tag);
  m_comment->setText(preset ? QString::fromStdString(preset->comment) : QString());
  m_tags->setText(tags.join(QStringLiteral(", ")));
  m_default->setText(preset && preset->kind == PresetKind::Encoding ? tr("Start &new deliverables with this")
                                                                    : tr("Start &new projects like this"));
  m_default->setEnabled(preset.has_value());
  m_default->setChecked(preset && startsWith(preset->name));
  m_back->setEnabled(m_removed.has_value());
  m_back->setText(m_removed ? tr("Bring '%1' bac&k").arg(QString::fromStdString(m_removed->name)) : tr("Bring bac&k"));
}

} // namespace tromb
