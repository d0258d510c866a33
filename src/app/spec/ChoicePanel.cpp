// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/spec/ChoicePanel.h"

#include "app/spec/CanvasChoices.h"
#include "app/spec/PictureChoices.h"
#include "app/spec/PresetBar.h"
#include "app/spec/RateChoices.h"
#include "app/spec/SoundChoices.h"
#include "app/style/Settings.h"

#include <QFormLayout>
#include <QLabel>
#include <QScrollBar>
#include <QToolButton>
#include <QVBoxLayout>

namespace tromb {

ChoiceGroup::ChoiceGroup(Spec& spec, const QString& head, const QString& part, QWidget* parent)
    : QWidget(parent), m_spec(spec), m_part(QStringLiteral("spec/") + part), m_seen(new QFormLayout) {
  setAccessibleName(head);
  auto* rows = new QVBoxLayout(this);
  rows->setContentsMargins(0, 0, 0, 0);
  rows->setSpacing(4);
  auto* title = new QLabel(head, this);
  title->setProperty("rank", "head");
  rows->addWidget(title);
  rows->addLayout(m_seen);
}

QFormLayout& ChoiceGroup::folded() {
  if (m_folded) return *m_folded;
  m_unfold = new QToolButton(this);
  m_unfold->setCheckable(true);
  m_unfold->setAutoRaise(true);
  m_unfold->setToolButtonStyle(Qt::ToolButtonTextBesideIcon);
  m_unfold->setProperty("fold", true);
  m_unfold->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
  m_hidden = new QWidget(this);
  m_folded = new QFormLayout(m_hidden);
  m_folded->setContentsMargins(0, 0, 0, 0);
  layout()->addWidget(m_unfold);
  layout()->addWidget(m_hidden);
  connect(m_unfold, &QToolButton::toggled, this, &ChoiceGroup::unfold);
  unfold(Settings::left(m_part, false).toBool());
  return *m_folded;
}

void ChoiceGroup::unfold(bool on) {
  if (!m_unfold) return;
  m_unfold->setChecked(on);
  m_unfold->setArrowType(on ? Qt::DownArrow : Qt::RightArrow);
  m_hidden->setVisible(on);
  Settings::setLeft(m_part, on);
  if (m_spec.current()) refresh();
}

void ChoiceGroup::addRow(QFormLayout& form, const QString& label, QWidget* field) {
  constexpr int kLetters = 14;
  form.setHorizontalSpacing(10);
  form.setVerticalSpacing(5);
  form.setLabelAlignment(Qt::AlignLeft | Qt::AlignVCenter);
  auto* words = new QLabel(label, this);
  words->setBuddy(field->focusProxy() ? field->focusProxy() : field);
  words->setMinimumWidth(fontMetrics().averageCharWidth() * kLetters);
  words->setMinimumHeight(field->sizeHint().height()); // so that it stands beside the middle of the field
  form.addRow(words, field);
}

void ChoiceGroup::refresh() {
  for (const auto& each : m_refresh) each();
  if (!m_unfold) return;
  const bool on = m_unfold->isChecked();
  const QString words = on ? tr("Less") : foldedWords();
  m_unfold->setText(fontMetrics().elidedText(words, Qt::ElideRight, std::max(160, width() - 30)));
  m_unfold->setToolTip(on ? QString() : words);
  m_unfold->setAccessibleName(on ? tr("%1: fewer choices").arg(accessibleName())
                                 : tr("%1: more choices, now %2").arg(accessibleName(), words));
}

ChoicePanel::ChoicePanel(Spec& spec, const PresetStore& presets, const Actions& actions, QWidget* parent)
    : QScrollArea(parent), m_spec(spec) {
  setAccessibleName(tr("Choices"));
  setWidgetResizable(true);
  setFrameShape(QFrame::NoFrame);
  setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  auto* inside = new QWidget;
  auto* rows = new QVBoxLayout(inside);
  rows->setContentsMargins(14, 10, 14, 10);
  rows->setSpacing(12);
  m_presets = new PresetBar(spec, presets, actions, inside);
  m_groups = {m_presets,
              new CanvasChoices(spec, inside),
              new RateChoices(spec, inside),
              new PictureChoices(spec, inside),
              new SoundChoices(spec, inside),
              new PlaceChoices(spec, inside)};
  for (ChoiceGroup* group : m_groups) rows->addWidget(group);
  rows->addStretch();
  setWidget(inside);
}

void ChoicePanel::readPresets() {
  m_presets->readAgain();
}

void ChoicePanel::refresh() {
  // What unfolds must not be cut off by the bar that comes with it.
  setMinimumWidth(widget()->minimumSizeHint().width() + verticalScrollBar()->sizeHint().width());
  widget()->setEnabled(m_spec.current() != nullptr);
  if (!m_spec.current()) return;
  for (ChoiceGroup* group : m_groups) group->refresh();
}

} // namespace tromb
