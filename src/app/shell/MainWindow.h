// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/style/Theme.h"
#include "model/FootageImport.h"
#include "model/PosterService.h"
#include "model/SheetModel.h"

#include <QList>
#include <QMainWindow>

class QLabel;
class QMenu;
class QProgressBar;
class QPushButton;
class QStackedWidget;

namespace tromb {

class ExportDialog;
class SheetView;

/// One project in one window.
class MainWindow : public QMainWindow {
  Q_OBJECT

public:
  explicit MainWindow(QWidget* parent = nullptr);
  ~MainWindow() override;

  [[nodiscard]] Document& document() { return m_document; }
  [[nodiscard]] SheetView& sheet() { return *m_sheet; }
  /// True when nothing is being looked at or drawn any more.
  [[nodiscard]] bool settled() const;

  bool openProject(const QString& path); ///< says what is wrong when it cannot
  bool saveTo(const QString& path);
  void bringIn(const QStringList& paths);
  ExportDialog* showExport();

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
  bool mayDiscard();
  bool save();
  bool saveAs();
  void openAsked();
  void addDeliverable();
  void editDeliverable(int column);
  void removeSelected(bool shots);
  void moveSelectedShot(int by);
  void renameShot(int row);
  void chooseTheme(ThemeChoice choice);
  void refreshRecent();
  void rememberRecent(const QString& path);
  void complain(const QString& text);

  Document m_document;
  SheetModel m_model;
  PosterService m_posters;
  FootageImport m_import;
  SheetView* m_sheet = nullptr;
  QStackedWidget* m_pages = nullptr;
  QLabel* m_name = nullptr;
  QLabel* m_saved = nullptr;
  QLabel* m_state = nullptr;
  QProgressBar* m_busy = nullptr;
  QPushButton* m_export = nullptr;
  QMenu* m_recent = nullptr;
  ExportDialog* m_exportDialog = nullptr;
  QAction *m_new = nullptr, *m_open = nullptr, *m_save = nullptr, *m_saveAs = nullptr, *m_bringIn = nullptr,
          *m_addShape = nullptr, *m_exportAction = nullptr;
  QList<QAction*> m_framing;
};

} // namespace tromb
