// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/shell/MainWindow.h"

#include "app/bench/BenchView.h"
#include "app/bench/FramingDialog.h"
#include "app/dispatch/ExportDialog.h"
#include "app/footage/FootageView.h"
#include "app/order/CutReview.h"
#include "app/order/OrderView.h"
#include "app/sheet/CellStrip.h"
#include "app/sheet/SheetView.h"
#include "app/shell/Folders.h"
#include "app/shell/OfferBar.h"
#include "app/shell/RecoveryDialog.h"
#include "app/shell/StartPage.h"
#include "app/shell/TemplateDialog.h"
#include "app/spec/DeliverableDialog.h"
#include "app/style/ElidedLabel.h"
#include "app/style/Icons.h"
#include "destination/Destination.h"
#include "destination/NewDeliverable.h"

#include <QActionGroup>
#include <QApplication>
#include <QCloseEvent>
#include <QDir>
#include <QDropEvent>
#include <QFileDialog>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QInputDialog>
#include <QLabel>
#include <QMenuBar>
#include <QMessageBox>
#include <QMimeData>
#include <QProgressBar>
#include <QProgressDialog>
#include <QPushButton>
#include <QSettings>
#include <QStackedWidget>
#include <QStandardPaths>
#include <QToolButton>
#include <QVBoxLayout>
#include <algorithm>
#include <tuple>
#include <utility>

