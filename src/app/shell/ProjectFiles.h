// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/actions/Actions.h"
#include "destination/PresetStore.h"
#include "model/FileRun.h"
#include "model/FootageImport.h"
#include "model/RecoveryKeeper.h"

#include <QObject>
#include <optional>

namespace tromb {

/// The files of a window's project: begins, opens, saves and collects it, holds it against other windows, keeps its
/// recovery copy and finds footage that has moved. Asks in the window what has to be asked.
class ProjectFiles : public QObject {
  Q_OBJECT

public:
  /// The menus of `actions` have been made.
  ProjectFiles(Document& document, FootageImport& import, Actions& actions, QWidget* window);
  [[nodiscard]] PresetStore& presets() { return m_presets; }

  [[nodiscard]] RecoveryKeeper& recovery() { return m_recovery; }
  /// Returns true if the project is open in another window too: it is saved under another name.
  [[nodiscard]] bool elsewhere() const { return m_hold.elsewhere; }
  /// Says what is wrong when it cannot. `read`: what was read from the file, where it was.
  bool open(const QString& path, std::optional<Project> read = {});
  /// Opens what a window that ended without closing left; it counts as unsaved.
  void openRecovered(const RecoveryCopy& copy);
  /// Offers copies that ended windows left, if there are any.
  void offerRecovery();
  void startNew(const Project& project);
  bool saveTo(const QString& path);
  bool mayDiscard(); ///< asks, where something is not saved
  void closed();     ///< on purpose: nothing is kept for later
  void lookForMissing();

signals:
  void complained(const QString& text);
  void holdChanged(); ///< or the project's path

private:
  /// A project that is held, or is to be.
  struct Hold {
    ProjectLock lock;
    bool elsewhere = false;
  };
  void bindActions();
  bool save();
  bool saveAs();
  void openAsked();
  void refreshRecent();
  void rememberRecent(const QString& path);
  void fillNewMenu();
  void collect();
  void relink(const std::vector<FoundFile>& files);
  /// Asks what to do if the project is open in another window. Returns nothing if it is not to be opened.
  std::optional<Hold> askHold(const QString& path);
  bool mayOverwrite(const QString& path); ///< what another program wrote

  Document& m_document;
  FootageImport& m_import;
  Actions& m_actions;
  QWidget* m_window;
  RecoveryKeeper m_recovery;
  Hold m_hold;
  PresetStore m_presets;
  FileRun m_run;
};

} // namespace tromb
