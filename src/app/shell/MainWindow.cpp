// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/shell/MainWindow.h"

#include "app/bench/BenchView.h"
#include "app/dispatch/DispatchView.h"
#include "app/dispatch/FindingsPanel.h"
#include "app/footage/FootageView.h"
#include "app/order/OrderView.h"
#include "app/sheet/CellStrip.h"
#include "app/sheet/SheetView.h"
#include "app/shell/EditActions.h"
#include "app/shell/OfferBar.h"
#include "app/shell/QuestionBar.h"
#include "app/shell/StartPage.h"
#include "app/shell/StatusTip.h"
#include "app/shell/TopBar.h"
#include "app/spec/SpecView.h"
#include "app/style/Folders.h"
#include "app/style/PaintedParts.h"
#include "app/style/Settings.h"
#include "app/watch/SystemSound.h"
#include "app/watch/WatchView.h"

#include <QApplication>
#include <QCloseEvent>
#include <QDropEvent>
#include <QFileInfo>
#include <QMenuBar>
#include <QMessageBox>
#include <QMimeData>
#include <QPushButton>
#include <QScreen>
#include <QStackedWidget>
#include <QStandardPaths>
#include <QVBoxLayout>
#include <cmath>
#include <utility>

namespace tromb {

MainWindow::MainWindow(const Project* next)
    : m_model(m_document), m_session(m_document), m_posters(m_document, cacheFolder("posters")), m_elements(m_document),
      m_strips(m_document), m_waveforms(m_document, cacheFolder("waveforms")),
      m_import(m_document, cacheFolder("indexes")), m_measuring(m_document, cacheFolder("measured")),
      m_framing(m_document, m_measuring), m_lights(m_document, cacheFolder("lighter"), Settings::lighterCopiesBytes()),
      m_watch(m_session, m_lights, std::make_unique<SystemSound>()), m_preflight(m_document),
      m_fills(m_document, m_framing, m_preflight), m_queue(Queue::usualFolder()) {
  if (next) m_import.lookAhead(*next);
  qApp->installEventFilter(&m_typedKeys);
  qApp->installEventFilter(&m_wheel);
  setObjectName(QStringLiteral("mainWindow"));
  setAcceptDrops(true);
  installAccessibility();
  setMinimumSize(860, 520);
  restoreSize();
  m_actions.fill(*menuBar());
  m_files = std::make_unique<ProjectFiles>(m_document, m_import, m_actions, this);
  m_sheet = new SheetView(m_session, m_actions, m_model, m_posters, this);
  m_order = new OrderView(m_session, m_actions, m_posters, m_waveforms, this);
  m_footage = new FootageView(m_session, m_actions, m_strips, m_lights, this);
  m_bench = new BenchView(m_session, m_actions, m_posters, this);
  m_spec = new SpecView(m_session, m_actions, m_files->presets(), this);
  m_dispatch = new DispatchView(m_document, m_queue, m_actions, this);
  m_watching = new WatchView(m_session, m_watch, m_actions, this);
  m_bench->setWatch(m_watch);
  m_sheet->setWatch(m_watch);
  m_sheet->setElements(m_elements);
  m_bench->setElements(m_elements);
  m_edit = std::make_unique<EditActions>(m_session, m_actions,
                                         EditActions::Views{*m_footage, *m_sheet, *m_bench, *m_order, *m_spec}, this);
  bindActions();
  buildPages();
  // Return presses the button that has the keyboard, as in a dialog.
  for (auto* each : findChildren<QPushButton*>()) each->setAutoDefault(true);
  new StatusTip(this);
  connectAll();
  refreshTitle();
  refresh();
}

/// As it was left, else as large as suits, with its frame on the screen.
void MainWindow::restoreSize() {
  if (restoreGeometry(Settings::left(QStringLiteral("window")).toByteArray())) return;
  constexpr QSize kFrame(8, 40); // at least as much as the window frames of most desktops
  resize(QSize(1280, 800).boundedTo(screen()->availableSize() - kFrame));
}

MainWindow::~MainWindow() {
  // The views are destroyed first because they use the services, and before the actions because those look at the
  // views.
  m_edit.reset();
  delete takeCentralWidget();
}

void MainWindow::buildPages() {
  auto* page = new QWidget(this);
  auto* rows = new QVBoxLayout(page);
  rows->setContentsMargins(0, 0, 0, 0);
  rows->setSpacing(0);
  rows->addWidget(m_sheet, 1);
  rows->addWidget(new CellStrip(m_session, *m_sheet, m_actions, page));
  m_pages = new QStackedWidget(this);
  m_start = new StartPage(m_actions, m_files->presets(), this);
  connect(m_start, &StartPage::startAsked, m_files.get(), &ProjectFiles::startNew);
  connect(m_start, &StartPage::openAsked, this, [this](const QString& path) {
    if (m_files->mayDiscard()) m_files->open(path);
  });
  m_pages->addWidget(m_start);
  m_pages->addWidget(page);
  m_pages->addWidget(m_footage);
  m_pages->addWidget(m_bench);
  m_pages->addWidget(m_spec);
  m_pages->addWidget(m_dispatch);
  m_pages->addWidget(m_watching);
  m_top = new TopBar(m_document, m_preflight, m_import, m_measuring, m_framing, m_actions, this);
  auto* all = new QWidget(this);
  auto* column = new QVBoxLayout(all);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(0);
  column->addWidget(m_top);
  m_offer = new OfferBar(m_document, all);
  column->addWidget(m_offer);
  m_questions = new QuestionBar(m_session, m_framing, m_fills, m_posters, m_actions, all);
  column->addWidget(m_questions);
  column->addWidget(m_pages, 1);
  m_findings = new FindingsPanel(m_session, m_preflight, all);
  m_findings->setVisible(false);
  column->addWidget(m_findings);
  setCentralWidget(all);
  placeOrder();
}

/// Puts the running order above the views or below them, as it is wished.
void MainWindow::placeOrder() {
  auto* column = static_cast<QBoxLayout*>(centralWidget()->layout());
  column->removeWidget(m_order);
  column->insertWidget(column->indexOf(m_pages) + (Settings::orderAbove() ? 0 : 1), m_order);
}

void MainWindow::connectAll() {
  connect(m_order, &OrderView::exportRegionRequested, this, &MainWindow::showExport);
  connect(m_footage, &FootageView::lookForMissingRequested, m_files.get(), &ProjectFiles::lookForMissing);
  connect(m_footage, &FootageView::filesDropped, this, &MainWindow::bringIn);
  connect(&m_bench->results(), &BenchResults::elementAsked, m_order, &OrderView::chooseElement);
  connect(m_sheet, &SheetView::cellActivated, this, [this] { showView(View::Bench); });
  connect(&m_preflight, &PreflightService::changed, this, [this] {
    const auto& [errors, warnings, notes] = m_preflight.all();
    m_actions.setText("show-preflight", errors > 0     ? tr("Prefl&ight: %n errors", nullptr, errors)
                                        : warnings > 0 ? tr("Prefl&ight: %n warnings", nullptr, warnings)
                                                       : tr("Prefl&ight"));
  });
  m_preflight.setSamples(m_spec->samples());
  m_model.setPreflight(m_preflight);
  m_spec->setPreflight(m_preflight);
  m_bench->setPreflight(m_preflight);
  m_bench->setFound(m_framing);
  connect(m_findings, &FindingsPanel::shotAsked, this, [this] { showView(View::Bench); });
  connect(m_findings, &FindingsPanel::deliverableAsked, this, [this] { showView(View::Spec); });
  connect(m_edit.get(), &EditActions::specAsked, this, [this] { showView(View::Spec); });
  connect(m_files.get(), &ProjectFiles::complained, this, &MainWindow::complain);
  connect(m_files.get(), &ProjectFiles::holdChanged, this, &MainWindow::refreshTitle);
  connect(m_files.get(), &ProjectFiles::holdChanged, this, &MainWindow::keepPicture);
  connect(&m_posters, &PosterService::ready, this, [this] {
    if (m_pictured != m_document.path()) keepPicture();
  });
  connect(&m_lights, &LightService::failed, this, &MainWindow::complain);
  connect(&m_import, &FootageImport::finished, this, &MainWindow::refresh);
  connect(&m_import, &FootageImport::refused, this, [this](const QStringList& reasons) {
    complain(tr("Not brought in:\n\n%1").arg(reasons.mid(0, 12).join(QStringLiteral("\n"))) +
             (reasons.size() > 12 ? tr("\n… and %1 more").arg(reasons.size() - 12) : QString()));
  });
  connect(&m_document, &Document::aboutToReset, this, [this] { m_exportFolder.clear(); });
  connect(&m_dispatch->form(), &SendForm::folderChanged, this, [this] {
    const QString folder = m_dispatch->form().folder();
    if (folder == exportFolder()) return;
    m_exportFolder = folder;
    Settings::setExportFolder(folder);
    m_preflight.setFolder(folder);
  });
  connect(m_dispatch, &DispatchView::watchWanted, this,
          [this](const QString& path, const std::string& deliverable, const Rational& begin, double at) {
            m_watch.watchFile(path, deliverable, begin);
            showView(View::Watch);
            m_session.setPlayhead(begin + Rational(std::llround(at * 1000), 1000));
          });
  connect(&m_queue, &QueueService::changed, this, [this] {
    const int left = m_queue.left();
    m_actions.setText("view-dispatch", left > 0 ? tr("&Dispatch (%1)").arg(left) : tr("&Dispatch"));
  });
  connect(&m_document, &Document::identityChanged, this, &MainWindow::refreshTitle);
  connect(&m_session, &Session::selectionChanged, &m_actions, &Actions::refresh);
  connect(&m_document, &Document::reset, this, &MainWindow::refresh); // after the session has heard of it
  connect(&m_model, &QAbstractItemModel::dataChanged, this, &MainWindow::refreshSoon);
  connect(&m_model, &QAbstractItemModel::rowsInserted, this, &MainWindow::refreshSoon);
  connect(&m_model, &QAbstractItemModel::rowsRemoved, this, &MainWindow::refreshSoon);
  connect(&m_model, &QAbstractItemModel::columnsInserted, this, &MainWindow::refreshSoon);
  connect(&m_model, &QAbstractItemModel::columnsRemoved, this, &MainWindow::refreshSoon);
  connect(&m_document, &Document::sourcesInserted, this, &MainWindow::refreshSoon);
  connect(&m_document, &Document::sourcesRemoved, this, &MainWindow::refreshSoon);
}

void MainWindow::refreshTitle() {
  setWindowTitle((m_files->elsewhere() ? tr("%1[*] (open in another window too) – Tromb") : tr("%1[*] – Tromb"))
                     .arg(m_document.title()));
  setWindowModified(m_document.modified());
  m_preflight.setFolder(exportFolder());
  m_dispatch->form().setFolder(exportFolder());
  m_top->refresh();
}

void MainWindow::showView(View view) {
  if (view == View::Watch && m_view != View::Watch) m_watchedFrom = m_view;
  if (view != View::Watch) setFullScreen(false);
  m_view = view;
  refresh();
  focusView();
}

/// Gives the focus to the main widget of the view.
void MainWindow::focusView() {
  QWidget* at = m_pages->currentWidget();
  if (at == m_bench)
    at = &m_bench->canvas();
  else if (at->isAncestorOf(m_sheet))
    at = m_sheet;
  at->setFocus(Qt::ShortcutFocusReason);
}

bool MainWindow::exportable() const {
  return !m_document.project().shots.empty() && !m_document.project().deliverables.empty();
}

void MainWindow::refreshSoon() {
  // One edit sends many signals; the window refreshes once.
  if (std::exchange(m_refreshing, true)) return;
  QMetaObject::invokeMethod(
      this,
      [this] {
        m_refreshing = false;
        refresh();
      },
      Qt::QueuedConnection);
}

void MainWindow::refresh() {
  const Project& project = m_document.project();
  const bool nothing = project.shots.empty() && project.deliverables.empty() && project.sources.empty();
  const char* const names[] = {"view-footage", "view-sheet", "view-bench", "view-spec", "view-dispatch", "watch"};
  m_actions.at(names[int(m_view)])->setChecked(true);
  m_pages->setCurrentIndex(m_view == View::Sources                                 ? 2
                           : m_view == View::Bench && exportable()                 ? 3
                           : m_view == View::Spec && !project.deliverables.empty() ? 4
                           : m_view == View::Dispatch                              ? 5
                           : m_view == View::Watch && exportable()                 ? 6
                           : nothing                                               ? 0
                                                                                   : 1);
  // What is specified does not depend on the moment: the room is for its consequences.
  m_order->setVisible(m_actions.at("show-order")->isChecked() && m_pages->currentWidget() != m_spec &&
                      m_pages->currentWidget() != m_dispatch && !m_fullScreen &&
                      (!project.shots.empty() || m_view == View::Sources));
  m_order->setSlim(m_pages->currentWidget() == m_bench || m_pages->currentWidget() == m_watching);
  m_top->refresh();
  m_actions.refresh();
}

/// Keeps a picture of the project for the page that lists those of late, once there is one.
void MainWindow::keepPicture() {
  if (m_document.path().isEmpty() || m_document.project().shots.empty()) return;
  const Poster* poster = m_posters.poster(0);
  if (!poster) return;
  keepProjectPicture(m_document.path(), poster->atLeast(256));
  m_pictured = m_document.path();
}

bool MainWindow::settled() const {
  return !m_refreshing && m_questions->settled() && !m_preflight.busy() && !m_import.busy() && !m_measuring.busy() &&
         !m_framing.busy() && m_posters.idle() && m_elements.idle() && m_strips.idle() && m_waveforms.idle() &&
         (m_view != View::Bench || m_bench->settled()) && (m_view != View::Dispatch || m_dispatch->settled()) &&
         !m_watch.busy();
}

void MainWindow::complain(const QString& text) {
  auto* box = new QMessageBox(QMessageBox::Warning, tr("Tromb"), text, QMessageBox::Ok, this);
  box->setAttribute(Qt::WA_DeleteOnClose);
  box->setObjectName(QStringLiteral("complaint"));
  box->open();
}

void MainWindow::bringIn(const QStringList& paths) {
  if (paths.isEmpty()) return;
  const bool footage = m_view == View::Sources;
  m_import.bringIn(paths, footage ? Document::AsShots::No : Document::AsShots::Yes,
                   footage ? m_footage->shownGroup() : std::string());
}

/// Returns the folder that was chosen for this project, else the one beside the project, else that of the last export.
QString MainWindow::exportFolder() const {
  if (!m_exportFolder.isEmpty()) return m_exportFolder;
  if (!m_document.path().isEmpty()) return QFileInfo(m_document.path()).path() + QStringLiteral("/exports");
  const QString last = Settings::exportFolder();
  return last.isEmpty() ? QStandardPaths::writableLocation(QStandardPaths::MoviesLocation) : last;
}

void MainWindow::showExport(const QString& region) {
  if (!exportable()) return;
  m_dispatch->form().setRegion(region);
  showView(View::Dispatch);
  m_dispatch->toSending();
}

void MainWindow::closeEvent(QCloseEvent* event) {
  if (!m_files->mayDiscard()) {
    event->ignore();
    return;
  }
  keepPicture();
  m_files->closed();
  Settings::setLeft(QStringLiteral("window"), saveGeometry());
  event->accept();
}

void MainWindow::dragEnterEvent(QDragEnterEvent* event) {
  if (event->mimeData()->hasUrls()) event->acceptProposedAction();
}

void MainWindow::dropEvent(QDropEvent* event) {
  QStringList files;
  for (const QUrl& url : event->mimeData()->urls())
    if (url.isLocalFile()) files << url.toLocalFile();
  event->acceptProposedAction();
  if (files.size() == 1 && files.first().endsWith(QStringLiteral(".tromb"))) {
    if (m_files->mayDiscard()) m_files->open(files.first());
    return;
  }
  bringIn(files);
}

} // namespace tromb
