// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/footage/FootageView.h"

#include "app/footage/SourcePanel.h"
#include "app/style/Icons.h"
#include "app/style/Settings.h"
#include "app/style/Theme.h"

#include <QComboBox>
#include <QDropEvent>
#include <QHBoxLayout>
#include <QInputDialog>
#include <QLabel>
#include <QLineEdit>
#include <QListView>
#include <QMenu>
#include <QMimeData>
#include <QMouseEvent>
#include <QPushButton>
#include <QScrollArea>
#include <QSplitter>
#include <QToolButton>
#include <QTreeWidget>
#include <QVBoxLayout>
#include <algorithm>

namespace tromb {
namespace {

constexpr int kGroupRole = Qt::UserRole + 1;

QString groupId(const QTreeWidgetItem* item) {
  return item ? item->data(0, kGroupRole).toString() : QString();
}

/// The groups; sources are dropped on them.
class GroupTree : public QTreeWidget {
public:
  GroupTree(std::function<void(const std::string&)> moveTo, QWidget* parent)
      : QTreeWidget(parent), m_moveTo(std::move(moveTo)) {
    setAcceptDrops(true);
    setDropIndicatorShown(true);
  }

protected:
  void dragEnterEvent(QDragEnterEvent* event) override {
    if (event->source() && !event->mimeData()->hasUrls()) event->acceptProposedAction();
  }
  void dragMoveEvent(QDragMoveEvent* event) override {
    setCurrentItem(itemAt(event->position().toPoint()), 0, QItemSelectionModel::NoUpdate);
    event->setAccepted(itemAt(event->position().toPoint()) != nullptr);
  }
  void dropEvent(QDropEvent* event) override {
    if (const QTreeWidgetItem* item = itemAt(event->position().toPoint())) m_moveTo(groupId(item).toStdString());
    event->setDropAction(Qt::IgnoreAction); // the list keeps its rows
    event->accept();
  }

private:
  std::function<void(const std::string&)> m_moveTo;
};

} // namespace

FootageView::FootageView(Session& session, Actions& actions, StripService& strips, LightService& lights,
                         QWidget* parent)
    : QWidget(parent), m_session(session), m_document(session.document()), m_actions(actions), m_model(m_document),
      m_filter(m_model), m_delegate(new FootageDelegate(m_filter, strips, this)),
      m_viewer(new SourceViewer(session, lights, this)), m_panel(new SourcePanel(m_document, lights, this)) {
  m_actions.belongTo(Where::OnFootage, this, [this] { return isVisible() && !m_session.sources().empty(); });
  m_actions.bind("add-shot", [this] { emit addRequested(false); });
  m_actions.bind("add-bed", [this] { emit addBedRequested(); });
  m_actions.bind(
      "add-overlay", [this] { emit addOverlayRequested(); },
      [this] {
        return !m_document.project().shots.empty() && std::ranges::all_of(m_session.sources(), [this](int row) {
          const Result<MediaInfo>* media = m_document.media(m_document.project().sources[size_t(row)].id);
          return media && *media && (*media)->kind == MediaKind::Still;
        });
      });
  setObjectName(QStringLiteral("footageView"));
  setAccessibleName(tr("Footage"));
  setAcceptDrops(true);
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(0, 0, 0, 0);
  row->setSpacing(0);
  auto* parts = new QSplitter(Qt::Horizontal, this);
  parts->setChildrenCollapsible(false);
  parts->setHandleWidth(1);
  parts->addWidget(buildGroups());
  parts->addWidget(buildList());
  auto* right = new QWidget(parts);
  auto* column = new QVBoxLayout(right);
  column->setContentsMargins(12, 10, 12, 8);
  column->setSpacing(6);
  column->addWidget(m_viewer);
  column->addWidget(m_panel, 1);
  auto* scrolled = new QScrollArea(parts);
  scrolled->setWidgetResizable(true);
  scrolled->setFrameShape(QFrame::NoFrame);
  scrolled->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  // The scroll bar is always shown. If it came and went, the width and thereby the picture's height would change
  // endlessly.
  scrolled->setVerticalScrollBarPolicy(Qt::ScrollBarAlwaysOn);
  scrolled->setFocusPolicy(Qt::NoFocus);
  scrolled->setAccessibleName(tr("The chosen source"));
  scrolled->setWidget(right);
  scrolled->setMinimumWidth(330);
  parts->addWidget(scrolled);
  parts->setStretchFactor(0, 0);
  parts->setStretchFactor(1, 3);
  parts->setStretchFactor(2, 2);
  parts->setSizes({170, 680, 430});
  parts->restoreState(Settings::left(QStringLiteral("footageParts")).toByteArray());
  connect(parts, &QSplitter::splitterMoved, this,
          [parts] { Settings::setLeft(QStringLiteral("footageParts"), parts->saveState()); });
  setForm(Settings::left(QStringLiteral("footageCards"), false).toBool() ? FootageDelegate::Form::Card
                                                                         : FootageDelegate::Form::Row);
  row->addWidget(parts);

  connect(&strips, &StripService::ready, this, [this] { m_list->viewport()->update(); });
  connect(m_viewer, &SourceViewer::addRequested, this, &FootageView::addRequested);
  connect(m_panel, &SourcePanel::addBedRequested, this, &FootageView::addBedRequested);
  for (const auto signal : {&Document::reset, &Document::groupsChanged})
    connect(&m_document, signal, this, &FootageView::refreshGroups);
  for (const auto signal : {&Document::reset, &Document::deliverablesInserted, &Document::deliverablesRemoved})
    connect(&m_document, signal, this, &FootageView::refreshFacts);
  connect(&m_filter, &QAbstractItemModel::modelReset, this, [this] { refreshCount(); });
  connect(&m_filter, &QAbstractItemModel::rowsInserted, this, [this] { refreshCount(); });
  connect(&m_filter, &QAbstractItemModel::rowsRemoved, this, [this] { refreshCount(); });
  connect(&m_document, &Document::mediaChanged, this, [this] { refreshCount(); });
  connect(&m_document, &Document::sourcesRemoved, this, [this] { refreshCount(); });
  refreshGroups();
  refreshFacts();
  refreshCount();
}

QWidget* FootageView::buildGroups() {
  auto* page = new QWidget(this);
  page->setProperty("bar", true);
  page->setAttribute(Qt::WA_StyledBackground);
  page->setMinimumWidth(130);
  auto* column = new QVBoxLayout(page);
  column->setContentsMargins(6, 8, 6, 8);
  m_groups = new GroupTree([this](const std::string& group) { moveTo(group); }, page);
  m_groups->setObjectName(QStringLiteral("groups"));
  m_groups->setAccessibleName(tr("Groups of footage"));
  m_groups->setHeaderHidden(true);
  m_groups->setFrameShape(QFrame::NoFrame);
  m_groups->setIndentation(14);
  m_groups->setContextMenuPolicy(Qt::CustomContextMenu);
  column->addWidget(m_groups, 1);
  auto* add = new QToolButton(page);
  add->setIcon(icon(QStringLiteral("folder-plus")));
  add->setText(tr("New group"));
  add->setToolButtonStyle(Qt::ToolButtonTextBesideIcon);
  add->setToolTip(tr("A group inside the one that is chosen; drag footage onto it"));
  column->addWidget(add);
  connect(add, &QToolButton::clicked, this, &FootageView::newGroup);
  connect(m_groups, &QTreeWidget::itemSelectionChanged, this, [this] {
    m_filter.setGroup(groupId(m_groups->currentItem()));
    refreshCount();
  });
  connect(m_groups, &QTreeWidget::itemChanged, this, [this](const QTreeWidgetItem* item) {
    std::vector<Group> groups = m_document.project().groups;
    const int at = placeOf(groups, groupId(item).toStdString());
    const std::string name = item->text(0).trimmed().toStdString();
    if (at < 0 || name.empty() || groups[size_t(at)].name == name) return;
    groups[size_t(at)].name = name;
    m_document.setGroups(groups, tr("Rename group"));
  });
  connect(m_groups, &QWidget::customContextMenuRequested, this, &FootageView::groupMenu);
  return page;
}

QWidget* FootageView::buildList() {
  auto* page = new QWidget(this);
  auto* column = new QVBoxLayout(page);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(0);
  auto* bar = new QWidget(page);
  auto* row = new QHBoxLayout(bar);
  row->setContentsMargins(10, 8, 10, 6);
  row->setSpacing(6);
  m_search = new QLineEdit(bar);
  m_search->setPlaceholderText(tr("Find by name or fact"));
  m_search->setAccessibleName(tr("Find footage by name or fact"));
  m_search->setClearButtonEnabled(true);
  m_fact = new QComboBox(bar);
  m_fact->setAccessibleName(tr("Show only footage with this fact"));
  m_order = new QComboBox(bar);
  m_order->setAccessibleName(tr("Order of the footage"));
  m_order->addItems({tr("as brought in"), tr("by name"), tr("by length"), tr("by pixels"), tr("by rate"), tr("by scan"),
                     tr("by bit depth"), tr("by colour"), tr("by channels"), tr("by loudness"), tr("by file size")});
  m_down = new QToolButton(bar);
  m_down->setCheckable(true);
  m_down->setIcon(icon(QStringLiteral("arrow-down")));
  m_down->setAccessibleName(tr("Largest first"));
  m_down->setToolTip(tr("Largest first"));
  m_rows = new QToolButton(bar);
  m_cards = new QToolButton(bar);
  for (QToolButton* button : {m_rows, m_cards}) button->setCheckable(true);
  m_rows->setIcon(icon(QStringLiteral("list")));
  m_rows->setAccessibleName(tr("As a list"));
  m_rows->setToolTip(tr("As a list"));
  m_cards->setIcon(icon(QStringLiteral("layout-grid")));
  m_cards->setAccessibleName(tr("As a grid"));
  m_cards->setToolTip(tr("As a grid"));
  m_count = new QLabel(bar);
  m_count->setProperty("rank", "faint");
  row->addWidget(m_search, 1);
  row->addWidget(m_fact);
  row->addWidget(m_order);
  for (QToolButton* button : {m_down, m_rows, m_cards}) row->addWidget(button);
  row->addWidget(m_count);
  column->addWidget(bar);

  m_missingBar = new QWidget(page);
  auto* missing = new QHBoxLayout(m_missingBar);
  missing->setContentsMargins(10, 2, 10, 8);
  m_missing = new QLabel(m_missingBar);
  m_findMissing = new QPushButton(icon(QStringLiteral("search")), tr("Look in a folder …"), m_missingBar);
  missing->addWidget(m_missing, 1);
  missing->addWidget(m_findMissing);
  column->addWidget(m_missingBar);
  connect(m_findMissing, &QPushButton::clicked, this, &FootageView::lookForMissingRequested);

  m_list = new QListView(page);
  m_list->setObjectName(QStringLiteral("footageList"));
  m_list->setAccessibleName(tr("Sources"));
  m_list->setModel(&m_filter);
  m_list->setItemDelegate(m_delegate);
  m_list->setSelectionMode(QAbstractItemView::ExtendedSelection);
  m_list->setEditTriggers(QAbstractItemView::NoEditTriggers); // the window's F2 renames
  m_list->setVerticalScrollMode(QAbstractItemView::ScrollPerPixel);
  m_list->setFrameShape(QFrame::NoFrame);
  m_list->setMouseTracking(true);
  m_list->setDragEnabled(true);
  m_list->setDragDropMode(QAbstractItemView::DragOnly);
  m_list->setContextMenuPolicy(Qt::CustomContextMenu);
  m_list->viewport()->installEventFilter(this);
  m_list->setUniformItemSizes(true);
  column->addWidget(m_list, 1);
  setFocusProxy(m_list);
  setForm(FootageDelegate::Form::Row);

  connect(m_search, &QLineEdit::textChanged, this, [this](const QString& text) {
    m_filter.setText(text);
    refreshCount();
  });
  connect(m_fact, &QComboBox::activated, this, &FootageView::chooseFact);
  const auto order = [this] { m_filter.setOrder(FootageFilter::Order(m_order->currentIndex()), m_down->isChecked()); };
  connect(m_order, &QComboBox::activated, this, order);
  connect(m_down, &QToolButton::toggled, this, order);
  connect(m_rows, &QToolButton::clicked, this, [this] { setForm(FootageDelegate::Form::Row); });
  connect(m_cards, &QToolButton::clicked, this, [this] { setForm(FootageDelegate::Form::Card); });
  connect(m_list->selectionModel(), &QItemSelectionModel::selectionChanged, this, &FootageView::takeSelection);
  connect(&m_session, &Session::sourcesSelected, this, &FootageView::showSelection);
  connect(m_list, &QListView::doubleClicked, this, [this] { m_viewer->setFocus(); });
  connect(m_list, &QWidget::customContextMenuRequested, this, &FootageView::itemMenu);
  return page;
}

void FootageView::setForm(FootageDelegate::Form form) {
  m_delegate->setForm(form);
  const bool cards = form == FootageDelegate::Form::Card;
  m_list->setViewMode(cards ? QListView::IconMode : QListView::ListMode);
  m_list->setMovement(QListView::Static);
  m_list->setResizeMode(QListView::Adjust);
  m_list->setDragEnabled(true); // the view mode changes it
  m_list->setSpacing(cards ? 4 : 0);
  m_rows->setChecked(!cards);
  m_cards->setChecked(cards);
  m_list->doItemsLayout();
  Settings::setLeft(QStringLiteral("footageCards"), cards);
}

void FootageView::takeSelection() {
  std::vector<int> rows;
  for (const QModelIndex& index : m_list->selectionModel()->selectedIndexes())
    rows.push_back(m_filter.mapToSource(index).row());
  std::sort(rows.begin(), rows.end());
  // The current one first: it is what is looked at.
  const QModelIndex current = m_filter.mapToSource(m_list->currentIndex());
  if (const auto at = std::find(rows.begin(), rows.end(), current.row()); at != rows.end())
    std::rotate(rows.begin(), at, at + 1);
  m_session.selectSources(rows);
}

void FootageView::showSelection() {
  const std::vector<int> rows = m_session.sources();
  QItemSelection shown;
  for (const int row : rows)
    if (const QModelIndex index = m_filter.mapFromSource(m_model.index(row)); index.isValid())
      shown.select(index, index);
  QItemSelectionModel& selection = *m_list->selectionModel();
  if (selection.selection() != shown) {
    const QModelIndex first = rows.empty() ? QModelIndex() : m_filter.mapFromSource(m_model.index(rows.front()));
    if (first.isValid()) selection.setCurrentIndex(first, QItemSelectionModel::NoUpdate);
    selection.select(shown, QItemSelectionModel::ClearAndSelect);
    if (first.isValid()) m_list->scrollTo(first);
  }
  m_viewer->setSource(rows.empty() ? std::string() : m_document.project().sources[size_t(rows.front())].id);
  m_panel->setSources(rows);
}

std::string FootageView::shownGroup() const {
  return groupId(m_groups->currentItem()).toStdString();
}

void FootageView::refreshGroups() {
  const QString shown = groupId(m_groups->currentItem());
  const QSignalBlocker quiet(m_groups);
  m_groups->clear();
  auto* all = new QTreeWidgetItem(m_groups, {tr("All footage")});
  m_groups->setCurrentItem(all);
  const std::function<void(QTreeWidgetItem*, const std::string&)> fill = [&](QTreeWidgetItem* parent,
                                                                             const std::string& id) {
    for (const Group& group : m_document.project().groups) {
      if (group.parent != id) continue;
      auto* item = parent ? new QTreeWidgetItem(parent) : new QTreeWidgetItem(m_groups);
      item->setText(0, QString::fromStdString(group.name));
      item->setData(0, kGroupRole, QString::fromStdString(group.id));
      item->setFlags(item->flags() | Qt::ItemIsEditable);
      if (shown == QString::fromStdString(group.id)) m_groups->setCurrentItem(item);
      fill(item, group.id);
    }
  };
  fill(nullptr, {});
  m_groups->expandAll();
  m_filter.setGroup(groupId(m_groups->currentItem()));
  refreshCount();
}

void FootageView::refreshFacts() {
  const QString before = m_fact->currentText();
  m_fact->clear();
  using Fact = FootageFilter::Fact;
  const std::pair<QString, Fact> facts[] = {{tr("Everything"), Fact::Any},
                                            {tr("moving pictures"), Fact::Video},
                                            {tr("stills"), Fact::Still},
                                            {tr("sound only"), Fact::Sound},
                                            {tr("above 30 frames a second"), Fact::FastRate},
                                            {tr("interlaced"), Fact::Interlaced},
                                            {tr("variable rate"), Fact::Variable},
                                            {tr("pixels not square"), Fact::NotSquare},
                                            {tr("bars burned in"), Fact::Bars},
                                            {tr("HDR"), Fact::Hdr},
                                            {tr("silent"), Fact::Silent},
                                            {tr("slow motion material"), Fact::SlowMotion},
                                            {tr("not used yet"), Fact::Unused},
                                            {tr("missing or unreadable"), Fact::Missing}};
  for (const auto& [text, fact] : facts) m_fact->addItem(text, QStringList{QString::number(int(fact)), {}});
  for (const Deliverable& d : m_document.project().deliverables)
    m_fact->addItem(tr("softer than %1 needs").arg(QString::fromStdString(d.name)),
                    QStringList{QString::number(int(Fact::SofterThan)), QString::fromStdString(d.id)});
  m_fact->setCurrentIndex(std::max(0, m_fact->findText(before)));
  m_fact->setMaximumWidth(190);
  chooseFact();
}

void FootageView::chooseFact() {
  const QStringList chosen = m_fact->currentData().toStringList();
  m_filter.setFact(FootageFilter::Fact(chosen.value(0).toInt()), chosen.value(1).toStdString());
  refreshCount();
}

void FootageView::refreshCount() {
  const int all = m_model.rowCount();
  const int shown = m_filter.rowCount();
  m_count->setText(shown == all ? tr("%n sources", nullptr, all) : tr("%1 of %2").arg(shown).arg(all));
  int missing = 0;
  for (int row = 0; row < all; ++row)
    if (const auto* media = m_document.media(m_model.source(row).id))
      missing += !*media && media->error().code == ErrorCode::Missing ? 1 : 0;
  m_missingBar->setVisible(missing > 0);
  m_missing->setText(tr("%n files are missing. Shots made from them cannot be exported.", nullptr, missing));
  colourWords(m_missing, Theme::current().broken);
}

void FootageView::newGroup() {
  std::vector<Group> groups = m_document.project().groups;
  Group group;
  group.id = freshId(groups, "g");
  group.name = tr("New group").toStdString();
  group.parent = shownGroup();
  groups.push_back(group);
  m_document.setGroups(groups, tr("New group"));
  for (QTreeWidgetItem* item : m_groups->findItems(QString(), Qt::MatchContains | Qt::MatchRecursive))
    if (groupId(item).toStdString() == group.id) m_groups->editItem(item);
}

bool FootageView::hasGroupFocus() const {
  return m_groups->hasFocus() && !shownGroup().empty();
}

void FootageView::renameGroup() {
  m_groups->editItem(m_groups->currentItem());
}

/// Its footage and the groups in it go to the group that it is in.
void FootageView::removeGroup() {
  const std::string gone = shownGroup();
  std::vector<Group> groups = m_document.project().groups;
  const int at = placeOf(groups, gone);
  if (at < 0) return;
  const std::string parent = groups[size_t(at)].parent;
  std::vector<Source> changed;
  for (Source source : m_document.project().sources)
    if (source.group == gone) {
      source.group = parent;
      changed.push_back(source);
    }
  std::erase_if(groups, [&](const Group& group) { return group.id == gone; });
  for (Group& group : groups)
    if (group.parent == gone) group.parent = parent;
  m_document.undoStack().beginMacro(tr("Remove group"));
  m_document.changeSources(changed, {});
  m_document.setGroups(groups, {});
  m_document.undoStack().endMacro();
}

void FootageView::moveTo(const std::string& group) {
  std::vector<Source> changed;
  for (const int row : m_session.sources()) {
    changed.push_back(m_document.project().sources[size_t(row)]);
    changed.back().group = group;
  }
  m_document.changeSources(changed, tr("Move to a group"));
  refreshCount();
}

void FootageView::groupMenu(const QPoint& at) {
  if (QTreeWidgetItem* item = m_groups->itemAt(at)) m_groups->setCurrentItem(item); // what the menu is of is seen
  const QString id = groupId(m_groups->itemAt(at));
  QMenu menu(this);
  menu.addAction(tr("New group"), this, &FootageView::newGroup);
  if (!id.isEmpty()) {
    menu.addAction(tr("Rename"), this, &FootageView::renameGroup);
    menu.addAction(tr("Remove the group, keep its footage"), this, &FootageView::removeGroup);
  }
  menu.exec(m_groups->viewport()->mapToGlobal(at));
}

void FootageView::itemMenu(const QPoint& at) {
  if (m_session.sources().empty()) return;
  QMenu menu(this);
  m_actions.refresh();
  menu.addAction(m_actions.at("add-shot"));
  menu.addAction(m_actions.at("add-bed"));
  menu.addAction(m_actions.at("add-overlay"));
  menu.addSeparator();
  menu.addAction(m_actions.at("rename"));
  QMenu* groups = menu.addMenu(tr("Move to group"));
  groups->addAction(tr("No group"), this, [this] { moveTo({}); });
  for (const Group& group : m_document.project().groups)
    groups->addAction(QString::fromStdString(group.name), this, [this, id = group.id] { moveTo(id); });
  menu.addSeparator();
  menu.addAction(m_actions.at("remove"));
  menu.exec(m_list->viewport()->mapToGlobal(at));
}

void FootageView::removeSelected() {
  m_document.removeSources(m_session.sources());
}

void FootageView::renameSelected() {
  m_list->edit(m_list->currentIndex());
}

bool FootageView::hasListFocus() const {
  return m_list->hasFocus();
}

bool FootageView::eventFilter(QObject* watched, QEvent* event) {
  if (watched == m_list->viewport() && (event->type() == QEvent::MouseMove || event->type() == QEvent::Leave)) {
    QModelIndex index;
    double along = 0;
    if (event->type() == QEvent::MouseMove) {
      const auto* mouse = static_cast<QMouseEvent*>(event);
      index = m_list->indexAt(mouse->position().toPoint());
      const QRect picture = m_delegate->pictureRect(m_list->visualRect(index));
      along = (mouse->position().x() - picture.left()) / picture.width();
      if (!picture.contains(mouse->position().toPoint())) index = {};
    }
    m_delegate->setScrub(index, along);
    m_list->viewport()->update();
  }
  return QWidget::eventFilter(watched, event);
}

void FootageView::dragEnterEvent(QDragEnterEvent* event) {
  if (event->mimeData()->hasUrls()) event->acceptProposedAction();
}

void FootageView::dropEvent(QDropEvent* event) {
  QStringList files;
  for (const QUrl& url : event->mimeData()->urls())
    if (url.isLocalFile()) files << url.toLocalFile();
  event->acceptProposedAction();
  emit filesDropped(files);
}

} // namespace tromb
