// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/shell/RulesDialog.h"

#include "app/style/Settings.h"

#include <QCheckBox>
#include <QDialogButtonBox>
#include <QDoubleSpinBox>
#include <QFormLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QVBoxLayout>

namespace tromb {

RulesDialog::RulesDialog(QWidget* parent) : QDialog(parent) {
  setWindowTitle(tr("How new shots are framed"));
  auto* rows = new QVBoxLayout(this);
  auto* form = new QFormLayout;
  form->setHorizontalSpacing(16);
  form->setVerticalSpacing(9);
  rows->addLayout(form);
  const FramingRules now = Settings::framingRules();
  const auto number = [&](const QString& label, const QString& name, const QString& words, double least, double most,
                          const QString& unit, double FramingRules::*rule, double times) {
    auto* field = new QDoubleSpinBox(this);
    field->setRange(least, most);
    field->setDecimals(times > 1 ? 0 : 1);
    field->setButtonSymbols(QAbstractSpinBox::NoButtons);
    field->setSuffix(unit);
    field->setValue(now.*rule * times);
    field->setAccessibleName(name);
    connect(field, &QDoubleSpinBox::valueChanged, this,
            [this, rule, times](double value) { set([&](FramingRules& rules) { rules.*rule = value / times; }); });
    add(*form, label, field, words);
  };
  number(tr("&Eyes are at"), tr("Where eyes are wanted"), tr("of the height from the top; the upper third is 33 %"), 10,
         60, tr(" %"), &FramingRules::eyesAt, 100);
  number(tr("Above a &head"), tr("Room above a head"), tr("of the height, at least; 5 to 10 % are usual"), 0, 25,
         tr(" %"), &FramingRules::headroom, 100);
  number(tr("&Room ahead"), tr("Room in the direction of looking or moving"),
         tr("of the width, by which somebody stands aside"), 0, 25, tr(" %"), &FramingRules::room, 100);
  number(tr("A &move takes"), tr("Shortest move"), tr("at least; what moves for less is shown at rest"), 0.5, 20,
         tr(" s"), &FramingRules::leastMove, 1);
  number(tr("To go its own &width takes"), tr("Shortest time for a window to go its own width"),
         tr("unless what matters would be lost; 7 s is usual"), 1, 30, tr(" s"), &FramingRules::crossing, 1);
  auto* stacks = new QCheckBox(tr("&One above the other"), this);
  stacks->setChecked(now.stacks);
  connect(stacks, &QCheckBox::toggled, this,
          [this](bool on) { set([on](FramingRules& rules) { rules.stacks = on; }); });
  add(*form, tr("Two people"), stacks, tr("where no window holds both"));
  auto* buttons = new QDialogButtonBox(QDialogButtonBox::Close, this);
  connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
  rows->addSpacing(8);
  rows->addWidget(buttons);
}

void RulesDialog::add(QFormLayout& form, const QString& label, QWidget* field, const QString& words) {
  auto* line = new QHBoxLayout;
  line->setSpacing(12);
  line->addWidget(field);
  auto* about = new QLabel(words, this);
  about->setProperty("rank", "faint");
  line->addWidget(about, 1);
  field->setAccessibleDescription(words);
  form.addRow(label, line);
  if (auto* name = qobject_cast<QLabel*>(form.labelForField(line))) name->setBuddy(field);
}

void RulesDialog::set(const std::function<void(FramingRules&)>& change) {
  FramingRules rules = Settings::framingRules();
  change(rules);
  Settings::setFramingRules(rules);
  emit changed();
}

} // namespace tromb