namespace tromb {
namespace {

constexpr int kMostRecent = 8;
const QString kRecentKey = QStringLiteral("recentProjects");
const QString kFolderKey = QStringLiteral("exportFolder");
const QString kThemeKey = QStringLiteral("theme");
const QString kLightLimitKey = QStringLiteral("lighterCopiesGigabytes");
constexpr int kLightGigabytes = 20;

/// True where both name the same file, which is there.
bool sameFile(const QString& a, const QString& b) {
  const QString canonical = QFileInfo(a).canonicalFilePath();
  return !canonical.isEmpty() && canonical == QFileInfo(b).canonicalFilePath();
}

} // namespace

MainWindow::MainWindow(const Project* next)
    : m_model(m_document), m_session(m_document), m_posters(m_document, cacheFolder("posters")), m_strips(m_document),
      m_waveforms(m_document, cacheFolder("waveforms")), m_import(m_document, cacheFolder("indexes")),
      m_measuring(m_document, cacheFolder("measured")),
      m_lights(m_document, cacheFolder("lighter"),
               QSettings().value(kLightLimitKey, kLightGigabytes).toLongLong() * 1'000'000'000),
      m_recovery(m_document, recoveryFolder()), m_templates(templateFolder().toStdString()),
      m_savedFramings(framingFolder().toStdString()) {
  if (next) m_import.lookAhead(*next);
  qApp->installEventFilter(&m_typedKeys);
  setObjectName(QStringLiteral("mainWindow"));
  setAcceptDrops(true);
  resize(1280, 800);
  setMinimumSize(860, 520);
  m_sheet = new SheetView(m_session, m_model, m_posters, this);
  m_order = new OrderView(m_session, m_posters, m_waveforms, this);
  m_footage = new FootageView(m_document, m_strips, m_lights, this);
  m_bench = new BenchView(m_session, m_posters, this);
  buildActions();
  buildMenus();

  auto* page = new QWidget(this);
  auto* rows = new QVBoxLayout(page);
  rows->setContentsMargins(0, 0, 0, 0);
  rows->setSpacing(0);
  rows->addWidget(m_sheet, 1);
  rows->addWidget(new CellStrip(m_session, *m_sheet, m_framing, page));
  m_pages = new QStackedWidget(this);
  m_pages->addWidget(new StartPage(m_bringIn, m_open, this));
  m_pages->addWidget(page);
  m_pages->addWidget(m_footage);
  m_pages->addWidget(m_bench);
  auto* all = new QWidget(this);
  auto* column = new QVBoxLayout(all);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(0);
  column->addWidget(buildTopBar());
  column->addWidget(new OfferBar(m_document, all));
  column->addWidget(m_pages, 1);
  column->addWidget(m_order);
  setCentralWidget(all);
  connect(m_order, &OrderView::splitAtCutsRequested, this, &MainWindow::splitAtCuts);
  connect(m_order, &OrderView::exportRegionRequested, this, &MainWindow::showExport);
  connect(m_footage, &FootageView::addRequested, this, &MainWindow::addFromFootage);
  connect(m_footage, &FootageView::layUnderRequested, this, &MainWindow::layUnder);
  connect(m_footage, &FootageView::lookForMissingRequested, this, &MainWindow::lookForMissing);
  connect(m_footage, &FootageView::filesDropped, this, &MainWindow::bringIn);
  connect(&m_measuring, &MeasureService::progress, this, &MainWindow::refreshBusy);
  connect(&m_lights, &LightService::failed, this, &MainWindow::complain);
  connect(&m_recovery, &RecoveryKeeper::failed, this, &MainWindow::complain);
  connect(&m_files, &FileRun::failed, this, [this](const Error& error) {
    if (error.code != ErrorCode::Cancelled) complain(QString::fromStdString(sentence(error)));
  });

  connect(m_sheet, &QAbstractItemView::doubleClicked, this, [this](const QModelIndex& index) {
    if (index.isValid()) showView(View::Bench);
  });
  connect(m_sheet, &SheetView::deliverableActivated, this, &MainWindow::editDeliverable);
  connect(m_sheet, &SheetView::shotRenameRequested, this, &MainWindow::renameShot);
  connect(&m_session, &Session::selectionChanged, this, &MainWindow::refreshState);
  connect(&m_document, &Document::aboutToReset, this, [this] { m_exportFolder.clear(); });
  connect(&m_document, &Document::identityChanged, this, &MainWindow::refreshIdentity);
  connect(&m_model, &QAbstractItemModel::modelReset, this, &MainWindow::refreshState);
  connect(&m_model, &QAbstractItemModel::dataChanged, this, &MainWindow::refreshSoon);
  connect(&m_model, &QAbstractItemModel::rowsInserted, this, &MainWindow::refreshSoon);
  connect(&m_model, &QAbstractItemModel::rowsRemoved, this, &MainWindow::refreshSoon);
  connect(&m_model, &QAbstractItemModel::columnsInserted, this, &MainWindow::refreshSoon);
  connect(&m_model, &QAbstractItemModel::columnsRemoved, this, &MainWindow::refreshSoon);
  connect(&m_document, &Document::sourcesInserted, this, &MainWindow::refreshSoon);
  connect(&m_document, &Document::sourcesRemoved, this, &MainWindow::refreshSoon);
  connect(&m_import, &FootageImport::progress, this, [this](int done, int every, const QString& file) {
    m_busy->setRange(0, every);
    m_busy->setValue(done);
    m_busyWords->setText(tr("looking at %1 of %2").arg(std::min(done + 1, every)).arg(every));
    m_busy->setToolTip(QFileInfo(file).fileName());
    m_stopImport->setVisible(m_import.bringing());
    refreshBusy();
  });
  connect(&m_import, &FootageImport::finished, this, [this] {
    m_stopImport->setVisible(false);
    refreshBusy();
    refreshState();
  });
  connect(&m_import, &FootageImport::refused, this, [this](const QStringList& reasons) {
    complain(tr("Not brought in:\n\n%1").arg(reasons.mid(0, 12).join(QStringLiteral("\n"))) +
             (reasons.size() > 12 ? tr("\n… and %1 more").arg(reasons.size() - 12) : QString()));
  });
  refreshIdentity();
  refreshState();
}

MainWindow::~MainWindow() = default;

QAction* MainWindow::action(const QString& text, const QString& iconName, const QKeySequence& keys,
                            const std::function<void()>& run) {
  auto* made = new QAction(iconName.isEmpty() ? QIcon() : icon(iconName), text, this);
  made->setShortcut(keys);
  QString tip = QString(text).remove(QLatin1Char('&'));
  if (!keys.isEmpty()) tip += QStringLiteral(" (%1)").arg(keys.toString(QKeySequence::NativeText));
  made->setToolTip(tip);
  connect(made, &QAction::triggered, this, run);
  addAction(made);
  return made;
}

void MainWindow::buildActions() {
  m_new = action(tr("&New project"), {}, QKeySequence::New, [this] {
    Project project;
    for (const SavedTemplate& each : m_templates.all())
      if (each.name == m_templates.defaultName()) project = each.project;
    startNewFrom(project);
  });
  m_open = action(tr("&Open a project …"), QStringLiteral("folder-open"), QKeySequence::Open, [this] { openAsked(); });
  m_save = action(tr("&Save"), QStringLiteral("save"), QKeySequence::Save, [this] { save(); });
  m_saveAs = action(tr("Save &as …"), {}, QKeySequence::SaveAs, [this] { saveAs(); });
  m_bringIn = action(tr("&Bring in footage …"), QStringLiteral("film"), QKeySequence(Qt::CTRL | Qt::Key_B), [this] {
    bringIn(QFileDialog::getOpenFileNames(this, tr("Bring in footage"),
                                          QStandardPaths::writableLocation(QStandardPaths::MoviesLocation)));
  });
  m_bringIn->setIconText(tr("Bring in …"));
  m_addShape = action(tr("Add a s&hape …"), QStringLiteral("plus"), QKeySequence(Qt::CTRL | Qt::Key_D),
                      [this] { addDeliverable(); });
  m_addShape->setIconText(tr("Shape …"));
  m_exportAction =
      action(tr("&Export …"), QStringLiteral("download"), QKeySequence(Qt::CTRL | Qt::Key_E), [this] { showExport(); });
  m_framing = {
      action(tr("&Fill the canvas"), QStringLiteral("maximize"), QKeySequence(Qt::Key_F),
             [this] { m_sheet->applyLayout("fill", tr("Fill")); }),
      action(tr("Show the &whole picture"), QStringLiteral("minimize"), QKeySequence(Qt::Key_W),
             [this] { m_sheet->applyLayout("fit", tr("Whole picture")); }),
      action(tr("&Two stacked"), QStringLiteral("rows-2"), QKeySequence(Qt::Key_2),
             [this] { m_sheet->applyLayout("stack2", tr("Two stacked")); }),
      action(tr("T&hree stacked"), QStringLiteral("rows-3"), QKeySequence(Qt::Key_3),
             [this] { m_sheet->applyLayout("stack3", tr("Three stacked")); }),
      action(tr("Over a &backdrop"), QStringLiteral("layers"), QKeySequence(Qt::Key_B),
             [this] { m_sheet->applyLayout("backdrop", tr("Backdrop")); }),
      action(tr("&Centre"), QStringLiteral("crosshair"), QKeySequence(Qt::Key_C),
             [this] { m_sheet->centreSelected(); }),
      action(tr("Zoom &in"), QStringLiteral("zoom-in"), QKeySequence(Qt::Key_Plus), [this] { m_sheet->zoomBy(1.05); }),
      action(tr("Zoom &out"), QStringLiteral("zoom-out"), QKeySequence(Qt::Key_Minus),
             [this] { m_sheet->zoomBy(1 / 1.05); }),
  };
  // Plain letters belong to the sheet, not to fields that are typed into.
  const QString short_[] = {tr("Fill"),     tr("Whole"),  tr("Two"),    tr("Three"),
                            tr("Backdrop"), tr("Centre"), tr("Closer"), tr("Wider")};
  for (int i = 0; i < m_framing.size(); ++i) m_framing[i]->setIconText(short_[i]);
  for (QAction* framing : m_framing) {
    framing->setShortcutContext(Qt::WidgetShortcut);
    m_sheet->addAction(framing);
  }
}

void MainWindow::buildMenus() {
  QMenu* project = menuBar()->addMenu(tr("&Project"));
  project->addAction(m_new);
  m_newFrom = project->addMenu(tr("New from a &template"));
  connect(m_newFrom, &QMenu::aboutToShow, this, &MainWindow::fillNewMenu);
  project->addAction(action(tr("New &window"), {}, QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_N), [] {
    auto* window = new MainWindow;
    window->setAttribute(Qt::WA_DeleteOnClose);
    window->show();
  }));
  project->addAction(m_open);
  m_recent = project->addMenu(tr("Open &recent"));
  project->addSeparator();
  project->addActions({m_save, m_saveAs});
  m_collect = action(tr("&Collect with all footage …"), QStringLiteral("hard-drive"), {}, [this] { collectProject(); });
  project->addAction(m_collect);
  project->addAction(
      action(tr("Project te&mplates …"), {}, {}, [this] { TemplateDialog(m_document, m_templates, this).exec(); }));
  project->addAction(action(tr("Start new projects &like this one"), {}, {}, [this] {
    const std::string name = m_document.title().toStdString();
    Status done = m_templates.save(name, m_document.project(), true);
    if (done) done = m_templates.setDefault(name);
    if (!done) complain(QString::fromStdString(sentence(done.error())));
  }));
  project->addSeparator();
  project->addAction(m_exportAction);
  project->addSeparator();
  project->addAction(action(tr("&Quit"), {}, QKeySequence::Quit, [this] { close(); }));

  QMenu* edit = menuBar()->addMenu(tr("&Edit"));
  QAction* undo = m_document.undoStack().createUndoAction(this, tr("&Undo"));
  undo->setShortcut(QKeySequence::Undo);
  undo->setIcon(icon(QStringLiteral("undo-2")));
  QAction* redo = m_document.undoStack().createRedoAction(this, tr("&Redo"));
  redo->setShortcut(QKeySequence::Redo);
  redo->setIcon(icon(QStringLiteral("redo-2")));
  edit->addActions({undo, redo});
  edit->addSeparator();
  edit->addAction(action(tr("Re&move what is selected"), QStringLiteral("trash-2"), QKeySequence::Delete,
                         [this] { removeFocused(); }));
  m_onSheet << action(tr("Remove the selected &deliverables"), {}, QKeySequence(Qt::CTRL | Qt::Key_Delete),
                      [this] { removeSelected(false); });
  edit->addAction(m_onSheet.back());
  edit->addSeparator();
  edit->addAction(action(tr("Move shot &earlier"), QStringLiteral("arrow-up"),
                         QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_Up), [this] { moveSelectedShot(-1); }));
  edit->addAction(action(tr("Move shot &later"), QStringLiteral("arrow-down"),
                         QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_Down), [this] { moveSelectedShot(1); }));
  edit->addAction(action(tr("Re&name …"), QStringLiteral("pencil"), QKeySequence(Qt::Key_F2), [this] {
    const auto rows = m_session.shots();
    if (m_view == View::Sources && m_footage->hasListFocus())
      m_footage->renameSelected();
    else if (m_order->strip().hasFocus() && !rows.empty())
      renameShot(rows.front());
    else if (m_view != View::Sources)
      renameShot(m_view == View::Bench ? m_bench->bench().row() : m_sheet->currentIndex().row());
  }));
  edit->addAction(action(tr("Chan&ge deliverable …"), {}, QKeySequence(Qt::SHIFT | Qt::Key_F2),
                         [this] { editDeliverable(m_sheet->currentIndex().column()); }));

  QMenu* add = menuBar()->addMenu(tr("&Add"));
  add->addActions({m_bringIn, m_addShape});
  m_onFootage = {action(tr("The &stretch as a shot"), {}, QKeySequence(Qt::CTRL | Qt::Key_Return),
                        [this] { addFromFootage(false); }),
                 action(tr("Its sound &under the running order"), {}, {}, [this] { layUnder(); })};
  add->addActions(m_onFootage);
  add->addSeparator();
  add->addAction(action(tr("New &group of footage"), QStringLiteral("folder-plus"), {}, [this] {
    showView(View::Sources);
    m_footage->newGroup();
  }));
  QMenu* order = menuBar()->addMenu(tr("&Running order"));
  order->addActions(m_order->commands());
  const auto onSheet = [this](QMenu* menu, const QString& text, const QKeySequence& keys,
                              const std::function<void()>& run) {
    QAction* made = action(text, {}, keys, run);
    made->setShortcutContext(Qt::WidgetShortcut);
    m_sheet->addAction(made);
    menu->addAction(made);
    m_onSheet << made;
  };
  QMenu* framing = menuBar()->addMenu(tr("&Framing"));
  framing->addActions(m_framing);
  framing->addSeparator();
  onSheet(framing, tr("Co&py the framing"), QKeySequence::Copy, [this] { m_sheet->copyFraming(); });
  onSheet(framing, tr("P&aste all of the framing"), QKeySequence::Paste,
          [this] { m_sheet->pasteFraming(FramingPart::All); });
  QMenu* part = framing->addMenu(tr("Paste o&nly"));
  onSheet(part, tr("Paste its &place only"), {}, [this] { m_sheet->pasteFraming(FramingPart::Position); });
  onSheet(part, tr("Paste its &zoom only"), {}, [this] { m_sheet->pasteFraming(FramingPart::Zoom); });
  onSheet(part, tr("Paste its &layout only"), {}, [this] { m_sheet->pasteFraming(FramingPart::Arrangement); });
  onSheet(part, tr("Paste its &move only"), {}, [this] { m_sheet->pasteFraming(FramingPart::Keys); });
  QMenu* spread = framing->addMenu(tr("&Spread the framing"));
  onSheet(spread, tr("To all &shapes of this shot"), {}, [this] { m_sheet->spreadFraming(SheetView::Spread::Row); });
  onSheet(spread, tr("To all s&hots of this shape"), {}, [this] { m_sheet->spreadFraming(SheetView::Spread::Column); });
  onSheet(spread, tr("To &every shot of the same source"), {},
          [this] { m_sheet->spreadFraming(SheetView::Spread::SameSource); });
  onSheet(framing, tr("As the shot befor&e"), QKeySequence(Qt::Key_V), [this] { m_sheet->takeFromBefore(); });
  framing->addAction(
      action(tr("Sa&ved framings …"), {}, QKeySequence(Qt::CTRL | Qt::Key_G), [this] { showSavedFramings(); }));
  framing->addSeparator();
  framing->addActions(m_bench->commands(BenchView::Menu::Framing));

  QMenu* subject = menuBar()->addMenu(tr("S&ubject"));
  subject->addActions(m_bench->commands(BenchView::Menu::Subject));
  onSheet(subject, tr("Follow the &subject"), QKeySequence(Qt::Key_G), [this] { m_sheet->followSelected(); });
  subject->addAction(action(tr("Su&ggest subject points"), QStringLiteral("crosshair"), {}, [this] {
    showView(View::Bench);
    m_bench->suggestSubjects();
  }));
  menuBar()->addMenu(tr("&Move"))->addActions(m_bench->commands(BenchView::Menu::Moving));
  menuBar()->addMenu(tr("P&icture"))->addActions(m_bench->commands(BenchView::Menu::Picture));

  QMenu* view = menuBar()->addMenu(tr("&View"));
  view->addAction(action(tr("&Footage"), QStringLiteral("film"), QKeySequence(Qt::CTRL | Qt::Key_1),
                         [this] { showView(View::Sources); }));
  view->addAction(action(tr("&Contact sheet"), QStringLiteral("columns-3"), QKeySequence(Qt::CTRL | Qt::Key_2),
                         [this] { showView(View::Sheet); }));
  view->addAction(action(tr("&Bench"), QStringLiteral("scan"), QKeySequence(Qt::CTRL | Qt::Key_4),
                         [this] { showView(View::Bench); }));
  m_showOrder = action(tr("Running &order"), {}, QKeySequence(Qt::CTRL | Qt::Key_3), [this] { refreshState(); });
  m_showOrder->setCheckable(true);
  m_showOrder->setChecked(true);
  view->addAction(m_showOrder);
  view->addSeparator();
  view->addAction(action(tr("&Lighter copies …"), {}, {}, [this] { showLightCopies(); }));
  view->addSeparator();
  auto* themes = new QActionGroup(this);
  const std::pair<ThemeChoice, QString> choices[] = {{ThemeChoice::AsDesktop, tr("Theme as the &desktop")},
                                                     {ThemeChoice::Day, tr("D&ay theme")},
                                                     {ThemeChoice::Dusk, tr("Dus&k theme")}};
  for (const auto& [choice, text] : choices) {
    QAction* made = action(text, {}, {}, [this, choice = choice] { chooseTheme(choice); });
    made->setCheckable(true);
    made->setChecked(Theme::choice() == choice);
    themes->addAction(made);
    view->addAction(made);
  }
  refreshRecent();
}

