// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/style/Theme.h"
#include "app/style/TypedKeys.h"
#include "destination/TemplateStore.h"
#include "model/FileRun.h"
#include "model/FootageImport.h"
#include "model/LightService.h"
#include "model/MeasureService.h"
#include "model/PosterService.h"
#include "model/RecoveryKeeper.h"
#include "model/Session.h"
#include "model/SheetModel.h"
#include "model/StripService.h"
#include "model/WaveformService.h"
#include "project/FramingStore.h"

#include <QList>
#include <QMainWindow>
#include <optional>

class QLabel;
class QMenu;
class QProgressBar;
class QPushButton;
class QStackedWidget;
class QToolButton;

namespace tromb {

class BenchView;
class ExportDialog;
class FootageView;
class OrderView;
class SheetView;

/// One project in one window.
class MainWindow : public QMainWindow {
  Q_OBJECT

public:
  /// `next`: the project that will be opened; its sources are looked at while the window is built.
  explicit MainWindow(const Project* next = nullptr);
  ~MainWindow() override;

  [[nodiscard]] Document& document() { return m_document; }
  [[nodiscard]] Session& session() { return m_session; }
  [[nodiscard]] SheetView& sheet() { return *m_sheet; }
  [[nodiscard]] PosterService& posters() { return m_posters; }
  [[nodiscard]] FootageView& footage() { return *m_footage; }
  [[nodiscard]] OrderView& order() { return *m_order; }
  [[nodiscard]] BenchView& bench() { return *m_bench; }
  [[nodiscard]] RecoveryKeeper& recovery() { return m_recovery; }
  enum class View { Sources, Sheet, Bench };
  void showView(View view);
  /// True when nothing is being looked at or drawn any more.
  [[nodiscard]] bool settled() const;

  /// Says what is wrong when it cannot. `read`: what was read from the file, where it was.
  bool openProject(const QString& path, std::optional<Project> read = {});
  bool saveTo(const QString& path);
  /// Opens what a window that ended without closing left; it counts as unsaved.
  void openRecovered(const RecoveryCopy& copy);
  /// Brings files in: from the footage view as sources alone, else as shots too.
  void bringIn(const QStringList& paths);
  ExportDialog* showExport(const QString& region = {});
  /// Offers copies that ended windows left, if there are any.
  void offerRecovery();

protected:
  void closeEvent(QCloseEvent* event) override;
  void dragEnterEvent(QDragEnterEvent* event) override;
  void dropEvent(QDropEvent* event) override;

private:
  QAction* action(const QString& text, const QString& iconName, const QKeySequence& keys,
                  const std::function<void()>& run);
  void buildActions();
  void buildMenus();
  QWidget* buildTopBar();
  void refreshIdentity();
  void refreshState();
  void refreshSoon();
  void refreshBusy();
  bool mayDiscard();
  bool save();
  bool saveAs();
  void openAsked();
  void addDeliverable();
  void showSavedFramings();
  void editDeliverable(int column);
  void removeSelected(bool shots);
  void moveSelectedShot(int by);
  void renameShot(int row);
  void chooseTheme(ThemeChoice choice);
  void refreshRecent();
  void rememberRecent(const QString& path);
  void complain(const QString& text);
  void fillNewMenu();
  void startNewFrom(const Project& project);
  void collectProject();
  void lookForMissing();
  void relink(const std::vector<FoundFile>& files);
  void addFromFootage(bool atPlayhead);
  void layUnder();
  void splitAtCuts(int row);
  void removeFocused();
  void showLightCopies();
  /// A project that is held, or is to be.
  struct Hold {
    ProjectLock lock;
    bool elsewhere = false; ///< it is open in another window too: it is saved under another name
  };
  /// Asks where it is open in another window; empty when it is not to be opened.
  std::optional<Hold> askHold(const QString& path);
  bool mayOverwrite(const QString& path); ///< what another program wrote

  TypedKeys m_typedKeys;
  Document m_document;
  SheetModel m_model;
  Session m_session; ///< hears of changes after the model does, whose rows it names
  PosterService m_posters;
  StripService m_strips;
  WaveformService m_waveforms;
  FootageImport m_import;
  MeasureService m_measuring;
  LightService m_lights;
  RecoveryKeeper m_recovery;
  Hold m_hold;
  TemplateStore m_templates;
  FramingStore m_savedFramings;
  FileRun m_files;
  bool m_refreshing = false;
  View m_view = View::Sheet;
  SheetView* m_sheet = nullptr;
  FootageView* m_footage = nullptr;
  OrderView* m_order = nullptr;
  BenchView* m_bench = nullptr;
  QStackedWidget* m_pages = nullptr;
  QLabel* m_name = nullptr;
  QLabel* m_saved = nullptr;
  QLabel* m_state = nullptr;
  QProgressBar* m_busy = nullptr;
  QLabel* m_busyWords = nullptr;
  QToolButton* m_stopImport = nullptr;
  QPushButton* m_export = nullptr;
  QMenu* m_recent = nullptr;
  QMenu* m_newFrom = nullptr;
  QToolButton *m_toFootage = nullptr, *m_toSheet = nullptr, *m_toBench = nullptr;
  ExportDialog* m_exportDialog = nullptr;
  QString m_exportFolder; ///< that was chosen for the project; empty where none was yet
  QAction *m_new = nullptr, *m_open = nullptr, *m_save = nullptr, *m_saveAs = nullptr, *m_bringIn = nullptr,
          *m_addShape = nullptr, *m_exportAction = nullptr, *m_collect = nullptr, *m_showOrder = nullptr;
  QList<QAction*> m_framing;
  QList<QAction*> m_onSheet;   ///< others that act on the sheet's cells
  QList<QAction*> m_onFootage; ///< those that act on the source that is looked at
};

} // namespace tromb
