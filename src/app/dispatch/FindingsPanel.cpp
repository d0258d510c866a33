// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/dispatch/FindingsPanel.h"

#include "app/dispatch/WeightsDialog.h"
#include "app/style/Theme.h"
#include "model/Translation.h"

#include <QHBoxLayout>
#include <QHeaderView>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QPainter>
#include <QPushButton>
#include <QTreeWidget>
#include <QVBoxLayout>
#include <map>

namespace tromb {
namespace {

constexpr int kPlace = Qt::UserRole;    ///< of a finding; −1 for a kind
constexpr int kKind = Qt::UserRole + 1; ///< its code; of those that were accepted with a sign behind it

Cell::State stateOf(Severity severity) {
  return severity == Severity::Error     ? Cell::State::Unusable
         : severity == Severity::Warning ? Cell::State::Soft
                                         : Cell::State::Waiting;
}

QIcon signOf(Severity severity) {
  constexpr int kSide = 12;
  QPixmap pixmap(kSide * 2, kSide * 2);
  pixmap.setDevicePixelRatio(2);
  pixmap.fill(Qt::transparent);
  QPainter painter(&pixmap);
  drawStatusShape(painter, {1, 1, kSide - 2.0, kSide - 2.0}, stateOf(severity));
  return pixmap;
}

} // namespace

FindingsPanel::FindingsPanel(Session& session, PreflightService& preflight, QWidget* parent)
    : QWidget(parent), m_session(session), m_preflight(preflight), m_list(new QTreeWidget(this)),
      m_head(new QLabel(this)), m_go(new QPushButton(tr("Show it"), this)), m_mend(new QPushButton(this)),
      m_mendAll(new QPushButton(this)), m_accept(new QPushButton(this)),
      m_weights(new QPushButton(tr("What counts …"), this)), m_word(new QLineEdit(this)) {
  setObjectName(QStringLiteral("findings"));
  setProperty("bar", true);
  setAttribute(Qt::WA_StyledBackground);
  setAccessibleName(tr("Preflight"));
  auto* rows = new QVBoxLayout(this);
  rows->setContentsMargins(12, 6, 12, 8);
  rows->setSpacing(5);
  auto* top = new QHBoxLayout;
  m_head->setProperty("rank", "head");
  top->addWidget(m_head, 1);
  for (QPushButton* each : {m_go, m_mend, m_mendAll, m_accept, m_weights}) {
    each->setAutoDefault(true);
    top->addWidget(each);
  }
  rows->addLayout(top);
  m_word->setAccessibleName(tr("Why it may be so"));
  m_word->setPlaceholderText(tr("Why it may be so. Return accepts it, Escape does not."));
  m_word->setMaxLength(200);
  m_word->setVisible(false);
  m_word->installEventFilter(this);
  rows->addWidget(m_word);
  m_list->setAccessibleName(tr("What falls short"));
  m_list->setColumnCount(3);
  m_list->setHeaderHidden(true);
  m_list->setUniformRowHeights(true);
  m_list->setSelectionMode(QAbstractItemView::ExtendedSelection);
  m_list->header()->setStretchLastSection(true);
  rows->addWidget(m_list, 1);
  setMinimumHeight(fontMetrics().height() * 10);
  connect(m_list, &QTreeWidget::itemSelectionChanged, this, &FindingsPanel::refreshButtons);
  connect(m_list, &QTreeWidget::itemActivated, this, &FindingsPanel::go);
  connect(m_go, &QPushButton::clicked, this, &FindingsPanel::go);
  connect(m_mend, &QPushButton::clicked, this, [this] { mend(false); });
  connect(m_mendAll, &QPushButton::clicked, this, [this] { mend(true); });
  m_weights->setToolTip(tr("How much each kind of finding weighs in this project"));
  connect(m_weights, &QPushButton::clicked, this, [this] {
    WeightsDialog dialog(m_session.document(), m_preflight, this);
    dialog.exec();
  });
  connect(m_accept, &QPushButton::clicked, this, &FindingsPanel::accept);
  connect(m_word, &QLineEdit::returnPressed, this, [this] {
    const QString word = m_word->text().trimmed();
    if (word.isEmpty()) return;
    m_preflight.accept(std::move(m_accepting), word);
    endAccepting();
  });
  // There may be thousands: they are listed only while somebody looks.
  connect(&preflight, &PreflightService::changed, this, [this] {
    if (isVisible()) refresh();
  });
  refresh();
}

void FindingsPanel::showEvent(QShowEvent* event) {
  QWidget::showEvent(event);
  refresh();
}

void FindingsPanel::resizeEvent(QResizeEvent* event) {
  QWidget::resizeEvent(event);
  constexpr int kShares[] = {27, 43}; // percent: where, what; the rest is what to do
  for (int column = 0; column < 2; ++column) m_list->setColumnWidth(column, width() * kShares[column] / 100);
}

void FindingsPanel::refresh() {
  // What is unfolded and chosen stays so: by its kind, and its place among that.
  std::map<QString, bool> open;
  for (int i = 0; i < m_list->topLevelItemCount(); ++i)
    open[m_list->topLevelItem(i)->data(0, kKind).toString()] = m_list->topLevelItem(i)->isExpanded();
  const QTreeWidgetItem* was = m_list->currentItem();
  const QString chosen = was ? was->data(0, kKind).toString() : QString();
  const bool group = was && !was->parent();
  const QSignalBlocker quiet(m_list);
  m_list->clear();
  std::map<std::pair<int, std::string>, QTreeWidgetItem*> kinds;
  const std::vector<Finding>& all = m_preflight.findings();
  for (int i = 0; i < int(all.size()); ++i) {
    const Finding& f = all[size_t(i)];
    const QString kind = QString::fromStdString(f.code) + (f.accepted ? QStringLiteral("+") : QString());
    QTreeWidgetItem*& of = kinds[{f.accepted ? 1 : -int(f.severity), f.code}];
    if (!of) {
      of = new QTreeWidgetItem(m_list);
      of->setData(0, kPlace, -1);
      of->setData(0, kKind, kind);
      of->setIcon(0, signOf(f.severity));
    }
    auto* item = new QTreeWidgetItem(of);
    item->setData(0, kPlace, i);
    item->setData(0, kKind, kind);
    const QString where =
        f.deliverable.empty() ? QString::fromStdString(f.shot)
        : f.shot.empty()      ? QString::fromStdString(f.deliverable)
                         : tr("%1 · %2").arg(QString::fromStdString(f.deliverable), QString::fromStdString(f.shot));
    item->setText(0, where.isEmpty() ? tr("The project") : where);
    item->setText(1, said(f.message));
    item->setText(2, f.accepted ? tr("accepted: %1").arg(QString::fromStdString(f.word)) : said(f.fix));
    item->setData(0, Qt::AccessibleTextRole,
                  tr("%1, %2: %3").arg(item->text(0), severityWords(f.severity), item->text(1)));
    if (item->text(2).isEmpty()) item->setData(2, Qt::AccessibleTextRole, tr("nothing has to be done"));
    for (int column = 0; column < 3; ++column) item->setToolTip(column, item->text(column));
  }
  for (const auto& [key, of] : kinds) {
    const bool accepted = key.first > 0;
    const Severity severity = accepted ? Severity::Note : Severity(-key.first);
    of->setText(0, tr("%1 × %2").arg(of->childCount()).arg(accepted ? tr("accepted") : severityWords(severity)));
    of->setText(1, said(findingKind(key.second)->name));
    of->setData(2, Qt::AccessibleTextRole, tr("all of a kind"));
    of->setExpanded(open.contains(of->data(0, kKind).toString()) ? open[of->data(0, kKind).toString()]
                                                                 : severity == Severity::Error);
    if (of->data(0, kKind).toString() == chosen) m_list->setCurrentItem(group ? of : of->child(0));
  }
  const auto& [errors, warnings, notes] = m_preflight.all();
  m_head->setText(all.empty() ? tr("Preflight: nothing falls short")
                              : tr("Preflight: %1, %2, %3")
                                    .arg(tr("%n errors", nullptr, errors), tr("%n warnings", nullptr, warnings),
                                         tr("%n notes", nullptr, notes)));
  refreshButtons();
}

std::vector<int> FindingsPanel::placesOf(const QTreeWidgetItem* item) const {
  std::vector<int> places;
  if (!item) return places;
  if (item->data(0, kPlace).toInt() >= 0) return {item->data(0, kPlace).toInt()};
  for (int i = 0; i < item->childCount(); ++i) places.push_back(item->child(i)->data(0, kPlace).toInt());
  return places;
}

void FindingsPanel::refreshButtons() {
  const QTreeWidgetItem* item = m_list->currentItem();
  const std::vector<int> places = placesOf(item);
  const Finding* first = places.empty() ? nullptr : &m_preflight.findings()[size_t(places.front())];
  m_go->setEnabled(first && (!first->deliverableId.empty() || !first->shotId.empty()));
  const bool mends = first && !first->fixes.empty() && !first->accepted;
  m_accept->setVisible(first && !findingKind(first->code)->stops);
  m_accept->setText(first && first->accepted ? tr("Accept no longer")
                    : places.size() > 1      ? tr("Accept all of its kind …")
                                             : tr("Accept …"));
  m_mend->setVisible(mends && item->parent());
  m_mendAll->setVisible(mends);
  if (!mends) return;
  m_mend->setText(said(first->fixes.front().words));
  m_mendAll->setText(tr("Mend all of its kind"));
}

void FindingsPanel::go() {
  const std::vector<int> places = placesOf(m_list->currentItem());
  if (places.empty()) return;
  const Finding& f = m_preflight.findings()[size_t(places.front())];
  const Project& project = m_session.document().project();
  const int column = placeOf(project.deliverables, f.deliverableId);
  const int row = placeOf(project.shots, f.shotId);
  if (column >= 0) m_session.selectDeliverables({column});
  if (row >= 0) {
    m_session.lookAt(row);
    m_session.selectCells({{row, std::max(0, column)}}, {row, std::max(0, column)});
    emit shotAsked();
  } else if (column >= 0) {
    emit deliverableAsked();
  }
}

/// Asks for a word why, or takes an acceptance back.
void FindingsPanel::accept() {
  const std::vector<int> places = placesOf(m_list->currentItem());
  if (places.empty()) return;
  if (m_preflight.findings()[size_t(places.front())].accepted) return m_preflight.takeBack(places);
  m_accepting = m_preflight.acceptable(places);
  m_word->clear();
  m_word->setVisible(true);
  m_word->setFocus(Qt::OtherFocusReason);
}

void FindingsPanel::endAccepting() {
  m_accepting.clear();
  m_word->setVisible(false);
  m_list->setFocus(Qt::OtherFocusReason);
}

bool FindingsPanel::eventFilter(QObject* watched, QEvent* event) {
  if (watched == m_word && event->type() == QEvent::KeyPress &&
      static_cast<QKeyEvent*>(event)->key() == Qt::Key_Escape) {
    endAccepting();
    return true;
  }
  return QWidget::eventFilter(watched, event);
}

void FindingsPanel::mend(bool all) {
  const QTreeWidgetItem* item = m_list->currentItem();
  if (!item) return;
  if (all && item->parent()) item = item->parent();
  const std::vector<int> places = placesOf(item);
  if (places.empty()) return;
  const Finding& first = m_preflight.findings()[size_t(places.front())];
  m_preflight.mend(places, tr("Mend: %1").arg(said(first.fixes.empty() ? first.message : first.fixes.front().words)));
}

} // namespace tromb