QWidget* MainWindow::buildTopBar() {
  auto* bar = new QWidget(this);
  bar->setProperty("bar", true);
  bar->setAttribute(Qt::WA_StyledBackground);
  auto* row = new QHBoxLayout(bar);
  row->setContentsMargins(12, 6, 10, 8);
  row->setSpacing(10);
  m_name = new ElidedLabel(bar);
  m_name->setProperty("rank", "title");
  m_saved = new QLabel(bar);
  m_saved->setProperty("rank", "faint");
  m_state = new QLabel(bar);
  m_busy = new QProgressBar(bar);
  m_busy->setFixedWidth(140);
  m_busy->setTextVisible(false);
  m_busy->setVisible(false);
  m_busy->setAccessibleName(tr("Looking at footage"));
  m_busyWords = new QLabel(bar);
  m_busyWords->setProperty("rank", "faint");
  m_stopImport = new QToolButton(bar);
  m_stopImport->setIcon(icon(QStringLiteral("x")));
  m_stopImport->setAccessibleName(tr("Stop looking at files"));
  m_stopImport->setToolTip(tr("Stop; nothing of it is brought in"));
  m_stopImport->setAutoRaise(true);
  m_stopImport->setFocusPolicy(Qt::TabFocus);
  m_stopImport->setVisible(false);
  connect(m_stopImport, &QToolButton::clicked, this, [this] {
    m_import.stopBringingIn();
    m_stopImport->setVisible(false);
    refreshBusy();
  });
  row->addWidget(m_name);
  row->addWidget(m_saved);
  row->addSpacing(10);
  const std::pair<QToolButton**, QString> views[] = {
      {&m_toFootage, tr("Footage")}, {&m_toSheet, tr("Contact sheet")}, {&m_toBench, tr("Bench")}};
  for (const auto& [button, text] : views) {
    *button = new QToolButton(bar);
    (*button)->setText(text);
    (*button)->setCheckable(true);
    (*button)->setFocusPolicy(Qt::TabFocus);
    row->addWidget(*button);
  }
  m_toFootage->setToolTip(tr("What was brought in, and what follows from it (Ctrl+1)"));
  m_toSheet->setToolTip(tr("Every shot in every shape (Ctrl+2)"));
  m_toBench->setToolTip(tr("One shot, large, for all shapes (Ctrl+4)"));
  connect(m_toBench, &QToolButton::clicked, this, [this] { showView(View::Bench); });
  connect(m_toFootage, &QToolButton::clicked, this, [this] { showView(View::Sources); });
  connect(m_toSheet, &QToolButton::clicked, this, [this] { showView(View::Sheet); });
  row->addStretch(1);
  row->addWidget(m_busyWords);
  row->addWidget(m_busy);
  row->addWidget(m_stopImport);
  row->addWidget(m_state);
  for (QAction* each : {m_bringIn, m_addShape}) {
    auto* button = new QPushButton(each->icon(), each->iconText(), bar);
    button->setAccessibleName(QString(each->text()).remove(QLatin1Char('&')));
    button->setToolTip(each->toolTip());
    connect(button, &QPushButton::clicked, each, &QAction::trigger);
    row->addWidget(button);
  }
  m_export = new QPushButton(icon(QStringLiteral("download"), Ink::OnAccent), tr("Export …"), bar);
  m_export->setProperty("main", true);
  m_export->setToolTip(m_exportAction->toolTip());
  connect(m_export, &QPushButton::clicked, m_exportAction, &QAction::trigger);
  row->addWidget(m_export);
  return bar;
}

