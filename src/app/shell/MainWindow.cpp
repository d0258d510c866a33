// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/shell/MainWindow.h"

#include "app/dispatch/ExportDialog.h"
#include "app/sheet/CellStrip.h"
#include "app/sheet/SheetView.h"
#include "app/shell/StartPage.h"
#include "app/spec/DeliverableDialog.h"
#include "app/style/Icons.h"

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
#include <QPushButton>
#include <QSettings>
#include <QStackedWidget>
#include <QStandardPaths>
#include <QVBoxLayout>
#include <algorithm>

namespace tromb {
namespace {

constexpr int kMostRecent = 8;
const QString kRecentKey = QStringLiteral("recentProjects");
const QString kFolderKey = QStringLiteral("exportFolder");
const QString kThemeKey = QStringLiteral("theme");

} // namespace

MainWindow::MainWindow(QWidget* parent)
    : QMainWindow(parent), m_model(m_document), m_posters(m_document), m_import(m_document) {
  setObjectName(QStringLiteral("mainWindow"));
  setAcceptDrops(true);
  resize(1280, 800);
  setMinimumSize(860, 520);
  m_sheet = new SheetView(m_model, m_posters, this);
  buildActions();
  buildMenus();

  auto* page = new QWidget(this);
  auto* rows = new QVBoxLayout(page);
  rows->setContentsMargins(0, 0, 0, 0);
  rows->setSpacing(0);
  rows->addWidget(m_sheet, 1);
  rows->addWidget(new CellStrip(m_document, *m_sheet, m_framing, page));
  m_pages = new QStackedWidget(this);
  m_pages->addWidget(new StartPage(m_bringIn, m_open, this));
  m_pages->addWidget(page);
  auto* all = new QWidget(this);
  auto* column = new QVBoxLayout(all);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(0);
  column->addWidget(buildTopBar());
  column->addWidget(m_pages, 1);
  setCentralWidget(all);

  connect(m_sheet, &SheetView::deliverableActivated, this, &MainWindow::editDeliverable);
  connect(m_sheet, &SheetView::shotRenameRequested, this, &MainWindow::renameShot);
  connect(m_sheet, &SheetView::selectedCellsChanged, this, &MainWindow::refreshState);
  connect(&m_document, &Document::identityChanged, this, &MainWindow::refreshIdentity);
  connect(&m_model, &QAbstractItemModel::modelReset, this, &MainWindow::refreshState);
  connect(&m_model, &QAbstractItemModel::dataChanged, this, &MainWindow::refreshState);
  connect(&m_model, &QAbstractItemModel::rowsInserted, this, &MainWindow::refreshState);
  connect(&m_model, &QAbstractItemModel::rowsRemoved, this, &MainWindow::refreshState);
  connect(&m_model, &QAbstractItemModel::columnsInserted, this, &MainWindow::refreshState);
  connect(&m_model, &QAbstractItemModel::columnsRemoved, this, &MainWindow::refreshState);
  connect(&m_import, &FootageImport::progress, this, [this](int done, int every, const QString& file) {
    m_busy->setVisible(true);
    m_busy->setRange(0, every);
    m_busy->setValue(done);
    m_busy->setToolTip(tr("Looking at %1").arg(QFileInfo(file).fileName()));
  });
  connect(&m_import, &FootageImport::finished, this, [this] {
    m_busy->setVisible(false);
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
    if (!mayDiscard()) return;
    m_import.cancel();
    m_document.startNew();
  });
  m_open = action(tr("&Open a project …"), QStringLiteral("folder-open"), QKeySequence::Open, [this] { openAsked(); });
  m_save = action(tr("&Save"), QStringLiteral("save"), QKeySequence::Save, [this] { save(); });
  m_saveAs = action(tr("Save &as …"), {}, QKeySequence::SaveAs, [this] { saveAs(); });
  m_bringIn = action(tr("&Bring in footage …"), QStringLiteral("film"), QKeySequence(Qt::CTRL | Qt::Key_B), [this] {
    bringIn(QFileDialog::getOpenFileNames(this, tr("Bring in footage"),
                                          QStandardPaths::writableLocation(QStandardPaths::MoviesLocation)));
  });
  m_addShape = action(tr("Add a s&hape …"), QStringLiteral("plus"), QKeySequence(Qt::CTRL | Qt::Key_D),
                      [this] { addDeliverable(); });
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
  project->addActions({m_new, m_open});
  m_recent = project->addMenu(tr("Open &recent"));
  project->addSeparator();
  project->addActions({m_save, m_saveAs});
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
  edit->addAction(action(tr("Remove the selected s&hots"), QStringLiteral("trash-2"), QKeySequence::Delete,
                         [this] { removeSelected(true); }));
  edit->addAction(action(tr("Remove the selected &deliverables"), {}, QKeySequence(Qt::CTRL | Qt::Key_Delete),
                         [this] { removeSelected(false); }));
  edit->addSeparator();
  edit->addAction(action(tr("Move shot &earlier"), QStringLiteral("arrow-up"),
                         QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_Up), [this] { moveSelectedShot(-1); }));
  edit->addAction(action(tr("Move shot &later"), QStringLiteral("arrow-down"),
                         QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_Down), [this] { moveSelectedShot(1); }));
  edit->addAction(action(tr("Re&name shot …"), QStringLiteral("pencil"), QKeySequence(Qt::Key_F2),
                         [this] { renameShot(m_sheet->currentIndex().row()); }));
  edit->addAction(action(tr("Chan&ge deliverable …"), {}, QKeySequence(Qt::SHIFT | Qt::Key_F2),
                         [this] { editDeliverable(m_sheet->currentIndex().column()); }));

  QMenu* add = menuBar()->addMenu(tr("&Add"));
  add->addActions({m_bringIn, m_addShape});
  QMenu* framing = menuBar()->addMenu(tr("&Framing"));
  framing->addActions(m_framing);

  QMenu* view = menuBar()->addMenu(tr("&View"));
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
  m_name = new QLabel(bar);
  m_name->setProperty("rank", "title");
  m_saved = new QLabel(bar);
  m_saved->setProperty("rank", "faint");
  m_state = new QLabel(bar);
  m_busy = new QProgressBar(bar);
  m_busy->setFixedWidth(140);
  m_busy->setTextVisible(false);
  m_busy->setVisible(false);
  m_busy->setAccessibleName(tr("Looking at footage"));
  row->addWidget(m_name);
  row->addWidget(m_saved);
  row->addStretch(1);
  row->addWidget(m_busy);
  row->addWidget(m_state);
  for (QAction* each : {m_bringIn, m_addShape}) {
    auto* button = new QPushButton(each->icon(), QString(each->text()).remove(QLatin1Char('&')), bar);
    button->setToolTip(each->toolTip());
    connect(button, &QPushButton::clicked, each, &QAction::trigger);
    row->addWidget(button);
  }
  m_export = new QPushButton(icon(QStringLiteral("download"), Theme::current().onAccent), tr("Export …"), bar);
  m_export->setProperty("main", true);
  m_export->setToolTip(m_exportAction->toolTip());
  connect(m_export, &QPushButton::clicked, m_exportAction, &QAction::trigger);
  row->addWidget(m_export);
  return bar;
}

