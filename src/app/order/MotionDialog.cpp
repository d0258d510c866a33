// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/order/MotionDialog.h"

#include "app/style/CadenceDrawing.h"
#include "app/style/Theme.h"
#include "model/Translation.h"
#include "project/Sharing.h"
#include "project/Timing.h"
#include "time/Cadence.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QScrollArea>
#include <QVBoxLayout>
#include <algorithm>

namespace tromb {

MotionDialog::MotionDialog(Session& session, QWidget* parent)
    : QDialog(parent), m_session(session), m_document(session.document()), m_name(new QLabel(this)),
      m_between(new QLabel(this)), m_shot(new QComboBox(this)) {
  setObjectName(QStringLiteral("motionDialog"));
  setWindowTitle(tr("Motion"));
  setAttribute(Qt::WA_DeleteOnClose);
  m_name->setProperty("rank", "head");
  m_name->setWordWrap(true);
  m_shot->addItems(QStringList(tr("as each deliverable does it")) + CadenceDrawing::treatmentNames());
  connect(m_shot, &QComboBox::activated, this, &MotionDialog::setShotTreatment);
  auto* all = new QVBoxLayout(this);
  all->addWidget(m_name);
  auto* line = new QHBoxLayout;
  m_between->setBuddy(m_shot);
  line->addWidget(m_between);
  line->addWidget(m_shot);
  line->addStretch(1);
  all->addLayout(line);
  auto* said =
      new QLabel(tr("Above, frames of the source, crossed out where they are left out; below, those of the "
                    "deliverable, notched where one is shown again. Where every frame is shown once, the shot takes "
                    "another time, and its sound goes along. Mixed frames are softer, and what moves is seen twice in "
                    "them; interpolated ones are made by motion, and fine or crossing parts may tear."),
                 this);
  said->setWordWrap(true);
  said->setProperty("rank", "faint");
  all->addWidget(said);
  auto* area = new QScrollArea(this);
  auto* inside = new QWidget(area);
  m_rows = new QVBoxLayout(inside);
  m_rows->setContentsMargins(0, 6, 8, 0);
  m_rows->setSpacing(4);
  area->setWidget(inside);
  area->setWidgetResizable(true);
  area->setFrameShape(QFrame::NoFrame);
  all->addWidget(area, 1);
  resize(560, 460);
  connect(&session, &Session::playheadMoved, this, &MotionDialog::refresh);
  connect(&session, &Session::selectionChanged, this, &MotionDialog::refresh);
  connect(&m_document.undoStack(), &QUndoStack::indexChanged, this, &MotionDialog::refresh);
  connect(&m_document, &Document::mediaChanged, this, &MotionDialog::refresh);
  connect(&m_document, &Document::aboutToReset, this, &QDialog::close);
  refresh();
}

void MotionDialog::refresh() {
  const int row = m_session.underPlayhead().row;
  const Shot* shot = row < 0 ? nullptr : &m_document.project().shots[size_t(row)];
  m_shot->setEnabled(shot != nullptr);
  m_name->setText(shot ? QString::fromStdString(shot->name) : tr("There is no shot under the playhead"));
  const auto many = int(shots().size());
  m_between->setText(many > 1 ? tr("Between the frames of %n chosen shots:", nullptr, many)
                              : tr("Between the frames of this shot:"));
  m_shot->setAccessibleName(m_between->text());
  if (shot) m_shot->setCurrentIndex(shot->treatment ? 1 + int(*shot->treatment) : 0);
  fillRows();
}

void MotionDialog::fillRows() {
  while (QLayoutItem* item = m_rows->takeAt(0)) {
    if (item->widget()) item->widget()->deleteLater();
    delete item;
  }
  const int row = m_session.underPlayhead().row;
  if (row < 0) return;
  const Shot& shot = m_document.project().shots[size_t(row)];
  const Result<MediaInfo>* media = m_document.media(shot.source);
  if (!media || !*media || (*media)->kind != MediaKind::Video) {
    m_rows->addWidget(new QLabel(tr("It is a still picture: every frame shows it."), this));
    return m_rows->addStretch(1);
  }
  for (const Deliverable& d : m_document.project().deliverables) {
    if (!framesItself(d)) continue;
    const Source& source = *m_document.project().source(shot.source);
    const ShotCadence cadence = cadenceIn(d, shot, source, **media);
    auto* block = new QWidget(this);
    auto* lines = new QVBoxLayout(block);
    lines->setContentsMargins(0, 4, 0, 4);
    lines->setSpacing(3);
    auto* head = new QHBoxLayout;
    auto* words =
        new QLabel(QStringLiteral("<b>%1</b> · %2")
                       .arg(QString::fromStdString(d.name).toHtmlEscaped(), said(cadence.words()).toHtmlEscaped()),
                   block);
    words->setWordWrap(true);
    head->addWidget(words, 1);
    auto* its = new QComboBox(block);
    its->setAccessibleName(tr("Between frames in %1").arg(QString::fromStdString(d.name)));
    its->setToolTip(tr("For every shot of this deliverable that says nothing else"));
    its->addItems(CadenceDrawing::treatmentNames());
    its->setCurrentIndex(int(d.treatment));
    connect(its, &QComboBox::activated, this, [this, id = d.id](int choice) { setTreatment(id, choice); });
    head->addWidget(its);
    lines->addLayout(head);
    auto* drawing = new CadenceDrawing(block);
    drawing->setCadence(cadence);
    lines->addWidget(drawing);
    m_rows->addWidget(block);
  }
  m_rows->addStretch(1);
}

/// The places of the shot under the playhead and those that are chosen with it.
std::vector<int> MotionDialog::shots() const {
  const int row = m_session.underPlayhead().row;
  if (row < 0) return {};
  const std::vector<int> chosen = m_session.shots();
  return std::find(chosen.begin(), chosen.end(), row) == chosen.end() ? std::vector<int>{row} : chosen;
}

void MotionDialog::setShotTreatment(int choice) {
  const auto wanted = choice == 0 ? std::nullopt : std::optional(Treatment(choice - 1));
  std::vector<Shot> changed;
  for (const int row : shots()) {
    const Shot& shot = m_document.project().shots[size_t(row)];
    if (shot.treatment == wanted) continue;
    changed.push_back(shot);
    changed.back().treatment = wanted;
  }
  if (!changed.empty()) m_document.changeShots(changed, tr("Change what is between frames"));
}

void MotionDialog::setTreatment(const std::string& deliverable, int choice) {
  const Deliverable* now = m_document.project().deliverable(deliverable);
  if (!now || now->treatment == Treatment(choice)) return;
  Deliverable changed = *now;
  changed.treatment = Treatment(choice);
  m_document.changeDeliverables({changed}, tr("Change what is between frames"));
}

} // namespace tromb