void MainWindow::refreshIdentity() {
  const QString title = m_document.title();
  m_name->setText(title);
  m_saved->setText(m_document.modified() ? tr("not saved yet") : m_document.path().isEmpty() ? QString() : tr("saved"));
  setWindowTitle(
      (m_hold.elsewhere ? tr("%1[*] (open in another window too) – Tromb") : tr("%1[*] – Tromb")).arg(title));
  setWindowModified(m_document.modified());
}

void MainWindow::showView(View view) {
  m_view = view;
  refreshState();
  if (view == View::Sheet)
    m_sheet->setFocus();
  else if (view == View::Bench)
    m_bench->canvas().setFocus();
  else
    m_footage->setFocus();
}

void MainWindow::showSavedFramings() {
  const bool bench = m_view == View::Bench;
  const QModelIndex at = m_sheet->currentIndex();
  std::optional<Cell> current;
  if (bench && m_bench->bench().media())
    current = m_bench->bench().cell(m_bench->bench().column());
  else if (!bench && at.isValid())
    current = m_document.cell({at.row(), at.column()});
  const auto apply = [this, bench](const Framing& framing) {
    if (bench)
      m_bench->bench().placing().apply(shifted(framing, m_bench->bench().shot()->in), tr("A saved framing"));
    else
      m_sheet->change(tr("A saved framing"), [&framing](const Cell& cell) { return shifted(framing, cell.in); });
  };
  // Moves are kept from the shot's beginning, so that they begin so in any other.
  std::optional<Framing> kept;
  if (current) kept = shifted(current->framing, Rational(0) - current->in);
  FramingDialog(kept, m_savedFramings, apply, this).exec();
}