void MainWindow::refreshIdentity() {
  const QString title = m_document.title();
  m_name->setText(fontMetrics().elidedText(title, Qt::ElideRight, 420));
  m_saved->setText(m_document.modified() ? tr("not saved yet") : m_document.path().isEmpty() ? QString() : tr("saved"));
  setWindowTitle(tr("%1[*] – Tromb").arg(title));
  setWindowModified(m_document.modified());
}

void MainWindow::refreshState() {
  const Project& project = m_document.project();
  const bool empty = project.shots.empty() && project.deliverables.empty();
  m_pages->setCurrentIndex(empty ? 0 : 1);
  const bool exportable = !project.shots.empty() && !project.deliverables.empty();
  m_exportAction->setEnabled(exportable);
  m_export->setEnabled(exportable);
  const int complaints = m_document.complaints();
  m_state->setText(!exportable      ? (empty                   ? QString()
                                       : project.shots.empty() ? tr("now bring in footage")
                                                               : tr("now add a shape"))
                   : complaints > 0 ? counted(complaints, tr("1 cell to mend"), tr("%1 cells to mend"))
                                    : tr("no cell complains"));
  m_state->setStyleSheet(QStringLiteral("color: %1")
                             .arg((complaints > 0 ? statusColour(Cell::State::Soft)
                                   : exportable   ? statusColour(Cell::State::Good)
                                                  : Theme::current().faint)
                                      .name()));
  const bool selected = !m_sheet->selectedCells().empty();
  for (QAction* framing : m_framing) framing->setEnabled(selected);
  for (int row = 0; row < m_model.rowCount(); ++row) (void)m_posters.poster(row);
}

