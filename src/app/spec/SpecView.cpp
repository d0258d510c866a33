// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/spec/SpecView.h"

#include "app/spec/ChoicePanel.h"
#include "app/spec/ConsequencePanel.h"
#include "app/spec/DeliverableList.h"
#include "app/style/Folders.h"
#include "app/style/Settings.h"

#include <QHBoxLayout>
#include <QToolButton>
#include <QVBoxLayout>

namespace tromb {

SpecView::SpecView(Session& session, const Actions& actions, const PresetStore& presets, QWidget* parent)
    : QWidget(parent), m_spec(session), m_samples(session.document(), cacheFolder("samples"), cacheFolder("encoders")),
      m_list(new DeliverableList(m_spec, this)), m_choices(new ChoicePanel(m_spec, presets, actions, this)),
      m_consequences(new ConsequencePanel(m_spec, m_samples, this)) {
  setObjectName(QStringLiteral("spec"));
  setAccessibleName(tr("Spec"));
  auto* columns = new QHBoxLayout(this);
  columns->setContentsMargins(0, 0, 0, 0);
  columns->setSpacing(0);
  auto* left = new QVBoxLayout;
  left->setContentsMargins(6, 8, 6, 8);
  left->addWidget(m_list, 1);
  auto* buttons = new QHBoxLayout;
  buttons->addWidget(actions.button("add-deliverable", Qt::ToolButtonTextBesideIcon, this), 1);
  buttons->addWidget(actions.button("remove-deliverables", Qt::ToolButtonIconOnly, this));
  left->addLayout(buttons);
  QToolButton* high = actions.button("high-version", Qt::ToolButtonTextBesideIcon, this);
  high->setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
  left->addWidget(high);
  columns->addLayout(left, 21);
  columns->addWidget(m_choices, 46);
  columns->addWidget(m_consequences, 61);
  setFocusProxy(m_list);
  connect(&m_samples, &SampleService::changed, this, &SpecView::takeSamples);
  takeSamples();
  connect(&m_spec, &Spec::changed, this, [this] {
    if (isVisible()) refresh();
  });
}

void SpecView::takeSamples() {
  m_spec.setMeasuredBytes([this](const Deliverable& deliverable) -> std::optional<int64_t> {
    const auto point = m_samples.point(deliverable);
    return point ? std::optional(point->fileBytes) : std::nullopt;
  });
}

void SpecView::showEvent(QShowEvent* event) {
  QWidget::showEvent(event);
  readAgain();
}

void SpecView::readAgain() {
  constexpr double kMega = 1e6;
  m_spec.setLineSpeed(int64_t(Settings::lineMegabits() * kMega));
  m_choices->readPresets();
  refresh();
}

void SpecView::refresh() {
  m_list->refresh();
  m_choices->refresh();
  m_consequences->refresh();
}

void SpecView::setPreflight(const PreflightService& preflight) {
  m_list->setPreflight(preflight);
}

void SpecView::removeSelected() {
  m_spec.document().removeDeliverables(m_spec.columns());
}

} // namespace tromb