void MainWindow::refreshSoon() {
  // Once for all signals of an edit.
  if (std::exchange(m_refreshing, true)) return;
  QMetaObject::invokeMethod(
      this,
      [this] {
        m_refreshing = false;
        refreshState();
      },
      Qt::QueuedConnection);
}

void MainWindow::refreshBusy() {
  const bool looking = m_import.busy();
  const int measuring = m_measuring.left();
  m_busy->setVisible(looking);
  m_busyWords->setVisible(looking || measuring > 0);
  if (!looking && measuring > 0)
    m_busyWords->setText(counted(measuring, tr("measuring 1 source"), tr("measuring %1 sources")));
}

void MainWindow::refreshState() {
  const Project& project = m_document.project();
  const bool empty = project.shots.empty() && project.deliverables.empty();
  const bool exportable = !project.shots.empty() && !project.deliverables.empty();
  m_toFootage->setChecked(m_view == View::Sources);
  m_toSheet->setChecked(m_view == View::Sheet);
  m_toBench->setChecked(m_view == View::Bench);
  m_pages->setCurrentIndex(m_view == View::Sources               ? 2
                           : m_view == View::Bench && exportable ? 3
                           : empty && project.sources.empty()    ? 0
                                                                 : 1);
  m_order->setVisible(m_showOrder->isChecked() && (!project.shots.empty() || m_view == View::Sources));
  m_collect->setEnabled(!project.sources.empty());
  m_exportAction->setEnabled(exportable);
  m_export->setEnabled(exportable);
  const int complaints = m_model.complaints();
  m_state->setText(!exportable      ? (empty ? QString()
                                       : project.shots.empty()
                                           ? (project.sources.empty() ? tr("now bring in footage") : tr("now add a shot"))
                                           : tr("now add a shape"))
                   : complaints > 0 ? counted(complaints, tr("1 cell to mend"), tr("%1 cells to mend"))
                                    : tr("no cell complains"));
  colourWords(m_state, complaints > 0 ? statusColour(Cell::State::Soft)
                       : exportable   ? statusColour(Cell::State::Good)
                                      : Theme::current().faint);
  const bool selected = m_view == View::Sheet && !m_session.cells().empty();
  for (QAction* each : m_framing + m_onSheet) each->setEnabled(selected);
  for (QAction* each : m_onFootage) each->setEnabled(m_view == View::Sources);
}

bool MainWindow::settled() const {
  return !m_refreshing && !m_import.busy() && !m_measuring.busy() && m_posters.idle() && m_strips.idle() &&
         m_waveforms.idle() && (m_view != View::Bench || m_bench->settled());
}

void MainWindow::complain(const QString& text) {
  auto* box = new QMessageBox(QMessageBox::Warning, tr("Tromb"), text, QMessageBox::Ok, this);
  box->setAttribute(Qt::WA_DeleteOnClose);
  box->setObjectName(QStringLiteral("complaint"));
  box->open();
}

