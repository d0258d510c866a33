// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/dispatch/WeightsDialog.h"

#include "model/Translation.h"

#include <QComboBox>
#include <QDialogButtonBox>
#include <QFormLayout>
#include <QLabel>
#include <QPushButton>
#include <QScrollArea>
#include <QVBoxLayout>

namespace tromb {

WeightsDialog::WeightsDialog(Document& document, PreflightService& preflight, QWidget* parent)
    : QDialog(parent), m_document(document) {
  setWindowTitle(tr("What findings weigh"));
  auto* rows = new QVBoxLayout(this);
  auto* about =
      new QLabel(tr("In this project. An error stops an export until somebody agrees to it; what is ignored is "
                    "not looked for. What no file can be made with always weighs the same, and is not here."),
                 this);
  about->setWordWrap(true);
  about->setProperty("rank", "faint");
  rows->addWidget(about);
  auto* area = new QScrollArea(this);
  area->setWidgetResizable(true);
  area->setFrameShape(QFrame::NoFrame);
  auto* inside = new QWidget;
  auto* form = new QFormLayout(inside);
  form->setHorizontalSpacing(16);
  form->setLabelAlignment(Qt::AlignLeft | Qt::AlignVCenter);
  for (const FindingKind& kind : findingKinds()) {
    if (kind.stops) continue;
    auto* choice = new QComboBox(inside);
    const bool limit = QByteArray(kind.code).startsWith("limit-");
    choice->addItem(limit ? tr("as surely as it is known") : tr("as usual: %1").arg(severityWords(kind.severity)));
    for (const Severity each : {Severity::Ignored, Severity::Note, Severity::Warning, Severity::Error})
      choice->addItem(severityWords(each), int(each));
    choice->setAccessibleName(said(kind.name));
    form->addRow(said(kind.name), choice);
    connect(choice, &QComboBox::activated, this, [choice, &preflight, code = std::string(kind.code)] {
      const QVariant chosen = choice->currentData();
      preflight.weigh(code, chosen.isValid() ? std::optional(Severity(chosen.toInt())) : std::nullopt);
    });
    m_choices[QString::fromLatin1(kind.code)] = choice;
  }
  area->setWidget(inside);
  rows->addWidget(area, 1);
  auto* buttons = new QDialogButtonBox(QDialogButtonBox::Close, this);
  auto* usual = buttons->addButton(tr("All as &usual"), QDialogButtonBox::ResetRole);
  connect(usual, &QAbstractButton::clicked, this, [this] {
    Checks checks = m_document.project().checks;
    checks.severities.clear();
    m_document.setChecks(checks, tr("All findings weigh as usual"));
  });
  connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
  rows->addWidget(buttons);
  connect(&document, &Document::checksChanged, this, &WeightsDialog::refresh);
  resize(560, 560);
  refresh();
}

void WeightsDialog::refresh() {
  const auto& severities = m_document.project().checks.severities;
  for (auto each = m_choices.cbegin(); each != m_choices.cend(); ++each) {
    const auto at = severities.find(each.key().toStdString());
    each.value()->setCurrentIndex(at == severities.end() ? 0 : each.value()->findData(int(at->second)));
  }
}

} // namespace tromb
