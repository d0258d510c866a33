// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/dispatch/QueueList.h"

#include "app/style/Theme.h"
#include "export/Exporter.h"
#include "model/Translation.h"
#include "time/Timecode.h"

#include <QDateTime>
#include <QDropEvent>
#include <QHeaderView>
#include <QLocale>
#include <QPainter>
#include <QStyledItemDelegate>
#include <algorithm>

namespace tromb {
namespace {

constexpr size_t kOpenOver = 4; ///< jobs that lie open
constexpr int kNoState = -1;
constexpr int kPad = 6;
constexpr int kBarHeight = 4;
constexpr int kShape = 10;

QString shortTime(double seconds) {
  return QString::fromStdString(clockText(Rational(int64_t(seconds + 0.5))));
}

QString dayTime(int64_t seconds) {
  const QDateTime time = QDateTime::fromSecsSinceEpoch(seconds);
  const QLocale locale;
  return time.date() == QDate::currentDate() ? locale.toString(time.time(), QLocale::ShortFormat)
                                             : locale.toString(time, QLocale::ShortFormat);
}

QString stageWord(const std::string& state) {
  const auto is = [&](ExportState of) { return state == exportStateWord(of); };
  return is(ExportState::Encoding)    ? QueueList::tr("encoding")
         : is(ExportState::Finishing) ? QueueList::tr("finishing")
         : is(ExportState::Proofing)  ? QueueList::tr("proofing")
         : is(ExportState::Done)      ? QueueList::tr("done")
                                      : QueueList::tr("waiting");
}

/// Two lines: the name with the status's shape and what stands at the right, and below it what there is to say, or a
/// bar.
class QueueDelegate : public QStyledItemDelegate {
public:
  using QStyledItemDelegate::QStyledItemDelegate;
  QSize sizeHint(const QStyleOptionViewItem& option, const QModelIndex& index) const override {
    const bool second = !index.data(QueueList::SecondRole).toString().isEmpty();
    const bool bar = index.data(QueueList::FractionRole).isValid();
    const int line = option.fontMetrics.height();
    return {120, 2 * kPad + line + (second ? line + 2 : 0) + (bar ? kBarHeight + 6 : 0)};
  }
  void paint(QPainter* painter, const QStyleOptionViewItem& option, const QModelIndex& index) const override {
    QStyleOptionViewItem o = option;
    initStyleOption(&o, index);
    const QString name = std::exchange(o.text, QString());
    const QStyle* style = o.widget->style();
    const QRect check = style->subElementRect(QStyle::SE_ItemViewItemCheckIndicator, &o, o.widget);
    const bool tick = o.features & QStyleOptionViewItem::HasCheckIndicator;
    // The tick stands in the first line.
    style->drawPrimitive(QStyle::PE_PanelItemViewItem, &o, painter, o.widget);
    const Theme& theme = Theme::current();
    const QFontMetrics& metrics = o.fontMetrics;
    QRect area = o.rect.adjusted(kPad, kPad, -kPad, -kPad);
    if (tick) {
      QStyleOptionViewItem box = o;
      box.rect =
          QRect(area.left(), area.top() + (metrics.height() - check.height()) / 2, check.width(), check.height());
      box.state &= ~(QStyle::State_On | QStyle::State_Off);
      box.state |= o.checkState == Qt::Checked ? QStyle::State_On : QStyle::State_Off;
      style->drawPrimitive(QStyle::PE_IndicatorItemViewItemCheck, &box, painter, o.widget);
      area.setLeft(box.rect.right() + kPad);
    }
    painter->save();
    const bool enabled = o.state & QStyle::State_Enabled;
    const bool selected = o.state & QStyle::State_Selected;
    const QColor ink = selected ? theme.onAccent : enabled ? theme.ink : theme.faint;
    const QColor faint = selected ? theme.onAccent : theme.faint;
    const int state = index.data(QueueList::StateRole).isValid() ? index.data(QueueList::StateRole).toInt() : kNoState;
    if (state != kNoState) {
      drawStatusShape(*painter, QRectF(area.left(), area.top() + (metrics.height() - kShape) / 2.0, kShape, kShape),
                      Cell::State(state), selected ? theme.onAccent : QColor());
      area.setLeft(area.left() + kShape + kPad);
    }
    const bool heading = !index.parent().isValid();
    QFont font = o.font;
    font.setBold(heading);
    const QString aside = index.data(QueueList::AsideRole).toString();
    const int wide = aside.isEmpty() ? 0 : metrics.horizontalAdvance(aside) + 12;
    painter->setPen(ink);
    painter->setFont(font);
    const QRect line(area.left(), area.top(), area.width(), metrics.height());
    int from = 0;
    if (heading && index.model()->hasChildren(index)) {
      const auto* tree = static_cast<const QTreeView*>(o.widget);
      painter->drawText(line, Qt::AlignLeft | Qt::AlignVCenter, QString::fromUtf8(tree->isExpanded(index) ? "▾" : "▸"));
      from = kShape + kPad;
    }
    painter->drawText(line.adjusted(from, 0, -wide, 0), Qt::AlignLeft | Qt::AlignVCenter,
                      QFontMetrics(font).elidedText(name, Qt::ElideMiddle, line.width() - wide - from));
    painter->setFont(o.font);
    painter->setPen(faint);
    painter->drawText(line, Qt::AlignRight | Qt::AlignVCenter, aside);
    int y = line.bottom() + 3;
    const QString second = index.data(QueueList::SecondRole).toString();
    if (!second.isEmpty()) {
      const bool alarming = !selected && state != kNoState && Cell::State(state) != Cell::State::Good;
      painter->setPen(alarming ? statusColour(Cell::State(state)) : faint);
      painter->drawText(QRect(area.left(), y, area.width(), metrics.height()), Qt::AlignLeft | Qt::AlignVCenter,
                        metrics.elidedText(second, Qt::ElideRight, area.width()));
      y += metrics.height() + 4;
    }
    if (const QVariant fraction = index.data(QueueList::FractionRole); fraction.isValid()) {
      const QRectF track(area.left(), y, area.width(), kBarHeight);
      painter->setPen(Qt::NoPen);
      painter->setRenderHint(QPainter::Antialiasing);
      painter->setBrush(theme.line);
      painter->drawRoundedRect(track, 2, 2);
      painter->setBrush(selected ? theme.onAccent : theme.accent);
      painter->drawRoundedRect(QRectF(track.topLeft(), QSizeF(track.width() * fraction.toDouble(), kBarHeight)), 2, 2);
    }
    painter->restore();
    if (o.state & QStyle::State_HasFocus) {
      QStyleOptionFocusRect focus;
      focus.QStyleOption::operator=(o);
      focus.rect = o.rect;
      style->drawPrimitive(QStyle::PE_FrameFocusRect, &focus, painter, o.widget);
    }
  }

protected:
  bool editorEvent(QEvent* event, QAbstractItemModel* model, const QStyleOptionViewItem& option,
                   const QModelIndex& index) override {
    // The tick is where this draws it, in the first line.
    QStyleOptionViewItem o = option;
    o.rect.setHeight(o.fontMetrics.height() + 2 * kPad);
    return QStyledItemDelegate::editorEvent(event, model, o, index);
  }
};

} // namespace

const JobProgress::Each* underWay(const QueuedJob& job, const JobResult& result) {
  if (!job.attended || !job.progress || result.made() || result.state == JobResult::State::Failed) return nullptr;
  for (const JobProgress::Each& each : job.progress->each)
    if (each.deliverable == result.deliverable) return &each;
  return nullptr;
}

Cell::State resultState(const JobResult& result) {
  switch (result.state) {
  case JobResult::State::Short:
    return Cell::State::Soft;
  case JobResult::State::Failed:
    return Cell::State::Unusable;
  default:
    return Cell::State::Good;
  }
}

QString resultWords(const QueuedJob& job, const JobResult& result) {
  using State = JobResult::State;
  if (const JobProgress::Each* now = underWay(job, result)) {
    if (job.progress->missingBytes > 0)
      return QueueList::tr("waits for room on the disk: %1 short")
          .arg(QString::fromStdString(bytesText(job.progress->missingBytes)));
    if (job.record.state == JobRecord::State::Paused) return QueueList::tr("paused");
    QStringList parts{stageWord(now->state)};
    if (now->framesASecond > 0)
      parts << QueueList::tr("%1 frames a second").arg(QString::number(now->framesASecond, 'f', 0));
    if (now->bytes > 0)
      parts << (now->expectedBytes > now->bytes ? QueueList::tr("%1 of about %2")
                                                      .arg(QString::fromStdString(bytesText(now->bytes)),
                                                           QString::fromStdString(bytesText(now->expectedBytes)))
                                                : QString::fromStdString(bytesText(now->bytes)));
    return parts.join(QStringLiteral(" · "));
  }
  switch (result.state) {
  case State::Waiting:
  case State::Naming:
    return QueueList::tr("waiting");
  case State::Cancelled:
    return QueueList::tr("cancelled");
  case State::Failed:
    return result.error ? said(*result.error) : QueueList::tr("failed");
  case State::Done:
  case State::Short:
    break;
  }
  if (!result.proof) return QueueList::tr("made, not proofed");
  int made = 0;
  QStringList amiss;
  for (const ProofCheck& check : result.proof->checks) {
    made += check.made ? 1 : 0;
    if (!check.pass) amiss << said(check.title());
  }
  for (const Message& loss : result.losses) amiss << said(loss);
  if (result.taken) return QueueList::tr("taken as it is, not right: %1").arg(amiss.join(QStringLiteral(", ")));
  return amiss.isEmpty() ? QueueList::tr("as asked · %n checks", nullptr, made)
                         : QueueList::tr("not right: %1").arg(amiss.join(QStringLiteral(", ")));
}

QString jobWords(const QueuedJob& job) {
  using State = JobRecord::State;
  if (job.fault) return QueueList::tr("its files are damaged");
  switch (job.record.state) {
  case State::Waiting:
    return QueueList::tr("waiting");
  case State::Running:
    if (!job.attended || !job.progress) return QueueList::tr("begins");
    return job.progress->remainingSeconds > 0 ? QueueList::tr("%1 % · %2 left")
                                                    .arg(int(job.progress->fraction * 100))
                                                    .arg(shortTime(job.progress->remainingSeconds))
                                              : QueueList::tr("%1 %").arg(int(job.progress->fraction * 100));
  case State::Paused:
    return job.attended && job.progress ? QueueList::tr("paused at %1 %").arg(int(job.progress->fraction * 100))
                                        : QueueList::tr("paused");
  case State::Done: {
    const bool shortOf = std::any_of(job.record.results.begin(), job.record.results.end(),
                                     [](const JobResult& each) { return each.state == JobResult::State::Short; });
    return (shortOf ? QueueList::tr("not all right · %1") : QueueList::tr("done %1")).arg(dayTime(job.record.ended));
  }
  case State::Failed:
    return QueueList::tr("failed · %1").arg(dayTime(job.record.ended));
  case State::Cancelled:
    return QueueList::tr("cancelled · %1").arg(dayTime(job.record.ended));
  }
  return {};
}

QueueList::QueueList(QueueService& queue, QWidget* parent)
    : QTreeWidget(parent), m_queue(queue), m_sending(new QTreeWidgetItem(this)) {
  setObjectName(QStringLiteral("queueList"));
  setAccessibleName(tr("What is to be sent, and the queue"));
  setItemDelegate(new QueueDelegate(this));
  setHeaderHidden(true);
  setRootIsDecorated(false); // the delegate draws what is folded
  setIndentation(14);
  setVerticalScrollMode(QAbstractItemView::ScrollPerPixel);
  setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  setDragDropMode(QAbstractItemView::InternalMove);
  setMouseTracking(true);
  m_sending->setData(0, KindRole, int(Place::Kind::Sending));
  m_sending->setText(0, tr("To be sent"));
  m_sending->setExpanded(true);
  m_sending->setFlags(Qt::ItemIsEnabled | Qt::ItemIsSelectable);
  connect(this, &QTreeWidget::currentItemChanged, this, [this] {
    if (!m_filling) emit currentPlaceChanged();
  });
  connect(this, &QTreeWidget::itemChanged, this, [this](QTreeWidgetItem* item) {
    if (m_filling || placeOf(item).kind != Place::Kind::Candidate) return;
    emit chosen(placeOf(item).deliverable, item->checkState(0) == Qt::Checked);
  });
  connect(&queue, &QueueService::changed, this, &QueueList::showJobs);
  connect(this, &QTreeWidget::itemExpanded, this, &QueueList::showJobs, Qt::QueuedConnection);
  connect(this, &QTreeWidget::itemCollapsed, this, &QueueList::showJobs, Qt::QueuedConnection);
  showJobs();
  setCurrentItem(m_sending);
}

QueueList::Place QueueList::placeOf(const QTreeWidgetItem* item) {
  if (!item) return {};
  const QStringList parts = item->data(0, IdsRole).toStringList();
  Place place{Place::Kind(item->data(0, KindRole).toInt()), {}, {}};
  if (parts.size() == 2) {
    place.job = parts[0].toStdString();
    place.deliverable = parts[1].toStdString();
  }
  return place;
}

namespace {
void setPlace(QTreeWidgetItem& item, const QueueList::Place& place) {
  item.setData(0, QueueList::KindRole, int(place.kind));
  item.setData(0, QueueList::IdsRole,
               QStringList{QString::fromStdString(place.job), QString::fromStdString(place.deliverable)});
}
} // namespace

QueueList::Place QueueList::current() const {
  return placeOf(currentItem());
}

QTreeWidgetItem* QueueList::itemOf(const Place& place) const {
  for (int i = 0; i < topLevelItemCount(); ++i) {
    QTreeWidgetItem* top = topLevelItem(i);
    if (placeOf(top) == place) return top;
    for (int k = 0; k < top->childCount(); ++k)
      if (placeOf(top->child(k)) == place) return top->child(k);
  }
  return nullptr;
}

void QueueList::setCurrent(const Place& place) {
  if (QTreeWidgetItem* item = itemOf(place)) {
    setCurrentItem(item);
    scrollToItem(item);
  }
}

void QueueList::showCandidates(const std::vector<SendForm::Candidate>& candidates) {
  m_filling = true;
  const Place before = current();
  while (m_sending->childCount() > int(candidates.size())) delete m_sending->takeChild(m_sending->childCount() - 1);
  while (m_sending->childCount() < int(candidates.size())) new QTreeWidgetItem(m_sending);
  int count = 0;
  for (size_t i = 0; i < candidates.size(); ++i) {
    const SendForm::Candidate& each = candidates[i];
    QTreeWidgetItem& item = *m_sending->child(int(i));
    setPlace(item, {Place::Kind::Candidate, {}, each.id});
    item.setFlags(Qt::ItemIsSelectable |
                  (each.possible ? Qt::ItemIsEnabled | Qt::ItemIsUserCheckable : Qt::NoItemFlags));
    item.setData(0, Qt::DisplayRole, each.name);
    item.setData(0, AsideRole, each.facts);
    item.setData(0, SecondRole, each.verdict);
    item.setData(0, StateRole, int(each.state));
    item.setData(0, Qt::CheckStateRole, int(each.chosen ? Qt::Checked : Qt::Unchecked));
    item.setData(0, Qt::AccessibleTextRole, QStringLiteral("%1, %2, %3").arg(each.name, each.facts, each.verdict));
    item.setToolTip(0, each.verdict);
    count += each.chosen ? 1 : 0;
  }
  m_sending->setData(0, AsideRole, tr("%1 of %2").arg(count).arg(candidates.size()));
  m_sending->setHidden(candidates.empty());
  m_sending->setExpanded(true);
  m_filling = false;
  if (current() != before) {
    setCurrent(before);
    emit currentPlaceChanged();
  }
}

void QueueList::showFile(QTreeWidgetItem& item, const QueuedJob& job, const JobResult& result) {
  setPlace(item, {Place::Kind::File, job.id, result.deliverable});
  item.setFlags(Qt::ItemIsEnabled | Qt::ItemIsSelectable);
  const JobProgress::Each* now = underWay(job, result);
  const QString name = QString::fromStdString(result.name);
  const QString words = resultWords(job, result);
  const QString aside = now && now->fraction > 0 ? QStringLiteral("%1 %").arg(int(now->fraction * 100))
                        : result.made()          ? QString::fromStdString(bytesText(result.bytes))
                                                 : QString();
  item.setData(0, Qt::DisplayRole, name);
  item.setData(0, SecondRole, words);
  item.setData(0, AsideRole, aside);
  item.setData(0, FractionRole, now ? QVariant(now->fraction) : QVariant());
  const bool over = result.made() || result.state == JobResult::State::Failed;
  item.setData(0, StateRole, over ? QVariant(int(resultState(result))) : QVariant());
  item.setData(0, Qt::AccessibleTextRole, QStringLiteral("%1, %2, %3").arg(name, aside, words));
  item.setToolTip(0, result.path.empty() ? words : QString::fromStdString(result.path));
}

void QueueList::showJob(QTreeWidgetItem& item, const QueuedJob& job) {
  setPlace(item, {Place::Kind::Job, job.id, {}});
  const bool waits = !job.fault && !job.record.over() && !job.attended;
  item.setFlags(Qt::ItemIsEnabled | Qt::ItemIsSelectable | (waits ? Qt::ItemIsDragEnabled : Qt::NoItemFlags));
  QString name = job.fault ? QString::fromStdString(job.id) : QString::fromStdString(job.job.project);
  if (!job.job.region.empty()) name += QStringLiteral(" · ") + QString::fromStdString(job.job.region);
  item.setData(0, Qt::DisplayRole, name);
  item.setData(0, AsideRole, jobWords(job));
  QStringList files;
  for (const JobResult& each : job.record.results) files << QString::fromStdString(each.name);
  item.setData(0, SecondRole,
               job.fault           ? said(*job.fault)
               : job.record.error  ? said(*job.record.error)
               : item.isExpanded() ? QString()
                                   : files.join(QStringLiteral(", ")));
  item.setData(0, StateRole, job.fault || job.record.error ? QVariant(int(Cell::State::Unusable)) : QVariant());
  item.setData(0, Qt::AccessibleTextRole, QStringLiteral("%1, %2").arg(name, jobWords(job)));
  while (item.childCount() > int(job.record.results.size())) delete item.takeChild(item.childCount() - 1);
  while (item.childCount() < int(job.record.results.size())) new QTreeWidgetItem(&item);
  for (size_t i = 0; i < job.record.results.size(); ++i) showFile(*item.child(int(i)), job, job.record.results[i]);
}

void QueueList::showJobs() {
  m_filling = true;
  const Place before = current();
  std::vector<const QueuedJob*> jobs;
  for (const QueuedJob& each : m_queue.jobs()) jobs.push_back(&each);
  const auto rank = [](const QueuedJob* job) { return job->fault || job->record.over() ? 2 : job->attended ? 0 : 1; };
  std::stable_sort(jobs.begin(), jobs.end(), [&](const QueuedJob* a, const QueuedJob* b) {
    if (rank(a) != rank(b)) return rank(a) < rank(b);
    return rank(a) == 2 && a->record.ended > b->record.ended;
  });
  while (topLevelItemCount() > int(jobs.size()) + 1) delete takeTopLevelItem(topLevelItemCount() - 1);
  while (topLevelItemCount() < int(jobs.size()) + 1) new QTreeWidgetItem(this);
  size_t over = 0;
  for (size_t i = 0; i < jobs.size(); ++i) {
    QTreeWidgetItem& item = *topLevelItem(int(i) + 1);
    // What is under way and what is over lately lie open, also what failed; what somebody has folded or opened stays
    // so.
    const int its = rank(jobs[i]);
    const bool failed = jobs[i]->fault || jobs[i]->record.state == JobRecord::State::Failed;
    const bool open = its == 0 || (its == 2 && (over++ < kOpenOver || failed));
    const QString stage = QString::fromStdString(jobs[i]->id) + QString::number(its);
    if (item.data(0, StageRole).toString() != stage) {
      item.setData(0, StageRole, stage);
      item.setExpanded(open || jobs.size() <= kOpenOver);
    }
    showJob(item, *jobs[i]);
  }
  m_filling = false;
  if (current() != before) setCurrent(before);
  emit currentPlaceChanged();
}

std::optional<size_t> QueueList::placeBeside(const std::string& job, int steps) const {
  std::vector<std::string> waiting;
  const auto& all = m_queue.jobs();
  for (const QueuedJob& each : all)
    if (!each.fault && !each.record.over() && !each.attended) waiting.push_back(each.id);
  const auto at = std::find(waiting.begin(), waiting.end(), job);
  if (at == waiting.end()) return std::nullopt;
  const ptrdiff_t to = at - waiting.begin() + steps;
  if (to < 0 || to >= ptrdiff_t(waiting.size())) return std::nullopt;
  const std::string& other = waiting[size_t(to)];
  const auto place = std::find_if(all.begin(), all.end(), [&](const QueuedJob& each) { return each.id == other; });
  return size_t(place - all.begin());
}

void QueueList::dragMoveEvent(QDragMoveEvent* event) {
  QTreeWidget::dragMoveEvent(event);
  const QTreeWidgetItem* over = itemAt(event->position().toPoint());
  event->setAccepted(over && placeOf(over).kind != Place::Kind::Candidate);
}

/// Nothing is moved here: the queue is, and then shown.
void QueueList::dropEvent(QDropEvent* event) {
  event->setDropAction(Qt::IgnoreAction);
  event->accept();
  const std::string job = current().job;
  const QTreeWidgetItem* over = itemAt(event->position().toPoint());
  const auto& all = m_queue.jobs();
  const std::string other = placeOf(over).job;
  size_t place = placeOf(over).kind == Place::Kind::Sending ? 0 : all.size(); // above all jobs, or below them
  for (size_t i = 0; i < all.size(); ++i)
    if (all[i].id == other) place = i;
  if (!job.empty() && job != other) emit moved(job, place);
}

} // namespace tromb
