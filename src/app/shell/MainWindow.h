// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/actions/Actions.h"
#include "app/shell/ProjectFiles.h"
#include "app/style/TypedKeys.h"
#include "app/style/WheelGuard.h"
#include "model/ElementPictures.h"
#include "model/FillService.h"
#include "model/LightService.h"
#include "model/MeasureService.h"
#include "model/PosterService.h"
#include "model/PreflightService.h"
#include "model/QueueService.h"
#include "model/Session.h"
#include "model/SheetModel.h"
#include "model/StripService.h"
#include "model/Watch.h"
#include "model/WaveformService.h"

#include <QMainWindow>
#include <memory>

class QStackedWidget;

namespace tromb {

class BenchView;
class EditActions;
class DispatchView;
class FindingsPanel;
class FootageView;
class OfferBar;
class QuestionBar;
class OrderView;
class SheetView;
class SpecView;
class StartPage;
class TopBar;
class WatchView;

/// One project in one window.
class MainWindow : public QMainWindow {
  Q_OBJECT

public:
  /// `next`: the project that will be opened; its sources are looked at while the window is built.
  explicit MainWindow(const Project* next = nullptr);
  ~MainWindow() override;

  [[nodiscard]] Document& document() { return m_document; }
  [[nodiscard]] Session& session() { return m_session; }
  [[nodiscard]] Actions& actions() { return m_actions; }
  [[nodiscard]] ProjectFiles& files() { return *m_files; }
  [[nodiscard]] PosterService& posters() { return m_posters; }
  [[nodiscard]] SheetView& sheet() { return *m_sheet; }
  [[nodiscard]] FootageView& footage() { return *m_footage; }
  [[nodiscard]] OrderView& order() { return *m_order; }
  [[nodiscard]] BenchView& bench() { return *m_bench; }
  [[nodiscard]] SpecView& spec() { return *m_spec; }
  [[nodiscard]] DispatchView& dispatch() { return *m_dispatch; }
  [[nodiscard]] QueueService& queue() { return m_queue; }
  [[nodiscard]] FindingsPanel& findings() { return *m_findings; }
  [[nodiscard]] PreflightService& preflight() { return m_preflight; }
  [[nodiscard]] Watch& watch() { return m_watch; }
  [[nodiscard]] LightService& lights() { return m_lights; }
  [[nodiscard]] FramingService& framing() { return m_framing; }
  [[nodiscard]] WatchView& watching() { return *m_watching; }
  enum class View { Sources, Sheet, Bench, Spec, Dispatch, Watch };
  void showView(View view);
  /// Returns true if nothing is being looked at or drawn any more.
  [[nodiscard]] bool settled() const;
  /// Brings files in: from the footage view as sources alone, else as shots too.
  void bringIn(const QStringList& paths);
  void watchFile();
  /// Goes to where the deliverables, or a region of them alone, are sent off.
  void showExport(const QString& region = {});

protected:
  void closeEvent(QCloseEvent* event) override;
  void dragEnterEvent(QDragEnterEvent* event) override;
  void dropEvent(QDropEvent* event) override;

private:
  void restoreSize();
  void bindActions();
  void bindWatching();
  void setFullScreen(bool full);
  void buildPages();
  void placeOrder();
  void connectAll();
  void focusView();
  void refreshTitle();
  void keepPicture();
  void refresh();
  void refreshSoon();
  void complain(const QString& text);
  [[nodiscard]] bool exportable() const;
  [[nodiscard]] QString exportFolder() const;

  TypedKeys m_typedKeys;
  WheelGuard m_wheel;
  Document m_document;
  SheetModel m_model;
  Session m_session; ///< hears of changes after the model does, whose rows it names
  Actions m_actions{this};
  PosterService m_posters;
  ElementPictures m_elements;
  StripService m_strips;
  WaveformService m_waveforms;
  FootageImport m_import;
  MeasureService m_measuring;
  FramingService m_framing;
  LightService m_lights;
  Watch m_watch;
  PreflightService m_preflight;
  FillService m_fills;
  QueueService m_queue;
  std::unique_ptr<ProjectFiles> m_files;
  std::unique_ptr<EditActions> m_edit;
  TopBar* m_top = nullptr;
  OfferBar* m_offer = nullptr;
  QuestionBar* m_questions = nullptr;
  StartPage* m_start = nullptr;
  SheetView* m_sheet = nullptr;
  FootageView* m_footage = nullptr;
  OrderView* m_order = nullptr;
  BenchView* m_bench = nullptr;
  SpecView* m_spec = nullptr;
  DispatchView* m_dispatch = nullptr;
  WatchView* m_watching = nullptr;
  FindingsPanel* m_findings = nullptr;
  QStackedWidget* m_pages = nullptr;
  QString m_pictured;     ///< path of the project whose picture was kept
  QString m_exportFolder; ///< The folder chosen for this project; empty if none was chosen yet.
  View m_view = View::Sheet;
  View m_watchedFrom = View::Sheet; ///< where watching was begun
  bool m_refreshing = false;
  bool m_fullScreen = false;
};

} // namespace tromb
