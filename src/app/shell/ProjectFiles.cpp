// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/shell/ProjectFiles.h"

#include "app/shell/RecoveryDialog.h"
#include "app/style/Folders.h"
#include "app/style/Settings.h"
#include "destination/Destination.h"
#include "destination/NewDeliverable.h"
#include "model/Translation.h"

#include <QDir>
#include <QFileDialog>
#include <QFileInfo>
#include <QMenu>
#include <QMessageBox>
#include <QProgressDialog>
#include <QPushButton>
#include <utility>

namespace tromb {
namespace {

constexpr int kMostRecent = 8;

/// True where both name the same file, which is there.
bool sameFile(const QString& a, const QString& b) {
  const QString canonical = QFileInfo(a).canonicalFilePath();
  return !canonical.isEmpty() && canonical == QFileInfo(b).canonicalFilePath();
}

} // namespace

ProjectFiles::ProjectFiles(Document& document, FootageImport& import, Actions& actions, QWidget* window)
    : QObject(window), m_document(document), m_import(import), m_actions(actions), m_window(window),
      m_recovery(document, recoveryFolder()), m_presets(presetFolder().toStdString()) {
  m_presets.takeOverTemplates(templateFolder().toStdString());
  connect(&m_recovery, &RecoveryKeeper::failed, this, &ProjectFiles::complained);
  connect(&m_run, &FileRun::failed, this, [this](const Error& error) {
    if (error.code != ErrorCode::Cancelled) emit complained(said(error));
  });
  bindActions();
}

void ProjectFiles::bindActions() {
  m_actions.bind("new", [this] {
    Project project;
    if (const auto preset = m_presets.read(m_presets.defaultName())) project = preset->project;
    startNew(project);
  });
  m_actions.bind("open", [this] { openAsked(); });
  m_actions.bind("save", [this] { save(); });
  m_actions.bind("save-as", [this] { saveAs(); });
  m_actions.bind(
      "collect", [this] { collect(); }, [this] { return !m_document.project().sources.empty(); });
  m_actions.bind("start-like-this", [this] {
    const std::string name = m_document.title().toStdString();
    Status done = m_presets.save(presetOf(m_document.project(), name), true);
    if (done) done = m_presets.setDefault(name);
    if (!done) emit complained(said(done.error()));
  });
  connect(m_actions.menu(MenuId::NewFromMenu), &QMenu::aboutToShow, this, &ProjectFiles::fillNewMenu);
  refreshRecent();
}

void ProjectFiles::closed() {
  m_recovery.clear();
  m_hold = {};
}

bool ProjectFiles::mayDiscard() {
  if (!m_document.modified()) return true;
  QMessageBox box(QMessageBox::Question, tr("Unsaved changes"),
                  tr("'%1' has changes that are not saved.").arg(m_document.title()), QMessageBox::NoButton, m_window);
  box.setObjectName(QStringLiteral("unsaved"));
  const auto* keep = box.addButton(tr("Save them"), QMessageBox::AcceptRole);
  const auto* drop = box.addButton(tr("Throw them away"), QMessageBox::DestructiveRole);
  box.addButton(tr("Go back"), QMessageBox::RejectRole);
  box.exec();
  if (box.clickedButton() == keep) return save();
  return box.clickedButton() == drop;
}

void ProjectFiles::startNew(const Project& project) {
  if (!mayDiscard()) return;
  m_recovery.clear();
  m_hold = {};
  m_document.startNew(project);
}

void ProjectFiles::fillNewMenu() {
  m_actions.menu(MenuId::NewFromMenu)->clear();
  for (const ProjectTemplate& each : destinationData()->templates)
    m_actions.menu(MenuId::NewFromMenu)->addAction(QString::fromStdString(each.name), this, [this, each] {
      startNew(projectOf(each, Settings::habits()));
    });
  m_actions.menu(MenuId::NewFromMenu)->addSeparator();
  for (const Preset& each : m_presets.all())
    if (each.kind == PresetKind::Set)
      m_actions.menu(MenuId::NewFromMenu)->addAction(QString::fromStdString(each.name), this, [this, each] {
        startNew(each.project);
      });
}

std::optional<ProjectFiles::Hold> ProjectFiles::askHold(const QString& path) {
  Hold hold;
  hold.lock = ProjectLock::take(path, hold.elsewhere);
  if (!hold.elsewhere) return hold;
  QMessageBox box(QMessageBox::Warning, tr("Open in another window"),
                  tr("'%1' is open in another window. Changes made in both would overwrite each other.")
                      .arg(QFileInfo(path).fileName()),
                  QMessageBox::NoButton, m_window);
  box.setObjectName(QStringLiteral("elsewhere"));
  const auto* look = box.addButton(tr("Open it, and save under another name"), QMessageBox::AcceptRole);
  box.addButton(tr("Do not open it"), QMessageBox::RejectRole);
  box.exec();
  return box.clickedButton() == look ? std::optional<Hold>(std::move(hold)) : std::nullopt;
}

void ProjectFiles::openRecovered(const RecoveryCopy& copy) {
  const QString path = QString::fromStdString(copy.projectPath);
  std::optional<Hold> hold = path.isEmpty() ? Hold() : askHold(path);
  if (!hold) return;
  m_hold = std::move(*hold);
  m_document.recover(copy.project, path);
  if (m_recovery.write()) removeCopy(copy); // only once there is another
  m_import.lookAtSources();
}

void ProjectFiles::offerRecovery() {
  auto copies = abandonedCopies(recoveryFolder().toStdString());
  if (copies.empty()) return;
  auto* dialog = new RecoveryDialog(std::move(copies), m_window);
  dialog->setAttribute(Qt::WA_DeleteOnClose);
  dialog->setWindowModality(Qt::WindowModal);
  connect(dialog, &QDialog::accepted, this, [this, dialog] {
    if (dialog->toOpen()) openRecovered(*dialog->toOpen());
  });
  dialog->show();
}

bool ProjectFiles::open(const QString& path, std::optional<Project> read) {
  const bool same = sameFile(path, m_document.path());
  std::optional<Hold> hold = same || !QFileInfo::exists(path) ? Hold() : askHold(path);
  if (!hold) {
    if (read) m_import.stopLooking();
    return false;
  }
  if (read) {
    m_document.open(std::move(*read), path);
  } else if (const Status loaded = m_document.load(path); !loaded) {
    emit complained(said(loaded.error()));
    return false; // the project that was open stays open and locked
  }
  if (!same) m_hold = std::move(*hold);
  m_recovery.clear();
  rememberRecent(m_document.path());
  m_import.lookAtSources();
  emit holdChanged();
  return true;
}

void ProjectFiles::openAsked() {
  if (!mayDiscard()) return;
  const QString path = QFileDialog::getOpenFileName(m_window, tr("Open a project"), QFileInfo(m_document.path()).path(),
                                                    tr("Tromb projects (*.tromb)"));
  if (!path.isEmpty()) open(path);
}

bool ProjectFiles::saveTo(const QString& path) {
  const bool moves = m_document.path().isEmpty() || !sameFile(path, m_document.path());
  Hold hold;
  if (moves) hold.lock = ProjectLock::take(path, hold.elsewhere);
  if (hold.elsewhere) {
    emit complained(tr("'%1' is open in another window, where saving would overwrite this. Save under another name.")
                        .arg(QFileInfo(path).fileName()));
    return false;
  }
  if (!moves && m_document.changedOutside() && !mayOverwrite(path)) return false;
  if (const Status saved = m_document.save(path); !saved) {
    emit complained(said(saved.error()));
    return false;
  }
  if (moves) m_hold = std::move(hold);
  emit holdChanged();
  rememberRecent(m_document.path());
  return true;
}

bool ProjectFiles::mayOverwrite(const QString& path) {
  QMessageBox box(QMessageBox::Warning, tr("Changed by another program"),
                  tr("'%1' has been changed since it was opened here. Saving replaces those changes.")
                      .arg(QFileInfo(path).fileName()),
                  QMessageBox::NoButton, m_window);
  box.setObjectName(QStringLiteral("changedOutside"));
  const auto* replace = box.addButton(tr("Replace them"), QMessageBox::DestructiveRole);
  const auto* other = box.addButton(tr("Save under another name …"), QMessageBox::AcceptRole);
  box.addButton(tr("Go back"), QMessageBox::RejectRole);
  box.exec();
  if (box.clickedButton() == other) saveAs();
  return box.clickedButton() == replace;
}

bool ProjectFiles::save() {
  return m_document.path().isEmpty() || m_hold.elsewhere ? saveAs() : saveTo(m_document.path());
}

bool ProjectFiles::saveAs() {
  const QString start = m_document.path().isEmpty()
                            ? QDir::home().filePath(m_document.title() + QStringLiteral(".tromb"))
                            : m_document.path();
  QString path = QFileDialog::getSaveFileName(m_window, tr("Save the project"), start, tr("Tromb projects (*.tromb)"));
  if (path.isEmpty()) return false;
  if (QFileInfo(path).suffix().isEmpty()) path += QStringLiteral(".tromb");
  return saveTo(path);
}

void ProjectFiles::lookForMissing() {
  const QString folder = QFileDialog::getExistingDirectory(m_window, tr("Look for missing files in"));
  if (folder.isEmpty()) return;
  std::vector<Source> missing;
  for (const Source& source : m_document.project().sources)
    if (const auto* media = m_document.media(source.id); media && !*media) missing.push_back(source);
  auto* dialog =
      new QProgressDialog(tr("Looking for %n files …", nullptr, int(missing.size())), tr("Stop"), 0, 0, m_window);
  dialog->setAttribute(Qt::WA_DeleteOnClose);
  dialog->setWindowModality(Qt::WindowModal);
  connect(dialog, &QProgressDialog::canceled, &m_run, &FileRun::cancel);
  connect(&m_run, &FileRun::found, dialog, [this, dialog](const std::vector<FoundFile>& files) {
    dialog->close();
    relink(files);
  });
  dialog->show();
  m_run.lookFor(missing, folder);
}

void ProjectFiles::relink(const std::vector<FoundFile>& files) {
  std::vector<std::pair<std::string, std::string>> paths;
  int byName = 0;
  for (const FoundFile& file : files) {
    paths.emplace_back(file.sourceId, file.path);
    byName += file.certain ? 0 : 1;
  }
  m_document.relink(paths);
  int left = -int(files.size());
  for (const Source& source : m_document.project().sources)
    if (const auto* media = m_document.media(source.id); media && !*media) ++left;
  left += int(files.size());
  QString text = files.empty() ? tr("None of the missing files is there.")
                               : tr("%n files were found.", nullptr, int(files.size()));
  if (byName > 0)
    text += QLatin1Char(' ') + tr("%1 of them by name only: look whether they are the right ones.").arg(byName);
  if (left > 0 && !files.empty()) text += QLatin1Char(' ') + tr("%n are still missing.", nullptr, left);
  if (files.empty() || byName > 0 || left > 0) emit complained(text);
}

void ProjectFiles::collect() {
  const QString folder = QFileDialog::getExistingDirectory(m_window, tr("Collect into an empty folder"));
  if (folder.isEmpty()) return;
  Project project = m_document.project();
  project.name = m_document.title().toStdString();
  auto* dialog = new QProgressDialog(tr("Copying the footage …"), tr("Cancel"), 0, 1000, m_window);
  dialog->setAttribute(Qt::WA_DeleteOnClose);
  dialog->setWindowModality(Qt::WindowModal);
  dialog->setMinimumDuration(0);
  connect(dialog, &QProgressDialog::canceled, &m_run, &FileRun::cancel);
  connect(&m_run, &FileRun::progress, dialog, [dialog](double fraction, const QString& what) {
    dialog->setLabelText(tr("Copying and comparing %1").arg(what));
    if (fraction >= 0) dialog->setValue(int(fraction * 1000));
  });
  connect(&m_run, &FileRun::failed, dialog, &QWidget::close);
  connect(&m_run, &FileRun::collected, dialog, [this, dialog](const QString& path) {
    dialog->close();
    QMessageBox::information(m_window, tr("Collected"),
                             tr("The project and all its footage are in %1. Every copy was compared with its original.")
                                 .arg(QFileInfo(path).path()));
  });
  dialog->show();
  m_run.collect(project, folder);
}

void ProjectFiles::refreshRecent() {
  m_actions.menu(MenuId::RecentMenu)->clear();
  for (const QString& path : Settings::recentProjects())
    connect(m_actions.menu(MenuId::RecentMenu)
                ->addAction(QFileInfo(path).completeBaseName() + QStringLiteral("  –  ") +
                            QDir::toNativeSeparators(QFileInfo(path).path())),
            &QAction::triggered, this, [this, path] {
              if (mayDiscard()) open(path);
            });
  m_actions.menu(MenuId::RecentMenu)->setEnabled(!m_actions.menu(MenuId::RecentMenu)->isEmpty());
}

void ProjectFiles::rememberRecent(const QString& path) {
  QStringList list = Settings::recentProjects();
  list.removeAll(path);
  list.prepend(path);
  Settings::setRecentProjects(list.mid(0, kMostRecent));
  refreshRecent();
}

} // namespace tromb
