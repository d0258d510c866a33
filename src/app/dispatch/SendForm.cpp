// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/dispatch/SendForm.h"

#include "app/style/Icons.h"
#include "app/style/Settings.h"
#include "app/style/Theme.h"
#include "app/style/WrappedLabel.h"
#include "copy/ShotCopy.h"
#include "io/FreeSpace.h"
#include "model/Translation.h"
#include "project/FileName.h"
#include "project/Timing.h"

#include <QComboBox>
#include <QDir>
#include <QFileDialog>
#include <QFileInfo>
#include <QFormLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QMessageBox>
#include <QPushButton>
#include <QVBoxLayout>
#include <algorithm>

namespace tromb {
namespace {

constexpr int kErrorsSaid = 2;   ///< of one deliverable in its line; the rest is counted
constexpr int kErrorsAsked = 8;  ///< of all, where it is asked whether to export despite them
constexpr int kFindingsSaid = 9; ///< of the deliverable that is looked at

QString whereAndWhat(const Finding& f) {
  return f.shot.empty() ? said(f.message) : SendForm::tr("%1: %2").arg(QString::fromStdString(f.shot), said(f.message));
}

bool isAbout(const Finding& f, const std::string& deliverable) {
  return f.deliverableId.empty() || f.deliverableId == deliverable;
}

void say(QLabel* label, const QString& text, const QColor& colour) {
  label->setText(text);
  label->setVisible(!text.isEmpty());
  colourWords(label, colour);
}

} // namespace

SendForm::SendForm(Document& document, QWidget* parent) : QWidget(parent), m_document(document) {
  auto* rows = new QVBoxLayout(this);
  rows->setContentsMargins(0, 0, 0, 0);
  rows->setSpacing(10);
  auto* head = new QLabel(tr("How it is sent"), this);
  head->setProperty("rank", "head");
  rows->addWidget(head);
  auto* form = new QFormLayout;
  form->setHorizontalSpacing(14);
  form->setVerticalSpacing(8);
  rows->addLayout(form);
  const auto add = [&](const QString& name, QWidget* buddy, QLayout* line) {
    auto* label = new QLabel(name, this);
    label->setBuddy(buddy);
    form->addRow(label, line);
    return label;
  };
  const auto alone = [](QWidget* widget) {
    auto* line = new QHBoxLayout;
    line->addWidget(widget);
    line->addStretch();
    return line;
  };

  m_region = new QComboBox(this);
  m_region->setAccessibleName(tr("Part of the running order"));
  m_regionLabel = add(tr("Par&t"), m_region, alone(m_region));
  auto* place = new QHBoxLayout;
  m_folder = new QLineEdit(this);
  m_folder->setAccessibleName(tr("Folder to export to"));
  m_folder->setObjectName(QStringLiteral("exportFolder"));
  auto* choose = new QPushButton(icon(QStringLiteral("folder")), tr("Choose …"), this);
  place->addWidget(m_folder, 1);
  place->addWidget(choose);
  add(tr("Into the fol&der"), m_folder, place);
  m_naming = new QLineEdit(this);
  m_naming->setAccessibleName(tr("Pattern of the files' names"));
  m_naming->setPlaceholderText(QString::fromLatin1(kUsualNaming));
  QStringList words;
  for (const std::string& word : namingWords()) words << QString::fromStdString(word);
  m_naming->setToolTip(tr("Text, and words that stand for what they say: %1. A slash makes a folder.")
                           .arg(words.join(QLatin1Char(' '))));
  m_named = wrappedLabel(this);
  auto* names = new QVBoxLayout;
  names->setSpacing(2);
  names->addWidget(m_naming);
  names->addWidget(m_named);
  add(tr("&Names"), m_naming, names);
  m_clash = new QComboBox(this);
  m_clash->setObjectName(QStringLiteral("clash"));
  m_clash->setAccessibleName(tr("Where a file is there already"));
  m_clash->addItem(tr("ask me"));
  m_clash->addItem(tr("number the new one"), int(Clash::Number));
  m_clash->addItem(tr("replace it"), int(Clash::Replace));
  add(tr("If &one is there"), m_clash, alone(m_clash));
  m_loudness = new QComboBox(this);
  m_loudness->setAccessibleName(tr("Loudness of the whole"));
  m_loudness->setToolTip(tr("All sound is made louder or softer alike until the whole has this loudness, as far as its "
                            "true peak stays below %1 dBTP")
                             .arg(Output().mostPeakDbtp));
  m_loudness->addItem(tr("leave as it is"));
  // −23: EBU R 128. −24: ATSC A/85. −16 and −14: what hand-held and web players aim at (common practice, no published
  // source).
  for (const double target : {-14.0, -16.0, -23.0, -24.0}) m_loudness->addItem(tr("%1 LUFS").arg(target), target);
  add(tr("&Loudness"), m_loudness, alone(m_loudness));

  m_afterwards = new QComboBox(this);
  m_afterwards->setObjectName(QStringLiteral("afterwards"));
  m_afterwards->setAccessibleName(tr("What happens when all is done"));
  m_afterwards->addItem(tr("show a notice"), int(Afterwards::Notify));
  m_afterwards->addItem(tr("open the file"), int(Afterwards::OpenFile));
  m_afterwards->addItem(tr("open the folder"), int(Afterwards::OpenFolder));
  m_afterwards->addItem(tr("nothing"), int(Afterwards::Nothing));
  m_afterwards->setCurrentIndex(
      std::max(0, m_afterwards->findData(Settings::left(QStringLiteral("afterwards"), int(Afterwards::Notify)))));
  connect(m_afterwards, &QComboBox::activated, this,
          [this] { Settings::setLeft(QStringLiteral("afterwards"), m_afterwards->currentData()); });
  add(tr("On&ce done"), m_afterwards, alone(m_afterwards));

  m_message = wrappedLabel(this);
  auto* buttons = new QHBoxLayout;
  m_send = new QPushButton(icon(QStringLiteral("download"), Ink::OnAccent), tr("E&xport"), this);
  m_send->setProperty("main", true);
  m_send->setObjectName(QStringLiteral("startExport"));
  buttons->addWidget(m_send);
  buttons->addSpacing(8);
  buttons->addWidget(m_message, 1);
  rows->addSpacing(4);
  rows->addLayout(buttons);
  rows->addSpacing(14);
  m_found = wrappedLabel(this);
  m_found->setObjectName(QStringLiteral("sendFindings"));
  rows->addWidget(m_found);
  rows->addStretch(1);

  connect(choose, &QPushButton::clicked, this, [this] {
    const QString chosen = QFileDialog::getExistingDirectory(this, tr("Folder to export to"), m_folder->text());
    if (!chosen.isEmpty()) m_folder->setText(chosen);
  });
  connect(m_folder, &QLineEdit::textChanged, this, [this] {
    refresh();
    m_soon.start();
    emit folderChanged();
  });
  connect(m_region, &QComboBox::currentIndexChanged, this, [this] { m_soon.start(); });
  connect(m_naming, &QLineEdit::textEdited, this, &SendForm::refresh);
  connect(m_naming, &QLineEdit::editingFinished, this, &SendForm::takeNaming);
  connect(m_loudness, &QComboBox::activated, this, [this] {
    Output changed = m_document.project().output;
    const QVariant target = m_loudness->currentData();
    changed.loudnessLufs = target.isValid() ? std::optional<double>(target.toDouble()) : std::nullopt;
    m_document.setOutput(changed, tr("Change the loudness"));
  });
  connect(m_send, &QPushButton::clicked, this, &SendForm::send);
  for (QLineEdit* each : {m_folder, m_naming}) connect(each, &QLineEdit::returnPressed, this, &SendForm::send);
  // One edit sends many signals; it is looked once.
  m_soon.setSingleShot(true);
  m_soon.setInterval(60);
  connect(&m_soon, &QTimer::timeout, this, &SendForm::look);
  const auto soon = [this] { m_soon.start(); };
  connect(&document, &Document::reset, this, [this] {
    m_left.clear();
    m_shown.clear();
    m_candidates.clear();
    m_known = false;
    refreshDocument();
  });
  connect(&document, &Document::outputChanged, this, &SendForm::refreshDocument);
  connect(&document, &Document::regionsChanged, this, &SendForm::refreshDocument);
  connect(&document, &Document::deliverablesInserted, this, soon);
  connect(&document, &Document::deliverablesRemoved, this, soon);
  connect(&document, &Document::deliverableMoved, this, soon);
  connect(&document, &Document::deliverableChanged, this, soon);
  connect(&document, &Document::shotsInserted, this, soon);
  connect(&document, &Document::shotsRemoved, this, soon);
  connect(&document, &Document::shotChanged, this, soon);
  connect(&document, &Document::mediaChanged, this, soon);
  connect(&document, &Document::sourceChanged, this, soon);
  connect(&document, &Document::framingsChanged, this, soon);
  connect(&document, &Document::bedsChanged, this, soon);
  connect(&document, &Document::elementsChanged, this, soon);
  connect(&document, &Document::checksChanged, this, soon);
  refreshDocument();
}

QString SendForm::region() const {
  return m_region->currentData().toBool() ? m_region->currentText() : QString();
}

void SendForm::setRegion(const QString& name) {
  m_region->setCurrentIndex(std::max(0, name.isEmpty() ? 0 : m_region->findText(name)));
}

void SendForm::takeFrom(const Job& job) {
  setRegion(QString::fromStdString(job.region));
  setFolder(QString::fromStdString(job.folder));
  m_clash->setCurrentIndex(std::max(0, m_clash->findData(int(job.clash))));
  m_afterwards->setCurrentIndex(std::max(0, m_afterwards->findData(int(job.afterwards))));
  for (const Deliverable& each : m_document.project().deliverables)
    choose(each.id, std::find(job.deliverables.begin(), job.deliverables.end(), each.id) != job.deliverables.end());
}

QString SendForm::folder() const {
  return m_folder->text();
}

void SendForm::setFolder(const QString& folder) {
  if (m_folder->text() != folder) m_folder->setText(folder);
}

/// What stands in the project beside its deliverables.
void SendForm::refreshDocument() {
  const Project& project = m_document.project();
  const QString part = region();
  {
    const QSignalBlocker quiet(m_region);
    m_region->clear();
    m_region->addItem(tr("all of the running order"));
    for (const Region& each : project.regions) m_region->addItem(QString::fromStdString(each.name), true);
    setRegion(part);
  }
  m_regionLabel->setVisible(m_region->count() > 1);
  m_region->setVisible(m_region->count() > 1);
  const Output& output = project.output;
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
  m_soon.start();
}

/// Stores the pattern, unless it cannot be used.
void SendForm::takeNaming() {
  Output changed = m_document.project().output;
  changed.naming = m_naming->text().trimmed().toStdString();
  if (changed.naming == kUsualNaming) changed.naming.clear();
  if (namingFault(changed.naming).empty() && changed.naming != m_document.project().output.naming)
    m_document.setOutput(changed, tr("Change the files' names"));
}

void SendForm::showEvent(QShowEvent* event) {
  QWidget::showEvent(event);
  if (m_stale) m_soon.start();
}

/// Looks for what falls short in the chosen part, beside the window.
void SendForm::look() {
  m_stale = !isVisible(); // then it is looked when it is shown
  if (m_stale) return;
  const Project& project = m_document.project();
  const Region* chosen = project.regionNamed(region().toStdString());
  Project part = chosen ? partOf(project, *chosen) : project;
  PreflightGrounds grounds;
  grounds.measured = m_document.allMeasured();
  grounds.changed = m_document.changedSources();
  // What is there already is asked about by itself.
  if (!m_folder->text().trimmed().isEmpty())
    grounds.place = OutputPlace{QDir(m_folder->text()).absolutePath().toStdString(), m_document.title().toStdString(),
                                region().toStdString(), true};
  m_looking.stop();
  m_looking.add(
      [this, part = std::move(part), footage = m_document.footage(),
       folder = grounds.place ? grounds.place->folder : "", grounds = std::move(grounds)](const Task& task) {
        auto found = std::make_shared<std::vector<Finding>>(preflight(part, footage, grounds));
        // Beside the window, since a folder may lie on another machine.
        const auto free = folder.empty() ? std::nullopt : freeBytes(folder);
        task.tell([this, found, part, free] {
          m_free = free;
          take(*found, part);
        });
      },
      [this](const Error& error) { say(m_message, said(error), Theme::current().broken); });
}

void SendForm::take(const std::vector<Finding>& findings, const Project& part) {
  m_findings = findings;
  m_known = true;
  m_candidates.clear();
  for (const Deliverable& d : part.deliverables) {
    if (!m_document.project().deliverable(d.id)) continue; // removed meanwhile: it will be looked again
    Candidate candidate;
    candidate.id = d.id;
    candidate.name = QString::fromStdString(d.name);
    describe(candidate, part);
    candidate.chosen = candidate.possible && !m_left.contains(d.id);
    m_candidates.push_back(std::move(candidate));
  }
  showFindings(m_shown);
  refresh();
  emit changed();
  if (std::exchange(m_sending, false)) sendNow();
}

/// Says what a deliverable will be, and what is wrong with it, before it is exported.
void SendForm::describe(Candidate& candidate, const Project& part) {
  const Deliverable& d = *part.deliverable(candidate.id);
  const Encoding e = resolvedEncoding(d);
  const Region* chosen = part.regionNamed(region().toStdString());
  const Timing timing(m_document.project(), m_document.footage(), d);
  const Rational seconds =
      chosen ? timing.fromProject(chosen->out) - timing.fromProject(chosen->in) : timing.duration();
  const auto bytes = expectedBytes(m_document.project(), m_document.footage(), d, seconds, chosen);
  candidate.bytes = bytes.value_or(0);
  const QString much = QString::fromStdString(bytes ? bytesText(*bytes) : std::string(e.info().name));
  candidate.facts = e.hasPicture() ? QString::fromStdString(sizeText(d.canvas) + " · " + d.rate.name() + " · ") + much
                                   : said(codecText(e)) + QStringLiteral(" · ") + much;
  int bars = 0;
  int soft = 0;
  int other = 0;
  QStringList stopping;
  QStringList errors;
  for (const Finding& f : m_findings) {
    if (!isAbout(f, d.id)) continue;
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
  candidate.state = !stopping.isEmpty() || !errors.isEmpty() ? Cell::State::Unusable
                    : bars > 0                               ? Cell::State::Bars
                    : soft > 0 || other > 0                  ? Cell::State::Soft
                                                             : Cell::State::Good;
  candidate.verdict = words.isEmpty() ? tr("Nothing falls short") : words.join(QStringLiteral(" · "));
  candidate.possible = stopping.isEmpty();
}

void SendForm::choose(const std::string& id, bool chosen) {
  if (chosen)
    m_left.erase(id);
  else
    m_left.insert(id);
  for (Candidate& each : m_candidates)
    if (each.id == id) each.chosen = chosen && each.possible;
  refresh();
  emit changed();
}

void SendForm::showFindings(const std::string& id) {
  m_shown = id;
  const Deliverable* d = id.empty() ? nullptr : m_document.project().deliverable(id);
  QStringList lines;
  if (d)
    for (const Finding& f : m_findings)
      if (isAbout(f, id) && f.severity != Severity::Note) lines << whereAndWhat(f).toHtmlEscaped();
  const auto more = int(lines.size()) - kFindingsSaid;
  lines = lines.mid(0, kFindingsSaid);
  if (more > 0) lines << tr("… and %n more", nullptr, more);
  m_found->setText(!d ? QString()
                      : QStringLiteral("<b>%1</b><br>%2")
                            .arg(QString::fromStdString(d->name).toHtmlEscaped(),
                                 lines.isEmpty() ? tr("Nothing falls short") : lines.join(QStringLiteral("<br>"))));
  m_found->setVisible(d != nullptr);
}

QString SendForm::pathOf(const Candidate& candidate) const {
  return QString::fromStdString(exportPath(
      QDir(m_folder->text()).absolutePath().toStdString(), m_naming->text().trimmed().toStdString(),
      {m_document.title().toStdString(), region().toStdString(), m_document.project().deliverable(candidate.id)}));
}

/// The names of files that are there already.
QStringList SendForm::there() const {
  QStringList names;
  for (const Candidate& each : m_candidates) {
    const Deliverable* d = m_document.project().deliverable(each.id);
    if (!each.chosen || !d) continue;
    const QString path = pathOf(each);
    const Encoding e = resolvedEncoding(*d);
    QStringList paths{path};
    if (e.sound.place == SoundPlace::Beside) paths << QString::fromStdString(soundPath(path.toStdString(), e));
    for (const QString& file : paths)
      if (QFileInfo::exists(file)) names << QFileInfo(file).fileName();
  }
  return names;
}

bool SendForm::sendable() const {
  return m_send->isEnabled();
}

/// What all files together will take, and what there is room for.
QString SendForm::aboutRoom(int64_t bytes) const {
  if (bytes <= 0) return {};
  const QString all = QString::fromStdString(bytesText(bytes));
  return m_free ? tr("about %1 together; %2 are free there").arg(all, QString::fromStdString(bytesText(*m_free)))
                : tr("about %1 together").arg(all);
}

void SendForm::refresh() {
  const QString fault = said(namingFault(m_naming->text().trimmed().toStdString()));
  QString first;
  int chosen = 0;
  int64_t bytes = 0;
  for (const Candidate& each : m_candidates) {
    if (!each.chosen || !m_document.project().deliverable(each.id)) continue;
    bytes += each.bytes;
    if (chosen++ == 0 && fault.isEmpty()) first = QFileInfo(pathOf(each)).fileName();
  }
  say(m_named, fault.isEmpty() ? first : fault, fault.isEmpty() ? Theme::current().faint : Theme::current().bars);
  const bool placed = !m_folder->text().trimmed().isEmpty();
  // While it is not known yet what there is, it may be pressed already.
  m_send->setEnabled((chosen > 0 || !m_known) && placed && fault.isEmpty());
  m_send->setText(chosen > 0 ? tr("E&xport %n files", nullptr, chosen) : tr("E&xport"));
  say(m_message,
      chosen == 0 && m_known && fault.isEmpty() ? tr("Tick what is to be exported.")
      : !placed                                 ? tr("Choose a folder to export to.")
                                                : aboutRoom(bytes),
      placed ? Theme::current().faint : Theme::current().bars);
}

/// Returns true if there is nothing to agree to, or somebody does.
bool SendForm::agreed() {
  QStringList errors;
  for (const Finding& f : m_findings) {
    if (!f.errs() || findingKind(f.code)->stops) continue; // what stops it is told by the export itself
    const bool concerned = std::any_of(m_candidates.begin(), m_candidates.end(),
                                       [&](const Candidate& each) { return each.chosen && isAbout(f, each.id); });
    if (!concerned) continue;
    errors << (f.deliverable.empty() ? whereAndWhat(f)
                                     : tr("%1: %2").arg(QString::fromStdString(f.deliverable), whereAndWhat(f)));
  }
  if (errors.isEmpty()) return true;
  QString text = errors.mid(0, kErrorsAsked).join(QLatin1Char('\n'));
  if (errors.size() > kErrorsAsked) text += tr("\n… and %n more", nullptr, int(errors.size()) - kErrorsAsked);
  QMessageBox box(QMessageBox::Warning, tr("Export"), tr("Preflight finds %n errors.", nullptr, int(errors.size())),
                  QMessageBox::NoButton, this);
  box.setObjectName(QStringLiteral("exportDespite"));
  box.setInformativeText(text);
  const auto* despite = box.addButton(tr("Export &despite them"), QMessageBox::AcceptRole);
  box.setDefaultButton(box.addButton(tr("&Go back"), QMessageBox::RejectRole));
  box.exec();
  return box.clickedButton() == despite;
}

/// What happens to files that are there; nothing where somebody goes back.
std::optional<Clash> SendForm::agreedClash() {
  if (m_clash->currentData().isValid()) return Clash(m_clash->currentData().toInt());
  const QStringList names = there();
  if (names.isEmpty()) return Clash::Number;
  QMessageBox box(QMessageBox::Question, tr("Export"), tr("%n files are there already.", nullptr, int(names.size())),
                  QMessageBox::NoButton, this);
  box.setObjectName(QStringLiteral("exportClash"));
  box.setInformativeText(names.join(QLatin1Char('\n')));
  const auto* number = box.addButton(tr("&Number the new ones"), QMessageBox::AcceptRole);
  const auto* replace = box.addButton(tr("&Replace them"), QMessageBox::DestructiveRole);
  box.setDefaultButton(box.addButton(tr("&Go back"), QMessageBox::RejectRole));
  box.exec();
  if (box.clickedButton() == number) return Clash::Number;
  if (box.clickedButton() == replace) return Clash::Replace;
  return std::nullopt;
}

void SendForm::send() {
  takeNaming();
  if (!sendable()) return;
  if (settled() && m_known) return sendNow();
  m_sending = true;
  m_send->setEnabled(false);
  m_soon.start(); // what was looked at may have been told already, while its thread is still to end
}

void SendForm::sendNow() {
  if (!agreed()) return;
  const auto clash = agreedClash();
  if (!clash) return;
  Job job;
  for (const Candidate& each : m_candidates)
    if (each.chosen) job.deliverables.push_back(each.id);
  if (job.deliverables.empty()) return;
  job.projectPath = m_document.path().toStdString();
  job.region = region().toStdString();
  job.folder = QDir(m_folder->text()).absolutePath().toStdString();
  job.clash = *clash;
  job.afterwards = Afterwards(m_afterwards->currentData().toInt());
  Project project = m_document.project();
  project.name = m_document.title().toStdString();
  emit wanted(job, project);
}

} // namespace tromb