bool MainWindow::mayDiscard() {
  if (!m_document.modified()) return true;
  QMessageBox box(QMessageBox::Question, tr("Unsaved changes"),
                  tr("'%1' has changes that are not saved.").arg(m_document.title()), QMessageBox::NoButton, this);
  box.setObjectName(QStringLiteral("unsaved"));
  const auto* keep = box.addButton(tr("Save them"), QMessageBox::AcceptRole);
  const auto* drop = box.addButton(tr("Throw them away"), QMessageBox::DestructiveRole);
  box.addButton(tr("Go back"), QMessageBox::RejectRole);
  box.exec();
  if (box.clickedButton() == keep) return save();
  return box.clickedButton() == drop;
}

void MainWindow::startNewFrom(const Project& project) {
  if (!mayDiscard()) return;
  m_recovery.clear();
  m_hold = {};
  m_document.startNew(project);
}

void MainWindow::fillNewMenu() {
  m_newFrom->clear();
  if (destinationData())
    for (const ProjectTemplate& each : destinationData()->templates)
      m_newFrom->addAction(QString::fromStdString(each.name), this, [this, each] {
        Project project;
        for (const std::string& id : each.destinations)
          project.deliverables.push_back(newDeliverable(project, id, nullptr));
        startNewFrom(project);
      });
  m_newFrom->addSeparator();
  for (const SavedTemplate& each : m_templates.all())
    m_newFrom->addAction(QString::fromStdString(each.name), this, [this, each] { startNewFrom(each.project); });
}

std::optional<MainWindow::Hold> MainWindow::askHold(const QString& path) {
  Hold hold;
  hold.lock = ProjectLock::take(path, hold.elsewhere);
  if (!hold.elsewhere) return hold;
  QMessageBox box(QMessageBox::Warning, tr("Open in another window"),
                  tr("'%1' is open in another window. Changes made in both would overwrite each other.")
                      .arg(QFileInfo(path).fileName()),
                  QMessageBox::NoButton, this);
  box.setObjectName(QStringLiteral("elsewhere"));
  const auto* look = box.addButton(tr("Open it, and save under another name"), QMessageBox::AcceptRole);
  box.addButton(tr("Do not open it"), QMessageBox::RejectRole);
  box.exec();
  return box.clickedButton() == look ? std::optional<Hold>(std::move(hold)) : std::nullopt;
}

void MainWindow::openRecovered(const RecoveryCopy& copy) {
  const QString path = QString::fromStdString(copy.projectPath);
  std::optional<Hold> hold = path.isEmpty() ? Hold() : askHold(path);
  if (!hold) return;
  m_hold = std::move(*hold);
  m_document.recover(copy.project, path);
  if (m_recovery.write()) removeCopy(copy); // only once there is another
  m_import.lookAtSources();
}

void MainWindow::offerRecovery() {
  auto copies = abandonedCopies(recoveryFolder().toStdString());
  if (copies.empty()) return;
  auto* dialog = new RecoveryDialog(std::move(copies), this);
  dialog->setAttribute(Qt::WA_DeleteOnClose);
  dialog->setWindowModality(Qt::WindowModal);
  connect(dialog, &QDialog::accepted, this, [this, dialog] {
    if (dialog->toOpen()) openRecovered(*dialog->toOpen());
  });
  dialog->show();
}

bool MainWindow::openProject(const QString& path, std::optional<Project> read) {
  const bool same = sameFile(path, m_document.path());
  std::optional<Hold> hold = same || !QFileInfo::exists(path) ? Hold() : askHold(path);
  if (!hold) {
    if (read) m_import.stopLooking();
    return false;
  }
  if (read) {
    m_document.open(std::move(*read), path);
  } else if (const Status loaded = m_document.load(path); !loaded) {
    complain(QString::fromStdString(sentence(loaded.error())));
    return false; // what was open stays so, and held
  }
  if (!same) m_hold = std::move(*hold);
  m_recovery.clear();
  rememberRecent(m_document.path());
  m_import.lookAtSources();
  refreshIdentity();
  return true;
}

void MainWindow::openAsked() {
  if (!mayDiscard()) return;
  const QString path = QFileDialog::getOpenFileName(this, tr("Open a project"), QFileInfo(m_document.path()).path(),
                                                    tr("Tromb projects (*.tromb)"));
  if (!path.isEmpty()) openProject(path);
}

bool MainWindow::saveTo(const QString& path) {
  const bool moves = m_document.path().isEmpty() || !sameFile(path, m_document.path());
  Hold hold;
  if (moves) hold.lock = ProjectLock::take(path, hold.elsewhere);
  if (hold.elsewhere) {
    complain(tr("'%1' is open in another window, where saving would overwrite this. Save under another name.")
                 .arg(QFileInfo(path).fileName()));
    return false;
  }
  if (!moves && m_document.changedOutside() && !mayOverwrite(path)) return false;
  if (const Status saved = m_document.save(path); !saved) {
    complain(QString::fromStdString(sentence(saved.error())));
    return false;
  }
  if (moves) m_hold = std::move(hold);
  refreshIdentity();
  rememberRecent(m_document.path());
  return true;
}

bool MainWindow::mayOverwrite(const QString& path) {
  QMessageBox box(QMessageBox::Warning, tr("Changed by another program"),
                  tr("'%1' has been changed since it was opened here. Saving replaces those changes.")
                      .arg(QFileInfo(path).fileName()),
                  QMessageBox::NoButton, this);
  box.setObjectName(QStringLiteral("changedOutside"));
  const auto* replace = box.addButton(tr("Replace them"), QMessageBox::DestructiveRole);
  const auto* other = box.addButton(tr("Save under another name …"), QMessageBox::AcceptRole);
  box.addButton(tr("Go back"), QMessageBox::RejectRole);
  box.exec();
  if (box.clickedButton() == other) saveAs();
  return box.clickedButton() == replace;
}

bool MainWindow::save() {
  return m_document.path().isEmpty() || m_hold.elsewhere ? saveAs() : saveTo(m_document.path());
}

