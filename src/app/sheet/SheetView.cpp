// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/sheet/SheetView.h"

#include "app/sheet/CellDelegate.h"
#include "app/sheet/SheetHeads.h"
#include "app/style/Settings.h"
#include "project/Sharing.h"
#include "time/Timecode.h"

#include <QContextMenuEvent>
#include <QLabel>
#include <QMenu>
#include <QMouseEvent>
#include <QScrollBar>
#include <QWheelEvent>
#include <cmath>

namespace tromb {
namespace {

constexpr int kLeastHeight = 72;
constexpr int kUsualHeight = 132;
constexpr int kScrolledHeight = 160;
constexpr int kMostHeight = 320;

} // namespace

SheetView::SheetView(Session& session, Actions& actions, SheetModel& model, PosterService& posters, QWidget* parent)
    : QTableView(parent), m_session(session), m_actions(actions), m_model(model),
      m_delegate(new CellDelegate(posters, this)), m_columns(new SheetHead(Qt::Horizontal, model, this)),
      m_rows(new SheetHead(Qt::Vertical, model, this)), m_corner(new QLabel(this)), m_held(model.document()) {
  setObjectName(QStringLiteral("sheet"));
  setAccessibleName(tr("Contact sheet"));
  setAccessibleDescription(
      tr("Rows are shots, columns are deliverables. Alt and arrow keys slide the picture, plus and minus zoom."));
  setHorizontalHeader(m_columns);
  setVerticalHeader(m_rows);
  m_columns->setAccessibleName(tr("Deliverables"));
  m_rows->setAccessibleName(tr("Shots"));
  setModel(&model);
  setItemDelegate(m_delegate);
  setSelectionMode(QAbstractItemView::ExtendedSelection);
  setShowGrid(false);
  setHorizontalScrollMode(QAbstractItemView::ScrollPerPixel);
  setVerticalScrollMode(QAbstractItemView::ScrollPerPixel);
  setTabKeyNavigation(false);
  setCornerButtonEnabled(false);
  setMouseTracking(true);
  m_corner->setProperty("bar", true);
  m_corner->setAlignment(Qt::AlignLeft | Qt::AlignBottom);
  m_corner->setContentsMargins(8, 0, 4, 7);
  m_corner->setProperty("rank", "faint");
  const auto refit = [this] { fitSections(); };
  connect(&model, &QAbstractItemModel::modelReset, this, refit);
  connect(&model, &QAbstractItemModel::rowsInserted, this, refit);
  connect(&model, &QAbstractItemModel::rowsRemoved, this, refit);
  connect(&model, &QAbstractItemModel::columnsInserted, this, refit);
  connect(&model, &QAbstractItemModel::columnsRemoved, this, refit);
  connect(&model, &QAbstractItemModel::columnsMoved, this, refit);
  connect(&model, &QAbstractItemModel::headerDataChanged, this, [refit](Qt::Orientation orientation) {
    if (orientation == Qt::Horizontal) refit();
  });
  connect(&posters, &PosterService::ready, this, [this] { viewport()->update(); });
  connect(m_columns, &QHeaderView::sectionDoubleClicked, this, &SheetView::deliverableActivated);
  connect(m_rows, &QHeaderView::sectionDoubleClicked, this, &SheetView::shotRenameRequested);
  connect(&session, &Session::selectionChanged, this, &SheetView::showSelection);
  connect(this, &QAbstractItemView::doubleClicked, this, &SheetView::cellActivated);
  bindActions();
  readSettings();
}

/// What the table's actions do here.
void SheetView::bindActions() {
  m_actions.belongTo(Where::OnSheet, this, [this] { return isVisible() && !m_session.cells().empty(); });
  m_actions.bind("fill", [this] { applyLayout("fill", tr("Fill the canvas")); });
  m_actions.bind("whole", [this] { applyLayout("fit", tr("Show the whole picture")); });
  m_actions.bind("two", [this] { applyLayout("stack2", tr("Two stacked")); });
  m_actions.bind("three", [this] { applyLayout("stack3", tr("Three stacked")); });
  m_actions.bind("backdrop", [this] { applyLayout("backdrop", tr("Over a backdrop")); });
  m_actions.bind("centre", [this] { centreSelected(); });
  m_actions.bind("zoom-in", [this] { zoomBy(1.05); });
  m_actions.bind("zoom-out", [this] { zoomBy(1 / 1.05); });
  m_actions.bind("copy-framing", [this] { copyFraming(); });
  const auto paste = [&](const char* id, FramingPart part) {
    m_actions.bind(
        id, [this, part] { pasteFraming(part); }, [this] { return hasCopied(); });
  };
  paste("paste-framing", FramingPart::All);
  paste("paste-place", FramingPart::Position);
  paste("paste-zoom", FramingPart::Zoom);
  paste("paste-layout", FramingPart::Arrangement);
  paste("paste-its-move", FramingPart::Keys);
  m_actions.bind("copy-to-deliverables", [this] { spreadFraming(Spread::Row); });
  m_actions.bind("copy-to-shots", [this] { spreadFraming(Spread::Column); });
  m_actions.bind("copy-to-source", [this] { spreadFraming(Spread::SameSource); });
  m_actions.bind("as-before", [this] { takeFromBefore(); });
  connect(m_actions.at("show-cadence"), &QAction::toggled, this, [this](bool shows) {
    m_delegate->setShowsCadence(shows);
    fitSections();
    viewport()->update();
  });
}

void SheetView::contextMenuEvent(QContextMenuEvent* event) {
  const bool keys = event->reason() == QContextMenuEvent::Keyboard;
  const QModelIndex index = keys ? currentIndex() : indexAt(event->pos());
  if (!index.isValid()) return;
  if (!selectionModel()->isSelected(index))
    selectionModel()->setCurrentIndex(index, QItemSelectionModel::ClearAndSelect);
  m_actions.refresh();
  m_actions.contextMenu(Where::OnSheet, this)
      ->popup(keys ? viewport()->mapToGlobal(visualRect(index).center()) : event->globalPos());
}

void SheetView::setWatch(Watch& watch) {
  m_watch = &watch;
  connect(&watch, &Watch::starting, this, &SheetView::askPlayed);
  connect(&watch, &Watch::stateChanged, this, [this] {
    if (m_watch->playing()) return;
    askPlayed();
    const int row = m_delegate->liveRow();
    m_delegate->setLive(-1, {}, 0);
    updateRow(row);
  });
  connect(&watch, &Watch::pictured, this, &SheetView::showPlayed);
}

void SheetView::setElements(ElementPictures& elements) {
  m_delegate->setElements(elements);
  const auto again = [this] { viewport()->update(); };
  connect(&elements, &ElementPictures::ready, this, again);
  connect(&m_model.document(), &Document::elementsChanged, this, again);
}

void SheetView::showEvent(QShowEvent* event) {
  QTableView::showEvent(event);
  askPlayed();
}

void SheetView::hideEvent(QHideEvent* event) {
  QTableView::hideEvent(event);
  askPlayed();
}

/// Asks for the pictures that are played while the sheet is seen.
void SheetView::askPlayed() {
  if (!m_watch) return;
  // As large as the largest cell shows the whole picture: none is wider than three times its height.
  const QSize most = QSize(3 * m_pictureHeight, 3 * m_pictureHeight * 9 / 16) * devicePixelRatioF();
  if (isVisible() && m_watch->playing())
    m_watch->setScreens(this, {{m_session.current().deliverable, true, most}});
  else
    m_watch->setScreens(this, {});
}

void SheetView::updateRow(int row) {
  if (row >= 0) viewport()->update(0, rowViewportPosition(row), viewport()->width(), rowHeight(row));
}

void SheetView::showPlayed() {
  const std::vector<Watch::Picture> pictures = m_watch->pictures(this);
  if (!m_watch->playing() || !isVisible() || pictures.empty() || pictures[0].image.isNull()) return;
  const Session::Under under = m_session.underPlayhead();
  if (under.row < 0 || m_model.document().project().shots[size_t(under.row)].id != pictures[0].shot) return;
  const int before = m_delegate->liveRow();
  m_delegate->setLive(under.row, pictures[0].image, under.sourceTime.toDouble(), m_session.playhead());
  if (before != under.row) {
    updateRow(before);
    scrollTo(m_model.index(under.row, currentIndex().isValid() ? currentIndex().column() : 0));
  }
  updateRow(under.row);
}

void SheetView::readSettings() {
  const int kept = Settings::left(QStringLiteral("sheetHeight"), 0).toInt();
  if (kept > 0)
    setPictureHeight(kept);
  else
    setFits(true);
}

void SheetView::setPictureHeight(int pixels) {
  m_fits = false;
  m_pictureHeight = std::clamp(pixels, kLeastHeight, kMostHeight);
  fitSections();
  emit heightChanged();
}

void SheetView::setFits(bool fits) {
  m_fits = fits;
  fitSections();
  emit heightChanged();
}

/// Returns the height at which every cell can be seen, but never less than the usual one.
int SheetView::fittingHeight() const {
  const auto& deliverables = m_model.document().project().deliverables;
  const int rows = std::max(1, m_model.rowCount());
  const int pad = 2 * CellDelegate::kPad + 1;
  double ratios = 0;
  int columns = 0;
  for (const Deliverable& d : deliverables) {
    if (!framesItself(d)) continue;
    ratios += d.shownSize().ratio();
    ++columns;
  }
  const int high = viewport()->height() / rows - pad - m_delegate->footHeight(fontMetrics());
  const int wide = ratios > 0 ? int((viewport()->width() - columns * pad) / ratios) : kMostHeight;
  // If not all rows fit, the height is the one at which all columns fit.
  return high < kUsualHeight ? std::clamp(wide, kUsualHeight, kScrolledHeight)
                             : std::clamp(std::min(high, wide), kUsualHeight, kMostHeight);
}

void SheetView::fitSections() {
  const int before = m_pictureHeight;
  if (m_fits) m_pictureHeight = fittingHeight();
  if (m_pictureHeight != before) emit heightChanged();
  const int pad = 2 * CellDelegate::kPad + 1;
  const int height = m_pictureHeight + pad + m_delegate->footHeight(fontMetrics());
  if (m_rows->defaultSectionSize() != height) m_rows->setDefaultSectionSize(height);
  for (int column = 0; column < m_model.columnCount(); ++column) {
    const double ratio = m_model.document().project().deliverables[size_t(column)].shownSize().ratio();
    // The cell has the shape of its canvas even if its head needs more room.
    const int width = int(std::lround(m_pictureHeight * ratio)) + pad;
    const bool hidden = !framesItself(m_model.document().project().deliverables[size_t(column)]);
    if (isColumnHidden(column) != hidden) setColumnHidden(column, hidden); // it is framed with its normal version
    if (!hidden && columnWidth(column) != width) setColumnWidth(column, width);
  }
  const Project& project = m_model.document().project();
  m_corner->setText(project.shots.empty()
                        ? QString()
                        : tr("%n shots", nullptr, int(project.shots.size())) + QLatin1Char('\n') +
                              tr("%1 in all").arg(QString::fromStdString(clockText(m_model.document().duration()))));
  placeCorner();
}

void SheetView::placeCorner() {
  m_corner->setGeometry(0, 0, m_rows->width(), m_columns->height());
  m_corner->raise();
}

void SheetView::resizeEvent(QResizeEvent* event) {
  QTableView::resizeEvent(event);
  if (m_fits) fitSections();
  placeCorner();
}

void SheetView::changeEvent(QEvent* event) {
  QTableView::changeEvent(event);
  if (event->type() == QEvent::FontChange || event->type() == QEvent::StyleChange) {
    updateGeometries();
    fitSections();
  }
}

/// Takes over the session's selection, unless it is selected already.
void SheetView::showSelection() {
  m_columns->viewport()->update();
  m_rows->viewport()->update();
  if (m_telling) return;
  // What is framed with its normal version is seen there.
  const auto& deliverables = m_model.document().project().deliverables;
  std::vector<CellPlace> cells = m_session.cells();
  for (CellPlace& each : cells) each.deliverable = placeOfNormal(deliverables, each.deliverable);
  QItemSelection wanted;
  for (size_t i = 0; i < cells.size();) { // a run in one row is one range
    size_t end = i + 1;
    while (end < cells.size() && cells[end].shot == cells[i].shot &&
           cells[end].deliverable == cells[end - 1].deliverable + 1)
      ++end;
    wanted.select(m_model.index(cells[i].shot, cells[i].deliverable),
                  m_model.index(cells[i].shot, cells[end - 1].deliverable));
    i = end;
  }
  m_showing = true;
  selectionModel()->select(wanted, QItemSelectionModel::ClearAndSelect);
  const CellPlace current = m_session.current();
  if (current.shot >= 0)
    selectionModel()->setCurrentIndex(m_model.index(current.shot, placeOfNormal(deliverables, current.deliverable)),
                                      QItemSelectionModel::NoUpdate);
  m_showing = false;
}

/// Tells the session what is selected here.
void SheetView::tellSelection() {
  if (m_showing) return;
  std::vector<CellPlace> cells;
  for (const QModelIndex& index : selectionModel()->selectedIndexes())
    if (!isColumnHidden(index.column())) cells.push_back({index.row(), index.column()});
  // A project without deliverables has no cells, so the selected row heads count.
  std::vector<int> rows;
  for (const QModelIndex& index : selectionModel()->selectedRows()) rows.push_back(index.row());
  const QModelIndex current = currentIndex();
  m_telling = true;
  m_session.selectCells(cells, {current.row(), current.column()}, rows);
  m_telling = false;
}

void SheetView::change(const QString& text, const std::function<Framing(const Cell&)>& changed, int gesture) {
  std::vector<std::pair<CellPlace, Framing>> framings;
  for (const CellPlace& place : m_session.cells()) {
    const Cell cell = m_model.document().cell(place);
    if (!cell.placements.empty()) framings.emplace_back(place, changed(cell));
  }
  m_model.document().setFramings(framings, text, gesture);
}

void SheetView::applyLayout(const std::string& framingName, const QString& text) {
  Framing framing;
  if (!framingByName(framingName, framing)) return;
  change(text, [&](const Cell& cell) {
    Framing applied = framing;
    applied.unknown = cell.framing.unknown;
    // The commands for filling and for the whole picture keep the window's centre.
    if (applied.layout == Layout::Single && cell.framing.windows.size() == 1) {
      const WindowBase base = applied.windows.front().base;
      applied.windows = cell.framing.windows;
      applied.windows.front().base = base;
      applied.windows.front().zoom = 1;
    }
    return applied;
  });
}

void SheetView::centreSelected() {
  change(tr("Centre"), [](const Cell& cell) { return centred(cell); });
}

void SheetView::followSelected() {
  change(tr("Follow the subject"), [](const Cell& cell) {
    Framing framing = cell.framing;
    for (Window& window : framing.windows) {
      window.follows = true;
      window.move.clear();
    }
    return framing;
  });
}

void SheetView::copyFraming() {
  const QModelIndex index = currentIndex();
  if (index.isValid()) m_copied = m_model.document().cell({index.row(), index.column()});
}

void SheetView::pasteFraming(FramingPart part) {
  if (m_copied) change(tr("Paste the framing"), [&](const Cell& cell) { return carried(cell, *m_copied, part); });
}

void SheetView::spreadFraming(Spread where) {
  const QModelIndex index = currentIndex();
  if (!index.isValid()) return;
  const Project& project = m_model.document().project();
  const Document& document = m_model.document();
  const Cell from = document.cell({index.row(), index.column()});
  std::vector<std::pair<CellPlace, Framing>> framings;
  const auto carry = [&](const CellPlace& place) {
    framings.emplace_back(place, carried(document.cell(place), from, FramingPart::All));
  };
  if (where == Spread::Row)
    for (int column = 0; column < int(project.deliverables.size()); ++column) carry({index.row(), column});
  else
    for (int row = 0; row < int(project.shots.size()); ++row)
      if (where == Spread::Column || project.shots[size_t(row)].source == project.shots[size_t(index.row())].source)
        carry({row, index.column()});
  m_model.document().setFramings(framings, tr("Copy the framing"));
}

void SheetView::takeFromBefore() {
  std::vector<std::pair<CellPlace, Framing>> framings;
  const Document& document = m_model.document();
  for (const CellPlace& place : m_session.cells())
    if (place.shot > 0)
      framings.emplace_back(
          place, carried(document.cell(place), document.cell({place.shot - 1, place.deliverable}), FramingPart::All));
  m_model.document().setFramings(framings, tr("Frame as the shot before"));
}

void SheetView::nudge(int dx, int dy) {
  change(
      tr("Slide"), [&](const Cell& cell) { return slid(cell, dx, dy); }, m_held.of(QStringLiteral("slide")));
}

void SheetView::zoomBy(double factor) {
  change(
      tr("Zoom"), [&](const Cell& cell) { return zoomed(cell, factor); }, m_held.of(QStringLiteral("zoom")));
}

void SheetView::mousePressEvent(QMouseEvent* event) {
  const QModelIndex index = indexAt(event->position().toPoint());
  if (event->button() == Qt::LeftButton && event->modifiers() == Qt::NoModifier && index.isValid() &&
      selectionModel()->isSelected(index)) {
    const Cell cell = m_model.document().cell({index.row(), index.column()});
    const QRectF canvas = m_delegate->canvasIn(visualRect(index), cell.shown, fontMetrics());
    if (!cell.placements.empty() && canvas.contains(event->position())) {
      Drag drag;
      drag.start = event->position().toPoint();
      drag.shownPerPixel = cell.shown.width / canvas.width();
      drag.shownWidth = cell.shown.width;
      const QPointF at = (event->position() - canvas.topLeft()) * drag.shownPerPixel;
      drag.window = windowAt(cell, at.x() * cell.canvas.width / cell.shown.width, at.y());
      drag.gesture = m_model.document().newGesture();
      for (const CellPlace& place : m_session.cells()) drag.cells.emplace_back(place, m_model.document().cell(place));
      m_drag = std::move(drag);
      selectionModel()->setCurrentIndex(index, QItemSelectionModel::NoUpdate);
      viewport()->setCursor(Qt::ClosedHandCursor);
      return;
    }
  }
  QTableView::mousePressEvent(event);
}

void SheetView::mouseMoveEvent(QMouseEvent* event) {
  if (m_drag) {
    const QPoint moved = event->position().toPoint() - m_drag->start;
    std::vector<std::pair<CellPlace, Framing>> framings;
    for (const auto& [place, cell] : m_drag->cells) {
      if (cell.placements.empty()) continue;
      // Each cell moves by the same share of its canvas, so that canvases of different sizes move alike.
      const double perPixel = m_drag->shownPerPixel * cell.shown.width / m_drag->shownWidth;
      const int window = int(cell.framing.windows.size()) > m_drag->window ? m_drag->window : -1;
      framings.emplace_back(
          place, slid(cell, moved.x() * perPixel * cell.canvas.width / cell.shown.width, moved.y() * perPixel, window));
    }
    m_model.document().setFramings(framings, tr("Slide"), m_drag->gesture);
    return;
  }
  const QModelIndex index = indexAt(event->position().toPoint());
  if (event->buttons() == Qt::NoButton)
    viewport()->setCursor(index.isValid() && selectionModel()->isSelected(index) ? Qt::OpenHandCursor
                                                                                 : Qt::ArrowCursor);
  QTableView::mouseMoveEvent(event);
}

void SheetView::mouseReleaseEvent(QMouseEvent* event) {
  if (m_drag) {
    const bool click = (event->position().toPoint() - m_drag->start).manhattanLength() < 3;
    const QPoint start = m_drag->start;
    m_drag.reset();
    viewport()->setCursor(Qt::OpenHandCursor);
    // A click without a drag selects that cell alone, as a spreadsheet does.
    if (click) selectionModel()->setCurrentIndex(indexAt(start), QItemSelectionModel::ClearAndSelect);
    return;
  }
  QTableView::mouseReleaseEvent(event);
}

void SheetView::wheelEvent(QWheelEvent* event) {
  if (event->modifiers() & Qt::ControlModifier) {
    const QModelIndex index = indexAt(event->position().toPoint());
    if (index.isValid() && !selectionModel()->isSelected(index))
      selectionModel()->setCurrentIndex(index, QItemSelectionModel::ClearAndSelect);
    if (event->angleDelta().y() != 0) zoomBy(std::pow(1.05, event->angleDelta().y() / 120.0));
    event->accept();
    return;
  }
  QTableView::wheelEvent(event);
}

void SheetView::keyPressEvent(QKeyEvent* event) {
  if (event->modifiers() & Qt::AltModifier) {
    const int step = event->modifiers() & Qt::ShiftModifier ? 10 : 1;
    switch (event->key()) {
    case Qt::Key_Left:
      return nudge(-step, 0);
    case Qt::Key_Right:
      return nudge(step, 0);
    case Qt::Key_Up:
      return nudge(0, -step);
    case Qt::Key_Down:
      return nudge(0, step);
    default:
      break;
    }
  }
  const bool enter = event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter;
  if (enter && event->modifiers() == Qt::NoModifier && currentIndex().isValid()) {
    emit cellActivated();
    return;
  }
  QTableView::keyPressEvent(event);
}

void SheetView::selectionChanged(const QItemSelection& selected, const QItemSelection& deselected) {
  QTableView::selectionChanged(selected, deselected);
  tellSelection();
}

void SheetView::currentChanged(const QModelIndex& current, const QModelIndex& previous) {
  QTableView::currentChanged(current, previous);
  tellSelection();
}

} // namespace tromb