bool MainWindow::settled() const {
  return !m_import.busy() && m_posters.idle();
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

bool MainWindow::openProject(const QString& path) {
  m_import.cancel();
  if (const Status loaded = m_document.load(path); !loaded) {
    complain(QString::fromStdString(sentence(loaded.error())));
    return false;
  }
  rememberRecent(m_document.path());
  m_import.lookAtSources();
  return true;
}

void MainWindow::openAsked() {
  if (!mayDiscard()) return;
  const QString path = QFileDialog::getOpenFileName(this, tr("Open a project"), QFileInfo(m_document.path()).path(),
                                                    tr("Tromb projects (*.tromb)"));
  if (!path.isEmpty()) openProject(path);
}

bool MainWindow::saveTo(const QString& path) {
  const Status saved = m_document.save(path);
  if (!saved)
    complain(QString::fromStdString(sentence(saved.error())));
  else
    rememberRecent(m_document.path());
  return saved.has_value();
}

bool MainWindow::save() {
  return m_document.path().isEmpty() ? saveAs() : saveTo(m_document.path());
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
  if (!paths.isEmpty()) m_import.bringIn(paths);
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
  std::vector<int> lines;
  for (const CellPlace& place : m_sheet->selectedCells()) lines.push_back(shots ? place.shot : place.deliverable);
  // A project without shapes has no cells to select: then the selected rows' heads count.
  for (const QModelIndex& index : m_sheet->selectionModel()->selectedRows())
    if (shots) lines.push_back(index.row());
  if (shots)
    m_document.removeShots(lines);
  else
    m_document.removeDeliverables(lines);
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

ExportDialog* MainWindow::showExport() {
  if (!m_exportAction->isEnabled()) return nullptr;
  if (m_exportDialog) {
    m_exportDialog->raise();
    return m_exportDialog;
  }
  QString folder = QSettings().value(kFolderKey).toString();
  if (folder.isEmpty())
    folder = m_document.path().isEmpty() ? QStandardPaths::writableLocation(QStandardPaths::MoviesLocation)
                                         : QFileInfo(m_document.path()).path() + QStringLiteral("/exports");
  m_exportDialog = new ExportDialog(m_document, folder, this);
  m_exportDialog->setAttribute(Qt::WA_DeleteOnClose);
  // Modal: the plan that is exported is the one on the screen.
  m_exportDialog->setWindowModality(Qt::WindowModal);
  connect(m_exportDialog, &QDialog::finished, this, [this] {
    QSettings().setValue(kFolderKey, m_exportDialog->folder());
    m_exportDialog = nullptr;
  });
  m_exportDialog->show();
  return m_exportDialog;
}

void MainWindow::chooseTheme(ThemeChoice choice) {
  QSettings().setValue(kThemeKey, int(choice));
  Theme::apply(*qApp, choice);
  // Icons are drawn in the theme's ink.
  const std::pair<QAction*, const char*> icons[] = {{m_open, "folder-open"},
                                                    {m_save, "save"},
                                                    {m_bringIn, "film"},
                                                    {m_addShape, "plus"},
                                                    {m_exportAction, "download"}};
  for (const auto& [each, name] : icons) each->setIcon(icon(QLatin1String(name)));
  static const char* const kFramingIcons[] = {"maximize", "minimize",  "rows-2",  "rows-3",
                                              "layers",   "crosshair", "zoom-in", "zoom-out"};
  for (int i = 0; i < m_framing.size(); ++i) m_framing[i]->setIcon(icon(QLatin1String(kFramingIcons[i])));
  m_export->setIcon(icon(QStringLiteral("download"), Theme::current().onAccent));
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
  if (mayDiscard())
    event->accept();
  else
    event->ignore();
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