bool MainWindow::saveAs() {
  const QString start = m_document.path().isEmpty()
                            ? QDir::home().filePath(m_document.title() + QStringLiteral(".tromb"))
                            : m_document.path();
  QString path = QFileDialog::getSaveFileName(this, tr("Save the project"), start, tr("Tromb projects (*.tromb)"));
  if (path.isEmpty()) return false;
  if (QFileInfo(path).suffix().isEmpty()) path += QStringLiteral(".tromb");
  return saveTo(path);
}

void MainWindow::bringIn(const QStringList& paths) {
  if (paths.isEmpty()) return;
  const bool footage = m_view == View::Sources;
  m_import.bringIn(paths, footage ? Document::AsShots::No : Document::AsShots::Yes,
                   footage ? m_footage->shownGroup() : std::string());
}

void MainWindow::addFromFootage(bool atPlayhead) {
  const Project& project = m_document.project();
  std::vector<Shot> shots;
  for (const int row : m_footage->selectedSources()) {
    const Source& source = project.sources[size_t(row)];
    const Result<MediaInfo>* media = m_document.media(source.id);
    if (!media || !*media || !(*media)->video) continue;
    Shot shot = newShot(project, source, **media);
    if (source.id == m_footage->viewer().source()) std::tie(shot.in, shot.out) = m_footage->viewer().stretch();
    shots.push_back(shot);
  }
  if (shots.empty()) return;
  int at = int(project.shots.size());
  const auto under = m_session.underPlayhead();
  if (atPlayhead && under.row >= 0) {
    // At the nearer end of the shot under the playhead: nothing is cut by adding.
    const Shot& there = project.shots[size_t(under.row)];
    at = (under.sourceTime - there.in) * Rational(2) < there.out - there.in ? under.row : under.row + 1;
  }
  const int count = int(shots.size());
  m_document.addShots(std::move(shots), at);
  std::vector<int> added;
  for (int i = 0; i < count; ++i) added.push_back(at + i);
  m_session.selectShots(added);
}

void MainWindow::layUnder() {
  std::vector<SoundBed> beds = m_document.project().beds;
  for (const int row : m_footage->selectedSources()) {
    const Source& source = m_document.project().sources[size_t(row)];
    const Result<MediaInfo>* media = m_document.media(source.id);
    if (!media || !*media || (*media)->audio.empty()) continue;
    SoundBed bed;
    bed.id = freshId(beds, "b");
    bed.source = source.id;
    bed.start = m_session.playhead();
    bed.out = (*media)->duration;
    bed.fadeIn = std::min(Rational(1, 2), bed.out);
    bed.fadeOut = std::min(Rational(1), bed.out);
    beds.push_back(bed);
  }
  if (beds.size() == m_document.project().beds.size()) return;
  m_document.setBeds(beds, tr("Lay sound under the running order"));
  m_session.selectBed(int(beds.size()) - 1);
}

void MainWindow::splitAtCuts(int row) {
  CutReview review(m_document, row, this);
  if (review.exec() == QDialog::Accepted) m_document.splitShot(row, review.chosenTimes());
}

void MainWindow::lookForMissing() {
  const QString folder = QFileDialog::getExistingDirectory(this, tr("Look for missing files in"));
  if (folder.isEmpty()) return;
  std::vector<Source> missing;
  for (const Source& source : m_document.project().sources)
    if (const auto* media = m_document.media(source.id); media && !*media) missing.push_back(source);
  auto* dialog = new QProgressDialog(tr("Looking for %1 files …").arg(missing.size()), tr("Stop"), 0, 0, this);
  dialog->setAttribute(Qt::WA_DeleteOnClose);
  dialog->setWindowModality(Qt::WindowModal);
  connect(dialog, &QProgressDialog::canceled, &m_files, &FileRun::cancel);
  connect(&m_files, &FileRun::found, dialog, [this, dialog](const std::vector<FoundFile>& files) {
    dialog->close();
    relink(files);
  });
  dialog->show();
  m_files.lookFor(missing, folder);
}

void MainWindow::relink(const std::vector<FoundFile>& files) {
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
                               : counted(int(files.size()), tr("1 file was found."), tr("%1 files were found."));
  if (byName > 0)
    text += QLatin1Char(' ') + tr("%1 of them by name only: look whether they are the right ones.").arg(byName);
  if (left > 0 && !files.empty()) text += QLatin1Char(' ') + tr("%1 are still missing.").arg(left);
  if (files.empty() || byName > 0 || left > 0) complain(text);
}

void MainWindow::collectProject() {
  const QString folder = QFileDialog::getExistingDirectory(this, tr("Collect into an empty folder"));
  if (folder.isEmpty()) return;
  Project project = m_document.project();
  project.name = m_document.title().toStdString();
  auto* dialog = new QProgressDialog(tr("Copying the footage …"), tr("Cancel"), 0, 1000, this);
  dialog->setAttribute(Qt::WA_DeleteOnClose);
  dialog->setWindowModality(Qt::WindowModal);
  dialog->setMinimumDuration(0);
  connect(dialog, &QProgressDialog::canceled, &m_files, &FileRun::cancel);
  connect(&m_files, &FileRun::progress, dialog, [dialog](double fraction, const QString& what) {
    dialog->setLabelText(tr("Copying and comparing %1").arg(what));
    if (fraction >= 0) dialog->setValue(int(fraction * 1000));
  });
  connect(&m_files, &FileRun::failed, dialog, &QWidget::close);
  connect(&m_files, &FileRun::collected, dialog, [this, dialog](const QString& path) {
    dialog->close();
    QMessageBox::information(this, tr("Collected"),
                             tr("The project and all its footage are in %1. Every copy was compared with its original.")
                                 .arg(QFileInfo(path).path()));
  });
  dialog->show();
  m_files.collect(project, folder);
}

