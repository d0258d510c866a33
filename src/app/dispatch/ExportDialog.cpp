// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/dispatch/ExportDialog.h"

#include "app/style/Folders.h"
#include "app/style/Icons.h"
#include "app/style/Theme.h"
#include "model/Translation.h"
#include "project/Timing.h"
#include "time/Timecode.h"

#include <QCheckBox>
#include <QComboBox>
#include <QDesktopServices>
#include <QDir>
#include <QFileDialog>
#include <QFileInfo>
#include <QFrame>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QMessageBox>
#include <QProgressBar>
#include <QPushButton>
#include <QScrollArea>
#include <QUrl>
#include <QVBoxLayout>
#include <algorithm>

namespace tromb {
namespace {

constexpr QSize kExportPicture{300, 300};

QString shortTime(double seconds) {
  return QString::fromStdString(clockText(Rational(int64_t(seconds + 0.5))));
}

constexpr int kErrorsSaid = 2;  ///< of one deliverable; the rest is counted
constexpr int kErrorsAsked = 8; ///< of all, where it is asked whether to export despite them

QString whereAndWhat(const Finding& f) {
  return f.shot.empty() ? said(f.message)
                        : ExportDialog::tr("%1: %2").arg(QString::fromStdString(f.shot), said(f.message));
}

void say(QLabel* label, const QString& text, const QColor& colour) {
  label->setText(text);
  label->setStyleSheet(QStringLiteral("color: %1").arg(colour.name()));
}

} // namespace

ExportDialog::ExportDialog(Document& document, const QString& folder, QWidget* parent)
    : QDialog(parent), m_document(document) {
  setObjectName(QStringLiteral("exportDialog"));
  setWindowTitle(tr("Export"));
  auto* rows = new QVBoxLayout(this);
  auto* columns = new QHBoxLayout;
  columns->setSpacing(18);

  auto* left = new QVBoxLayout;
  auto* head = new QLabel(tr("What to export"), this);
  head->setProperty("rank", "head");
  left->addWidget(head);
  auto* area = new QScrollArea(this);
  area->setWidgetResizable(true);
  area->setFrameShape(QFrame::NoFrame);
  area->setFocusPolicy(Qt::NoFocus);
  auto* inside = new QWidget;
  auto* list = new QVBoxLayout(inside);
  list->setContentsMargins(0, 0, 8, 0);
  list->setSpacing(2);
  for (const Deliverable& d : document.project().deliverables) list->addWidget(buildRow(d));
  list->addStretch();
  area->setWidget(inside);
  left->addWidget(area, 1);
  columns->addLayout(left, 3);

  auto* right = new QVBoxLayout;
  auto* going = new QLabel(tr("Now encoding"), this);
  going->setProperty("rank", "head");
  right->addWidget(going);
  m_picture = new QLabel(this);
  m_picture->setFixedSize(kExportPicture + QSize(20, 20));
  m_picture->setAlignment(Qt::AlignCenter);
  m_picture->setAccessibleName(tr("The picture that is being encoded"));
  m_picture->setStyleSheet(
      QStringLiteral("background: %1; border-radius: 4px; color: #ffffff").arg(Theme::current().surround.name()));
  m_picture->setText(tr("The pictures show here\nwhile they are encoded"));
  right->addWidget(m_picture);
  right->addStretch();
  columns->addLayout(right, 2);
  rows->addLayout(columns, 1);

  auto* part = new QHBoxLayout;
  m_region = new QComboBox(this);
  m_region->setAccessibleName(tr("Part of the running order"));
  m_region->addItem(tr("all of the running order"));
  for (const Region& region : document.project().regions) m_region->addItem(QString::fromStdString(region.name), true);
  auto* partLabel = new QLabel(tr("&Part"), this);
  partLabel->setBuddy(m_region);
  part->addWidget(partLabel);
  part->addWidget(m_region);
  part->addStretch();
  partLabel->setVisible(m_region->count() > 1);
  m_region->setVisible(m_region->count() > 1);
  rows->addLayout(part);
  rows->addLayout(buildOutput());
  auto* place = new QHBoxLayout;
  m_folder = new QLineEdit(folder, this);
  m_folder->setAccessibleName(tr("Folder to export to"));
  m_folder->setObjectName(QStringLiteral("exportFolder"));
  auto* label = new QLabel(tr("&Into the folder"), this);
  label->setBuddy(m_folder);
  m_choose = new QPushButton(icon(QStringLiteral("folder")), tr("Choose …"), this);
  m_overwrite = new QCheckBox(tr("&Replace files that are there"), this);
  place->addWidget(label);
  place->addWidget(m_folder, 1);
  place->addWidget(m_choose);
  place->addWidget(m_overwrite);
  rows->addLayout(place);
  m_message = new QLabel(this);
  m_message->setWordWrap(true);
  m_message->setTextInteractionFlags(Qt::TextSelectableByMouse);
  rows->addWidget(m_message);

  auto* buttons = new QHBoxLayout;
  m_openFolder = new QPushButton(icon(QStringLiteral("folder-open")), tr("Open the folder"), this);
  m_openFolder->setVisible(false);
  m_start = new QPushButton(tr("Start"), this);
  m_start->setProperty("main", true);
  m_start->setDefault(true);
  m_start->setObjectName(QStringLiteral("startExport"));
  m_cancel = new QPushButton(tr("Close"), this);
  m_cancel->setAutoDefault(false); // Return, which has started an export, does not stop it
  buttons->addWidget(m_openFolder);
  buttons->addStretch();
  buttons->addWidget(m_start);
  buttons->addWidget(m_cancel);
  rows->addLayout(buttons);

  connect(m_choose, &QPushButton::clicked, this, [this] {
    const QString chosen = QFileDialog::getExistingDirectory(this, tr("Folder to export to"), m_folder->text());
    if (!chosen.isEmpty()) m_folder->setText(chosen);
  });
  connect(m_folder, &QLineEdit::textChanged, this, &ExportDialog::refresh);
  connect(m_region, &QComboBox::currentIndexChanged, this, &ExportDialog::describeAll);
  connect(m_overwrite, &QCheckBox::toggled, this, &ExportDialog::refresh);
  connect(m_start, &QPushButton::clicked, this, &ExportDialog::start);
  connect(m_cancel, &QPushButton::clicked, this, [this] { running() ? stop() : reject(); });
  connect(m_openFolder, &QPushButton::clicked, this, [this] { openPath(m_folder->text()); });
  connect(&m_run, &ExportRun::progressed, this, &ExportDialog::progressed);
  connect(&m_run, &ExportRun::pictured, this,
          [this](int, const QImage& picture) { m_picture->setPixmap(QPixmap::fromImage(picture)); });
  connect(&m_run, &ExportRun::succeeded, this, &ExportDialog::succeeded);
  connect(&m_run, &ExportRun::failed, this, &ExportDialog::failed);
  connect(&document, &Document::outputChanged, this, &ExportDialog::refreshOutput);
  resize(920, 600);
  describeAll();
  refreshOutput();
}

QWidget* ExportDialog::buildRow(const Deliverable& d) {
  auto* line = new QWidget(this);
  auto* grid = new QGridLayout(line);
  grid->setContentsMargins(0, 6, 0, 6);
  Row row;
  row.id = d.id;
  row.chosen = new QCheckBox(QString::fromStdString(d.name), line);
  row.chosen->setChecked(true);
  row.facts = new QLabel(line);
  row.facts->setProperty("rank", "faint");
  row.verdict = new QLabel(line);
  row.verdict->setWordWrap(true);
  row.bar = new QProgressBar(line);
  row.bar->setRange(0, 1000);
  row.bar->setTextVisible(false);
  row.bar->setVisible(false);
  row.bar->setAccessibleName(tr("Progress of %1").arg(row.chosen->text()));
  row.time = new QLabel(line);
  row.time->setProperty("rank", "faint");
  row.time->setVisible(false);
  row.open = new QPushButton(icon(QStringLiteral("play")), tr("Open"), line);
  row.open->setAccessibleName(tr("Open %1").arg(row.chosen->text()));
  row.open->setVisible(false);
  grid->addWidget(row.chosen, 0, 0);
  grid->addWidget(row.facts, 0, 1, Qt::AlignRight);
  row.watch = new QPushButton(icon(QStringLiteral("expand")), tr("Watch"), line);
  row.watch->setAccessibleName(tr("Watch %1 beside what it was made from").arg(row.chosen->text()));
  row.watch->setVisible(false);
  grid->addWidget(row.watch, 0, 2);
  grid->addWidget(row.open, 0, 3);
  grid->addWidget(row.bar, 1, 0, 1, 2);
  grid->addWidget(row.time, 2, 0, 1, 2);
  grid->addWidget(row.verdict, 3, 0, 1, 3);
  grid->setColumnStretch(0, 1);
  connect(row.chosen, &QCheckBox::toggled, this, &ExportDialog::refresh);
  connect(row.open, &QPushButton::clicked, this, [this, index = m_rows.size()] { openPath(m_rows[index].path); });
  connect(row.watch, &QPushButton::clicked, this, [this, index = m_rows.size()] {
    const Row& its = m_rows[index];
    emit watchWanted(its.path, its.id, its.begin);
  });
  m_rows.push_back(row);
  return line;
}

/// Returns the project with the chosen part of the running order alone.
Project ExportDialog::shownPart() const {
  const Project& project = m_document.project();
  const Region* chosen = project.regionNamed(region().toStdString());
  return chosen ? partOf(project, *chosen) : project;
}

PreflightGrounds ExportDialog::grounds() const {
  PreflightGrounds grounds;
  grounds.measured = m_document.allMeasured();
  grounds.changed = m_document.changedSources();
  return grounds;
}

/// Describes what a deliverable will be, and what is wrong with it, before it is exported.
void ExportDialog::describe(Row& row, const Project& part, const std::vector<Finding>& findings) {
  const Deliverable& d = *part.deliverable(row.id);
  const Encoding e = resolvedEncoding(d);
  const Region* chosen = part.regionNamed(region().toStdString());
  const Timing timing(m_document.project(), m_document.footage(), d);
  const Rational seconds =
      chosen ? timing.fromProject(chosen->out) - timing.fromProject(chosen->in) : timing.duration();
  const auto bytes = expectedBytes(e, seconds);
  const QString much = QString::fromStdString(bytes ? bytesText(*bytes) : std::string(e.info().name));
  row.facts->setText(e.hasPicture() ? QString::fromStdString(sizeText(d.canvas) + " · " + d.rate.name() + " · ") + much
                                    : said(codecText(e)) + QStringLiteral(" · ") + much);
  int bars = 0;
  int soft = 0;
  int other = 0;
  QStringList stopping;
  QStringList errors;
  for (const Finding& f : findings) {
    if (!f.deliverableId.empty() && f.deliverableId != d.id) continue;
    if (f.errs()) (findingKind(f.code)->stops ? stopping : errors) << whereAndWhat(f);
    if (f.severity != Severity::Warning) continue;
    bars += f.code == "bars";
    soft += f.code == "soft";
    other += f.code != "bars" && f.code != "soft";
  }
  QStringList words = stopping + errors.mid(0, kErrorsSaid);
  if (errors.size() > kErrorsSaid) words << tr("%n more errors", nullptr, int(errors.size()) - kErrorsSaid);
  if (bars > 0) words << tr("%n shots with bars", nullptr, bars);
  if (soft > 0) words << tr("%n shots soft", nullptr, soft);
  if (other > 0) words << tr("%n more to look at", nullptr, other);
  const Cell::State state = !stopping.isEmpty() || !errors.isEmpty() ? Cell::State::Unusable
                            : bars > 0                               ? Cell::State::Bars
                            : soft > 0 || other > 0                  ? Cell::State::Soft
                                                                     : Cell::State::Good;
  say(row.verdict, words.isEmpty() ? tr("Nothing falls short") : words.join(QStringLiteral(" · ")),
      words.isEmpty() ? Theme::current().faint : statusColour(state));
  row.possible = stopping.isEmpty();
  row.chosen->setEnabled(row.possible);
  if (!row.possible) row.chosen->setChecked(false);
}

void ExportDialog::describeAll() {
  const Project part = shownPart();
  const std::vector<Finding> findings = preflight(part, m_document.footage(), grounds());
  for (Row& row : m_rows) describe(row, part, findings);
  refresh();
}

/// Opens a file or folder with what the desktop has for it, or says where it is.
void ExportDialog::openPath(const QString& path) {
  if (!QDesktopServices::openUrl(QUrl::fromLocalFile(path)))
    say(m_message, tr("No program of this desktop opens it. It is %1").arg(QDir::toNativeSeparators(path)),
        Theme::current().bars);
}

QLayout* ExportDialog::buildOutput() {
  auto* both = new QVBoxLayout;
  both->setSpacing(2);
  auto* line = new QHBoxLayout;
  both->addLayout(line);
  m_naming = new QLineEdit(this);
  m_naming->setAccessibleName(tr("Pattern of the files' names"));
  m_naming->setPlaceholderText(QString::fromLatin1(kUsualNaming));
  QStringList words;
  for (const std::string& word : namingWords()) words << QString::fromStdString(word);
  m_naming->setToolTip(tr("Text, and words that stand for what they say: %1").arg(words.join(QLatin1Char(' '))));
  auto* naming = new QLabel(tr("&Names"), this);
  naming->setBuddy(m_naming);
  m_named = new QLabel(this);
  m_named->setWordWrap(true);
  both->addWidget(m_named);
  m_loudness = new QComboBox(this);
  m_loudness->setAccessibleName(tr("Loudness of the whole"));
  m_loudness->setToolTip(tr("All sound is made louder or softer alike until the whole has this loudness, as far as its "
                            "true peak stays below %1 dBTP")
                             .arg(Output().mostPeakDbtp));
  m_loudness->addItem(tr("leave as it is"));
  // −23: EBU R 128. −24: ATSC A/85. −16 and −14: what hand-held and web players aim at (common practice, no published
  // source).
  for (const double target : {-14.0, -16.0, -23.0, -24.0}) m_loudness->addItem(tr("%1 LUFS").arg(target), target);
  auto* loudness = new QLabel(tr("&Loudness"), this);
  loudness->setBuddy(m_loudness);
  line->addWidget(naming);
  line->addWidget(m_naming, 1);
  line->addSpacing(12);
  line->addWidget(loudness);
  line->addWidget(m_loudness);
  connect(m_naming, &QLineEdit::textEdited, this, &ExportDialog::refresh);
  connect(m_naming, &QLineEdit::editingFinished, this, &ExportDialog::takeNaming);
  connect(m_loudness, &QComboBox::activated, this, [this] {
    Output changed = m_document.project().output;
    const QVariant target = m_loudness->currentData();
    changed.loudnessLufs = target.isValid() ? std::optional<double>(target.toDouble()) : std::nullopt;
    m_document.setOutput(changed, tr("Change the loudness"));
  });
  return both;
}

/// Stores the pattern, or says why it cannot be used.
void ExportDialog::takeNaming() {
  Output changed = m_document.project().output;
  changed.naming = m_naming->text().trimmed().toStdString();
  if (changed.naming == kUsualNaming) changed.naming.clear();
  if (namingFault(changed.naming).empty()) m_document.setOutput(changed, tr("Change the files' names"));
}

void ExportDialog::refreshOutput() {
  const Output& output = m_document.project().output;
  m_naming->setText(QString::fromStdString(output.naming));
  int at = 0;
  if (output.loudnessLufs) {
    at = m_loudness->findData(*output.loudnessLufs);
    if (at < 0) { // set by a template, or in the file
      m_loudness->addItem(tr("%1 LUFS").arg(*output.loudnessLufs), *output.loudnessLufs);
      at = m_loudness->count() - 1;
    }
  }
  m_loudness->setCurrentIndex(at);
  refresh();
}

QString ExportDialog::pathOf(const Row& row) const {
  return QString::fromStdString(
      exportPath(m_folder->text().toStdString(), m_naming->text().trimmed().toStdString(),
                 {m_document.title().toStdString(), region().toStdString(), m_document.project().deliverable(row.id)}));
}

QString ExportDialog::region() const {
  return m_region->currentData().toBool() ? m_region->currentText() : QString();
}

void ExportDialog::setRegion(const QString& name) {
  m_region->setCurrentIndex(std::max(0, name.isEmpty() ? 0 : m_region->findText(name)));
}

QString ExportDialog::folder() const {
  return m_folder->text();
}

void ExportDialog::refresh() {
  if (running()) return;
  QStringList there;
  QString firstNamed;
  int chosen = 0;
  const QString fault = said(namingFault(m_naming->text().trimmed().toStdString()));
  for (const Row& row : m_rows) {
    if (!row.chosen->isChecked() || !fault.isEmpty()) continue;
    ++chosen;
    const QString path = pathOf(row);
    if (firstNamed.isEmpty()) firstNamed = QFileInfo(path).fileName();
    const Encoding e = resolvedEncoding(*m_document.project().deliverable(row.id));
    QStringList paths{path};
    if (e.sound.place == SoundPlace::Beside) paths << QString::fromStdString(soundPath(path.toStdString(), e));
    for (const QString& each : paths)
      if (QFileInfo::exists(each)) there << QFileInfo(each).fileName();
  }
  say(m_named, fault.isEmpty() ? firstNamed : fault, fault.isEmpty() ? Theme::current().faint : Theme::current().bars);
  const bool blocked = !there.isEmpty() && !m_overwrite->isChecked();
  m_overwrite->setVisible(!there.isEmpty());
  m_start->setEnabled(chosen > 0 && !m_folder->text().trimmed().isEmpty() && !blocked);
  if (blocked)
    say(m_message,
        tr("There already: %1. Tick \"Replace files that are there\" or choose another folder.")
            .arg(there.join(QStringLiteral(", "))),
        Theme::current().bars);
  else if (chosen == 0 && fault.isEmpty())
    say(m_message, tr("Tick what is to be exported."), Theme::current().faint);
  else if (m_folder->text().trimmed().isEmpty())
    say(m_message, tr("Choose a folder to export to."), Theme::current().bars);
  else
    m_message->clear();
}

void ExportDialog::setBusy(bool busy) {
  m_start->setVisible(!busy);
  m_cancel->setText(busy ? tr("Cancel the export") : tr("Close"));
  m_folder->setEnabled(!busy);
  m_choose->setEnabled(!busy);
  m_region->setEnabled(!busy);
  m_naming->setEnabled(!busy);
  m_loudness->setEnabled(!busy);
  m_overwrite->setEnabled(!busy);
  for (const Row& row : m_rows) row.chosen->setEnabled(!busy && row.possible);
}

/// Returns true if there is nothing to agree to, or somebody does.
bool ExportDialog::agreed() {
  std::vector<std::string> chosen;
  for (const Row& row : m_rows)
    if (row.chosen->isChecked()) chosen.push_back(row.id);
  PreflightGrounds with = grounds();
  with.place = OutputPlace{QDir(m_folder->text()).absolutePath().toStdString(), m_document.title().toStdString(),
                           region().toStdString(), true}; // what is there already has its own box to tick
  QStringList errors;
  for (const Finding& f : preflight(shownPart(), m_document.footage(), with, chosen)) {
    if (!f.errs() || findingKind(f.code)->stops) continue; // what stops it is told by the export itself
    errors << (f.deliverable.empty() ? whereAndWhat(f)
                                     : tr("%1: %2").arg(QString::fromStdString(f.deliverable), whereAndWhat(f)));
  }
  if (errors.isEmpty()) return true;
  QString said = errors.mid(0, kErrorsAsked).join(QLatin1Char('\n'));
  if (errors.size() > kErrorsAsked) said += tr("\n… and %n more", nullptr, int(errors.size()) - kErrorsAsked);
  QMessageBox box(QMessageBox::Warning, tr("Export"), tr("Preflight finds %n errors.", nullptr, int(errors.size())),
                  QMessageBox::NoButton, this);
  box.setInformativeText(said);
  const auto* despite = box.addButton(tr("Export &despite them"), QMessageBox::AcceptRole);
  box.setDefaultButton(box.addButton(tr("&Go back"), QMessageBox::RejectRole));
  box.exec();
  return box.clickedButton() == despite;
}

void ExportDialog::start() {
  if (!namingFault(m_naming->text().trimmed().toStdString()).empty()) return refresh();
  takeNaming();
  if (!agreed()) return;
  ExportRequest request;
  m_exporting.clear();
  for (size_t i = 0; i < m_rows.size(); ++i) {
    if (!m_rows[i].chosen->isChecked()) continue;
    const Region* part = m_document.project().regionNamed(region().toStdString());
    auto plan = part ? Plan::build(m_document.project(), m_document.footage(), m_rows[i].id, *part)
                     : Plan::build(m_document.project(), m_document.footage(), m_rows[i].id);
    if (!plan) return failed(plan.error());
    request.plans.push_back(std::move(*plan));
    m_exporting.push_back(i);
    m_rows[i].bar->setVisible(true);
    m_rows[i].bar->setValue(0);
    m_rows[i].time->setVisible(true);
    m_rows[i].time->setText(tr("waiting"));
    m_rows[i].open->setVisible(false);
    m_rows[i].verdict->clear();
  }
  request.projectName = m_document.title().toStdString();
  request.folder = QDir(m_folder->text()).absolutePath().toStdString();
  request.overwrite = m_overwrite->isChecked();
  m_openFolder->setVisible(false);
  m_message->clear();
  setBusy(true);
  request.trialFolder = cacheFolder("encoders").toStdString();
  m_run.start(std::move(request), kExportPicture);
  m_cancel->setFocus();
}

void ExportDialog::progressed(const ExportProgress& p) {
  const Row& row = m_rows[m_exporting[p.index]];
  row.bar->setValue(int(p.fraction * 1000));
  static const char* const kStates[] = {QT_TR_NOOP("encoding"), QT_TR_NOOP("finishing"), QT_TR_NOOP("proofing"),
                                        QT_TR_NOOP("done")};
  QString text =
      tr("%1 % · %2 · %3 gone").arg(int(p.fraction * 100)).arg(tr(kStates[int(p.state)]), shortTime(p.elapsedSeconds));
  if (p.state != ExportState::Done && p.remainingSeconds > 0)
    text += tr(" · %1 left").arg(shortTime(p.remainingSeconds));
  row.time->setText(text);
}

void ExportDialog::succeeded(const std::vector<ExportedFile>& files) {
  setBusy(false);
  bool good = true;
  for (size_t i = 0; i < files.size(); ++i) {
    const ExportedFile& file = files[i];
    Row& row = m_rows[m_exporting[i]];
    good = good && file.good();
    row.bar->setVisible(false);
    row.path = QString::fromStdString(file.path);
    row.open->setVisible(!row.path.isEmpty());
    const Deliverable* its = m_document.project().deliverable(row.id);
    const Region* part = m_document.project().regionNamed(region().toStdString());
    row.begin = part ? part->in : Rational(0);
    row.watch->setVisible(!row.path.isEmpty() && its && its->encoding.hasPicture() && !its->encoding.info().loop);
    if (file.error) {
      say(row.verdict, tr("▮ Not exported. ") + said(*file.error), Theme::current().broken);
      continue;
    }
    QStringList short_;
    int made = 0;
    for (const ProofCheck& check : file.proof->checks) {
      made += check.made ? 1 : 0;
      if (!check.pass)
        short_ << tr("%1: expected %2, found %3").arg(said(check.title()), said(check.expected), said(check.found));
    }
    const QString size = QString::fromStdString(
        bytesText(QFileInfo(row.path).size() + QFileInfo(QString::fromStdString(file.soundPath)).size()));
    if (short_.isEmpty())
      say(row.verdict, tr("● Proofed: all %1 checks hold · %2").arg(made).arg(size), Theme::current().good);
    else
      say(row.verdict, tr("▲ The proof falls short; the file is named so. ") + short_.join(QStringLiteral(" · ")),
          Theme::current().bars);
    if (!file.inSoftware.empty())
      row.verdict->setText(row.verdict->text() +
                           tr(" · in software, since graphics hardware did not work: %1").arg(said(file.inSoftware)));
  }
  m_openFolder->setVisible(true);
  m_start->setText(tr("Export again"));
  refresh();
  m_message->clear();
  m_overwrite->setVisible(true);
  say(m_message,
      good ? tr("Exported to %1.").arg(m_folder->text()) : tr("Exported, and something falls short: see above."),
      good ? Theme::current().good : Theme::current().bars);
  if (!m_start->isEnabled())
    m_message->setText(m_message->text() + tr(" To export again, tick \"Replace files that are there\"."));
}

void ExportDialog::failed(const Error& error) {
  setBusy(false);
  for (const size_t index : m_exporting) {
    m_rows[index].bar->setVisible(false);
    m_rows[index].time->setVisible(false);
  }
  if (error.code == ErrorCode::Cancelled)
    say(m_message, tr("Cancelled. No half-made file was kept."), Theme::current().faint);
  else
    say(m_message, said(error), Theme::current().broken);
}

void ExportDialog::stop() {
  m_cancel->setText(tr("Stopping …"));
  m_run.cancel();
}

void ExportDialog::reject() {
  if (!running()) return QDialog::reject();
  QMessageBox box(QMessageBox::Question, tr("An export is under way"),
                  tr("Stop it? Files that are done stay; nothing half-made is left."), QMessageBox::NoButton, this);
  box.setObjectName(QStringLiteral("stopExport"));
  const auto* over = box.addButton(tr("Stop it"), QMessageBox::DestructiveRole);
  box.setDefaultButton(box.addButton(tr("Go on"), QMessageBox::RejectRole));
  // Nothing is asked if the export has ended meanwhile.
  connect(&m_run, &ExportRun::succeeded, &box, &QDialog::reject);
  connect(&m_run, &ExportRun::failed, &box, &QDialog::reject);
  box.exec();
  if (box.clickedButton() == over && running()) stop();
}

} // namespace tromb
