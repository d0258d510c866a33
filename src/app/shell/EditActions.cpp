// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/shell/EditActions.h"

#include "app/bench/BenchView.h"
#include "app/bench/FramingDialog.h"
#include "app/footage/FootageView.h"
#include "app/order/CutReview.h"
#include "app/order/OrderView.h"
#include "app/sheet/SheetView.h"
#include "app/shell/Offers.h"
#include "app/spec/DeliverableList.h"
#include "app/spec/SpecView.h"
#include "app/style/Folders.h"
#include "app/style/Settings.h"
#include "destination/NewDeliverable.h"
#include "geometry/LegalSize.h"
#include "preflight/Limits.h"
#include "preflight/Spec.h"
#include "project/Choices.h"
#include "project/Sharing.h"

#include <QAbstractButton>
#include <QApplication>
#include <QInputDialog>
#include <QMenu>
#include <algorithm>
#include <numeric>
#include <tuple>

namespace tromb {
namespace {

/// How many limits of its destination a deliverable breaks.
auto brokenLimits(const Project& project, const Footage& footage, const Deliverable& d) {
  const std::vector<SpecLine> lines = limitLines(project, footage, d);
  return std::count_if(lines.begin(), lines.end(),
                       [](const SpecLine& line) { return line.standing == Standing::Broken; });
}

} // namespace

EditActions::EditActions(Session& session, Actions& actions, const Views& views, QWidget* window)
    : QObject(window), m_session(session), m_document(session.document()), m_actions(actions), m_views(views),
      m_window(window), m_savedFramings(framingFolder().toStdString()) {
  bindActions();
  connect(&session, &Session::selectionChanged, this, &EditActions::refreshTexts);
  connect(qApp, &QApplication::focusChanged, this, &EditActions::refreshTexts);
  connect(&m_session, &Session::sourcesSelected, this, &EditActions::refreshTexts);
  connect(&m_views.footage, &FootageView::addRequested, this, &EditActions::addShots);
  connect(&m_views.footage, &FootageView::addOverlayRequested, this, &EditActions::addOverlays);
  connect(&m_views.footage, &FootageView::addBedRequested, this, &EditActions::addBeds);
  connect(&m_views.order, &OrderView::splitAtCutsRequested, this, &EditActions::splitAtCuts);
  connect(&m_views.sheet, &SheetView::deliverableActivated, this, &EditActions::editDeliverable);
  connect(&m_views.sheet, &SheetView::shotRenameRequested, this, &EditActions::renameShot);
  refreshTexts();
}

void EditActions::bindActions() {
  QUndoStack& stack = m_document.undoStack();
  m_actions.bind(
      "undo", [&stack] { stack.undo(); }, [&stack] { return stack.canUndo(); });
  m_actions.bind(
      "redo", [&stack] { stack.redo(); }, [&stack] { return stack.canRedo(); });
  // The text names the command that would be undone, if there is one.
  const auto named = [](const QString& alone, const QString& with, QString what) {
    return what.isEmpty() ? alone : with.arg(what.replace(QLatin1Char('&'), QLatin1String("&&")));
  };
  connect(&stack, &QUndoStack::undoTextChanged, this,
          [this, named](const QString& what) { m_actions.setText("undo", named(tr("&Undo"), tr("&Undo: %1"), what)); });
  connect(&stack, &QUndoStack::redoTextChanged, this,
          [this, named](const QString& what) { m_actions.setText("redo", named(tr("&Redo"), tr("&Redo: %1"), what)); });
  connect(&stack, &QUndoStack::indexChanged, &m_actions, &Actions::refreshSoon);
  m_actions.bind(
      "remove", [this] { remove(); }, [this] { return target() != Target::None; });
  m_actions.bind(
      "remove-deliverables",
      [this] {
        if (m_views.spec.isVisible()) return m_views.spec.removeSelected();
        std::vector<int> columns;
        for (const CellPlace& place : m_session.cells()) columns.push_back(place.deliverable);
        m_document.removeDeliverables(columns);
      },
      [this] {
        return m_views.spec.isVisible() ? !m_session.deliverables().empty()
                                        : m_views.sheet.isVisible() && !m_session.cells().empty();
      });
  m_actions.bind(
      "rename", [this] { rename(); },
      [this] { return target() == Target::Sources || target() == Target::Group || shotToRename() >= 0; });
  m_actions.bind(
      "edit-deliverable", [this] { editDeliverable(m_session.current().deliverable); },
      [this] { return !m_document.project().deliverables.empty() && !m_views.footage.isVisible(); });
  QMenu* add = m_actions.menu(MenuId::AddForMenu);
  connect(add, &QMenu::aboutToShow, this, &EditActions::fillAddMenu);
  m_actions.bind("add-deliverable", [this, add] {
    // Below the button that was pressed, else in the middle of the window.
    const auto* pressed = qobject_cast<QAbstractButton*>(QApplication::focusWidget());
    add->popup(pressed ? pressed->mapToGlobal(QPoint(0, pressed->height()))
                       : m_window->mapToGlobal(m_window->rect().center() - QPoint(add->sizeHint().width() / 2, 200)));
  });
  m_actions.bind(
      "high-version", [this] { addHighVersions(); },
      [this] {
        const std::vector<int> columns = highVersionsOf();
        return std::any_of(columns.begin(), columns.end(), [this](int column) {
          return whyNoHighVersion(m_document.project().deliverables[size_t(column)]).empty();
        });
      });
  m_actions.bind("follow", [this] { follow(); });
  m_actions.bind(
      "saved-framings", [this] { showSavedFramings(); },
      [this] { return m_views.sheet.isVisible() || m_views.bench.isVisible(); });
}

// ---- what has the focus

/// Returns what Delete removes: only what is visibly selected in the view that has the focus.
EditActions::Target EditActions::target() const {
  if (m_views.order.strip().hasFocus()) {
    if (m_session.bed() >= 0) return Target::Bed;
    return m_session.shots().empty() ? Target::None : Target::Shots;
  }
  if (m_views.footage.hasGroupFocus()) return Target::Group;
  if (m_views.spec.list().hasFocus()) return m_session.deliverables().empty() ? Target::None : Target::Deliverables;
  if (m_views.footage.isVisible())
    return m_views.footage.hasListFocus() && !m_session.sources().empty() ? Target::Sources : Target::None;
  return m_views.sheet.isVisible() && !m_session.shots().empty() ? Target::Shots : Target::None;
}

int EditActions::shotToRename() const {
  const std::vector<int> rows = m_session.shots();
  if (m_views.order.strip().hasFocus()) return rows.empty() ? -1 : rows.front();
  if (m_views.bench.isVisible()) return m_views.bench.bench().row();
  if (!m_views.sheet.isVisible()) return -1;
  return m_session.current().shot >= 0 ? m_session.current().shot : rows.empty() ? -1 : rows.front();
}

void EditActions::refreshTexts() {
  const int shots = int(m_session.shots().size());
  const int sources = int(m_session.sources().size());
  QString what;
  switch (target()) {
  case Target::Shots:
    what = tr("Re&move %n shots", nullptr, shots);
    break;
  case Target::Bed:
    what = tr("Re&move the sound bed");
    break;
  case Target::Sources:
    what = tr("Re&move %n sources", nullptr, sources);
    break;
  case Target::Group:
    what = tr("Re&move the group, keep its footage");
    break;
  case Target::Deliverables:
    what = tr("Re&move %n deliverables", nullptr, int(m_session.deliverables().size()));
    break;
  case Target::None:
    what = tr("Re&move");
    break;
  }
  m_actions.setText("remove", what);
  const int row = shotToRename();
  m_actions.setText("rename", target() == Target::Sources ? tr("Re&name the source …")
                              : target() == Target::Group ? tr("Re&name the group …")
                              : row >= 0                  ? tr("Re&name the shot …")
                                                          : tr("Re&name …"));
  m_actions.refreshSoon();
}

void EditActions::remove() {
  switch (target()) {
  case Target::Shots:
  case Target::Bed:
    return m_views.order.removeSelected();
  case Target::Sources:
    return m_views.footage.removeSelected();
  case Target::Group:
    return m_views.footage.removeGroup();
  case Target::Deliverables:
    return m_views.spec.removeSelected();
  case Target::None:
    return;
  }
}

void EditActions::rename() {
  if (target() == Target::Sources)
    m_views.footage.renameSelected();
  else if (target() == Target::Group)
    m_views.footage.renameGroup();
  else
    renameShot(shotToRename());
}

void EditActions::follow() {
  if (m_views.bench.isVisible())
    m_views.bench.bench().placing().follow();
  else
    m_views.sheet.followSelected();
}

// ---- adding and changing

void EditActions::addShots(bool atPlayhead) {
  const Project& project = m_document.project();
  std::vector<Shot> shots;
  for (const int row : m_session.sources()) {
    const Source& source = project.sources[size_t(row)];
    const Result<MediaInfo>* media = m_document.media(source.id);
    if (!media || !*media || !(*media)->video) continue;
    Shot shot = newShot(project, source, **media);
    std::tie(shot.in, shot.out) = m_session.stretchSeconds(source.id);
    shots.push_back(shot);
  }
  if (shots.empty()) return;
  int at = int(project.shots.size());
  const auto under = m_session.underPlayhead();
  if (atPlayhead && under.row >= 0) {
    // Inserts at the nearer end of the shot under the playhead, because adding must not cut a shot.
    const Shot& there = project.shots[size_t(under.row)];
    at = under.sinceBegin * Rational(2) < there.duration() ? under.row : under.row + 1;
  }
  const int count = int(shots.size());
  m_document.addShots(std::move(shots), at);
  std::vector<int> added;
  for (int i = 0; i < count; ++i) added.push_back(at + i);
  m_session.selectShots(added);
}

void EditActions::addBeds() {
  std::vector<SoundBed> beds = m_document.project().beds;
  for (const int row : m_session.sources()) {
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
  m_document.setBeds(beds, tr("Add a sound bed"));
  m_session.selectBed(int(beds.size()) - 1);
}

void EditActions::addOverlays() {
  std::vector<Element> elements = m_document.project().elements;
  std::string first;
  for (const int row : m_session.sources()) {
    Element e;
    e.id = freshId(elements, "e");
    e.kind = ElementKind::Picture;
    e.source = m_document.project().sources[size_t(row)].id;
    e.out = m_document.project().duration();
    e.place = kUsualOverlay;
    if (first.empty()) first = e.id;
    elements.push_back(std::move(e));
  }
  m_document.setElements(std::move(elements), tr("Lay over the shots"));
  m_views.order.chooseElement(first);
}

void EditActions::splitAtCuts(int row) {
  CutReview review(m_document, row, m_window);
  if (review.exec() == QDialog::Accepted) m_document.splitShot(row, review.chosenTimes());
}

void EditActions::fillAddMenu() {
  QMenu& menu = *m_actions.menu(MenuId::AddForMenu);
  menu.clear();
  qDeleteAll(menu.findChildren<QMenu*>(QString(), Qt::FindDirectChildrenOnly)); // clearing leaves them
  const auto data = destinationData();
  const std::vector<PictureShape> footage = footageShapes();
  const Habits habits = Settings::habits(); // read from a file
  const auto add = [&](QMenu& to, const Destination& destination) {
    const QString called = QString::fromStdString(destination.name).replace(QLatin1Char('&'), QLatin1String("&&"));
    const Offer offer = offerOf(m_document.project(), destination.id, firstWithPicture(), footage, habits);
    for (const size_t size : Offers::order(offer))
      to.addAction(tr("%1: %2").arg(called, Offers::meaning(offer, size)), this,
                   [this, offer, size] { takeOffer(offer, size); });
  };
  // What was added lately comes first.
  for (const QString& id : Offers::lateDestinations()) add(menu, *data->find(id.toStdString()));
  menu.addSeparator();
  const std::pair<QString, std::function<bool(double)>> shapes[] = {
      {tr("&Upright"), [](double ratio) { return ratio < 0.95; }},
      {tr("&Square"), [](double ratio) { return ratio >= 0.95 && ratio < 1.05; }},
      {tr("&Wide"), [](double ratio) { return ratio >= 1.05 && ratio < 2; }},
      {tr("U&ltra-wide"), [](double ratio) { return ratio >= 2; }},
  };
  for (const auto& [name, holds] : shapes) {
    QMenu* shape = menu.addMenu(name);
    for (const Destination& to : data->destinations)
      if (holds(to.canvas().ratio())) add(*shape, to);
  }
  menu.addSeparator();
  menu.addAction(tr("&As the footage was shot"), this, [this] {
    takeOffer(offerOf(m_document.project(), {}, firstWithPicture(), {}, Settings::habits()), 0);
  });
}

/// Returns the facts of the first source that has a picture and could be read; null when there is none.
const MediaInfo* EditActions::firstWithPicture() const {
  for (const Source& source : m_document.project().sources)
    if (const auto* media = m_document.media(source.id); media && *media && (*media)->video) return &**media;
  return nullptr;
}

/// Returns the shapes of the footage that the piece is made of, each once.
std::vector<PictureShape> EditActions::footageShapes() const {
  std::vector<PictureShape> shapes;
  for (const SourceInCanvas& each : sourcesIn(m_document.project(), m_document.footage(), {}))
    if (std::find(shapes.begin(), shapes.end(), each.shape) == shapes.end()) shapes.push_back(each.shape);
  return shapes;
}

void EditActions::takeOffer(const Offer& offer, size_t size) {
  Offers::remember(offer, size);
  m_document.addDeliverable(offer.sizes[size]);
  editDeliverable(int(m_document.project().deliverables.size()) - 1);
}

/// Returns the deliverables of which high versions are added, by place: those that are chosen in the spec, or else the
/// current one.
std::vector<int> EditActions::highVersionsOf() const {
  if (m_views.footage.isVisible() || m_document.project().deliverables.empty()) return {};
  return m_views.spec.isVisible() ? m_session.deliverables() : std::vector<int>{m_session.current().deliverable};
}

void EditActions::addHighVersions() {
  std::vector<Deliverable> made;
  Project ahead = m_document.project();
  const Footage& footage = m_document.footage();
  for (const int column : highVersionsOf()) {
    const Deliverable& normal = m_document.project().deliverables[size_t(column)];
    auto high = highVersionOf(ahead, normal, tr("%1 high").arg(QString::fromStdString(normal.name)).toStdString());
    if (!high) continue;
    // A destination that does not take so many bits is not where it goes.
    if (brokenLimits(ahead, footage, *high) > brokenLimits(ahead, footage, normal)) high->destination.clear();
    made.push_back(*high);
    ahead.deliverables.push_back(std::move(*high));
  }
  const int first = int(m_document.project().deliverables.size());
  m_document.addDeliverables(made, tr("Add %n high versions", nullptr, int(made.size())));
  std::vector<int> columns(made.size());
  std::iota(columns.begin(), columns.end(), first);
  m_session.selectDeliverables(columns);
  emit specAsked();
}

void EditActions::editDeliverable(int column) {
  if (column < 0 || column >= int(m_document.project().deliverables.size())) return;
  m_session.selectDeliverables({column});
  emit specAsked();
}

void EditActions::renameShot(int row) {
  if (row < 0 || row >= int(m_document.project().shots.size())) return;
  bool accepted = false;
  const QString name =
      QInputDialog::getText(m_window, tr("Rename the shot"), tr("Name"), QLineEdit::Normal,
                            QString::fromStdString(m_document.project().shots[size_t(row)].name), &accepted);
  if (accepted) m_document.renameShot(row, name);
}

void EditActions::showSavedFramings() {
  const bool bench = m_views.bench.isVisible();
  const CellPlace at = m_session.current();
  std::optional<Cell> current;
  if (bench && m_views.bench.bench().media())
    current = m_views.bench.bench().cell(m_views.bench.bench().column());
  else if (!bench && at.shot >= 0)
    current = m_document.cell(at);
  const auto apply = [this, bench](const Framing& framing) {
    if (bench)
      m_views.bench.bench().placing().apply(shifted(framing, m_views.bench.bench().shot()->in), tr("A saved framing"));
    else
      m_views.sheet.change(tr("A saved framing"), [&framing](const Cell& cell) { return shifted(framing, cell.in); });
  };
  // The times of a saved move count from the shot's beginning, so that it fits any other shot.
  std::optional<Framing> kept;
  if (current) kept = shifted(current->framing, Rational(0) - current->in);
  FramingDialog dialog(kept, m_savedFramings, apply, m_window);
  if (bench) dialog.forOneCell();
  dialog.exec();
}

} // namespace tromb