void MainWindow::showLightCopies() {
  const int limit = QSettings().value(kLightLimitKey, kLightGigabytes).toInt();
  QMessageBox box(QMessageBox::NoIcon, tr("Lighter copies"),
                  tr("Smaller copies of heavy sources take %1, of at most %2 GB. They are for looking through footage; "
                     "exports never use them.")
                      .arg(QString::fromStdString(bytesText(m_lights.copies().totalBytes())))
                      .arg(limit),
                  QMessageBox::Close, this);
  const auto* clear = box.addButton(tr("Remove them all"), QMessageBox::DestructiveRole);
  const auto* change = box.addButton(tr("Change the limit …"), QMessageBox::ActionRole);
  box.setDefaultButton(QMessageBox::Close); // Return removes nothing
  box.exec();
  if (box.clickedButton() == clear) {
    m_lights.cancel();
    m_lights.copies().empty();
  } else if (box.clickedButton() == change) {
    bool accepted = false;
    const int wanted =
        QInputDialog::getInt(this, tr("Lighter copies"), tr("At most, in GB"), limit, 1, 10'000, 1, &accepted);
    if (!accepted) return;
    QSettings().setValue(kLightLimitKey, wanted);
    m_lights.copies().setLimit(int64_t(wanted) * 1'000'000'000);
  }
}

void MainWindow::removeFocused() {
  if (m_order->strip().hasFocus())
    m_order->removeSelected();
  else if (m_view == View::Sources)
    m_footage->removeSelected();
  else if (m_view == View::Sheet) // on the bench nothing is selected that could be removed
    removeSelected(true);
}

void MainWindow::addDeliverable() {
  DeliverableDialog dialog(m_document, -1, this);
  if (dialog.exec() == QDialog::Accepted) m_document.addDeliverable(dialog.deliverable());
}

void MainWindow::editDeliverable(int column) {
  if (column < 0 || column >= m_model.columnCount()) return;
  DeliverableDialog dialog(m_document, column, this);
  if (dialog.exec() == QDialog::Accepted) m_document.editDeliverable(column, dialog.deliverable());
}

void MainWindow::removeSelected(bool shots) {
  std::vector<int> columns;
  for (const CellPlace& place : m_session.cells()) columns.push_back(place.deliverable);
  if (shots)
    m_document.removeShots(m_session.shots());
  else
    m_document.removeDeliverables(columns);
}

void MainWindow::moveSelectedShot(int by) {
  const QModelIndex current = m_sheet->currentIndex();
  if (current.isValid()) m_document.moveShot(current.row(), current.row() + by);
}

void MainWindow::renameShot(int row) {
  if (row < 0 || row >= m_model.rowCount()) return;
  bool accepted = false;
  const QString name =
      QInputDialog::getText(this, tr("Rename shot"), tr("Name"), QLineEdit::Normal,
                            QString::fromStdString(m_document.project().shots[size_t(row)].name), &accepted);
  if (accepted) m_document.renameShot(row, name);
}

ExportDialog* MainWindow::showExport(const QString& region) {
  if (!m_exportAction->isEnabled()) return nullptr;
  if (m_exportDialog) {
    m_exportDialog->raise();
    return m_exportDialog;
  }
  // The one that was chosen for this project, else the project's own; one that has none goes where the last did.
  QString folder = m_exportFolder;
  if (folder.isEmpty() && !m_document.path().isEmpty())
    folder = QFileInfo(m_document.path()).path() + QStringLiteral("/exports");
  if (folder.isEmpty()) folder = QSettings().value(kFolderKey).toString();
  if (folder.isEmpty()) folder = QStandardPaths::writableLocation(QStandardPaths::MoviesLocation);
  m_exportDialog = new ExportDialog(m_document, folder, this);
  m_exportDialog->setRegion(region);
  m_exportDialog->setAttribute(Qt::WA_DeleteOnClose);
  // Modal: the plan that is exported is the one on the screen.
  m_exportDialog->setWindowModality(Qt::WindowModal);
  connect(m_exportDialog, &QDialog::finished, this, [this, folder] {
    if (m_exportDialog->folder() != folder) m_exportFolder = m_exportDialog->folder();
    QSettings().setValue(kFolderKey, m_exportDialog->folder());
    m_exportDialog = nullptr;
  });
  m_exportDialog->show();
  return m_exportDialog;
}

void MainWindow::chooseTheme(ThemeChoice choice) {
  QSettings().setValue(kThemeKey, int(choice));
  Theme::apply(*qApp, choice);
  refreshState();
}

void MainWindow::refreshRecent() {
  m_recent->clear();
  for (const QString& path : QSettings().value(kRecentKey).toStringList())
    connect(m_recent->addAction(QFileInfo(path).completeBaseName() + QStringLiteral("  –  ") +
                                QDir::toNativeSeparators(QFileInfo(path).path())),
            &QAction::triggered, this, [this, path] {
              if (mayDiscard()) openProject(path);
            });
  m_recent->setEnabled(!m_recent->isEmpty());
}

void MainWindow::rememberRecent(const QString& path) {
  QSettings settings;
  QStringList list = settings.value(kRecentKey).toStringList();
  list.removeAll(path);
  list.prepend(path);
  settings.setValue(kRecentKey, QStringList(list.mid(0, kMostRecent)));
  refreshRecent();
}

void MainWindow::closeEvent(QCloseEvent* event) {
  if (m_exportDialog && m_exportDialog->running()) {
    m_exportDialog->reject(); // cancels; the window stays until it has
    event->ignore();
    return;
  }
  if (!mayDiscard()) {
    event->ignore();
    return;
  }
  m_recovery.clear();
  m_hold = {};
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
    if (mayDiscard()) openProject(files.first());
    return;
  }
  bringIn(files);
}

} // namespace tromb
