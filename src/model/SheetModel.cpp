// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/SheetModel.h"

#include "model/Translation.h"
#include "project/Sharing.h"
#include "project/Timing.h"
#include "time/Timecode.h"

#include <algorithm>
#include <cmath>
#include <string_view>

namespace tromb {

SheetModel::SheetModel(Document& document, QObject* parent) : QAbstractTableModel(parent), m_document(document) {
  connect(&document, &Document::aboutToReset, this, &SheetModel::beginResetModel);
  connect(&document, &Document::reset, this, [this] {
    forget();
    endResetModel();
  });
  connect(&document, &Document::shotsAboutToBeInserted, this, [this](int first, int last) {
    m_from = first;
    beginInsertRows({}, first, last);
  });
  connect(&document, &Document::shotsInserted, this, [this] {
    for (Column& column : m_columns)
      if (column.known) {
        column.states.insert(column.states.begin() + m_from, Cell::State::Waiting);
        ++column.counts[size_t(Cell::State::Waiting)];
      }
    for (int c = 0; c < int(m_columns.size()); ++c) lookAgain({m_from, c});
    endInsertRows();
  });
  connect(&document, &Document::shotsAboutToBeRemoved, this, [this](int first, int last) {
    m_from = first;
    beginRemoveRows({}, first, last);
  });
  connect(&document, &Document::shotsRemoved, this, [this] {
    for (Column& column : m_columns)
      if (column.known) {
        --column.counts[size_t(column.states[size_t(m_from)])];
        column.states.erase(column.states.begin() + m_from);
      }
    endRemoveRows();
  });
  // Qt's target row is counted before the move.
  connect(&document, &Document::shotAboutToMove, this, [this](int from, int to) {
    m_from = from;
    m_to = to;
    beginMoveRows({}, from, from, {}, to > from ? to + 1 : to);
  });
  connect(&document, &Document::shotMoved, this, [this] {
    for (Column& column : m_columns)
      if (column.known) {
        const Cell::State moved = column.states[size_t(m_from)];
        column.states.erase(column.states.begin() + m_from);
        column.states.insert(column.states.begin() + m_to, moved);
      }
    endMoveRows();
  });
  connect(&document, &Document::deliverablesAboutToBeInserted, this,
          [this](int first, int last) { beginInsertColumns({}, first, last); });
  connect(&document, &Document::deliverablesInserted, this, [this] {
    forget();
    endInsertColumns();
  });
  connect(&document, &Document::deliverablesAboutToBeRemoved, this,
          [this](int first, int last) { beginRemoveColumns({}, first, last); });
  connect(&document, &Document::deliverablesRemoved, this, [this] {
    forget();
    endRemoveColumns();
  });
  connect(&document, &Document::deliverableAboutToMove, this,
          [this](int from, int to) { beginMoveColumns({}, from, from, {}, to > from ? to + 1 : to); });
  connect(&document, &Document::deliverableMoved, this, [this] {
    forget();
    endMoveColumns();
  });
  connect(&document, &Document::shotChanged, this, [this](int row) { rowsChanged({row}); });
  connect(&document, &Document::deliverableChanged, this, [this](int column) {
    if (size_t(column) < m_columns.size()) m_columns[size_t(column)].known = false;
    emit headerDataChanged(Qt::Horizontal, column, column);
    if (rowCount() > 0) emit dataChanged(index(0, column), index(rowCount() - 1, column));
  });
  connect(&document, &Document::framingsChanged, this, [this](const std::vector<CellPlace>& places) {
    for (const CellPlace& place : places) {
      lookAgain(place);
      const QModelIndex at = index(place.shot, place.deliverable);
      emit dataChanged(at, at);
      emit headerDataChanged(Qt::Horizontal, place.deliverable, place.deliverable);
    }
  });
  const auto sourcesChanged = [this](const QStringList& ids) {
    std::vector<int> rows;
    for (int row = 0; row < rowCount(); ++row)
      if (m_document.shows(row, ids)) rows.push_back(row);
    rowsChanged(rows);
  };
  connect(&document, &Document::mediaChanged, this, sourcesChanged);
  connect(&document, &Document::sourceChanged, this, [this, sourcesChanged](int row) {
    sourcesChanged({QString::fromStdString(m_document.project().sources[size_t(row)].id)});
  });
}

void SheetModel::setPreflight(const PreflightService& preflight) {
  m_preflight = &preflight;
  connect(&preflight, &PreflightService::changed, this, &SheetModel::takeFindings);
}

void SheetModel::takeFindings() {
  m_beside.clear();
  m_settled.clear();
  const auto& findings = m_preflight->findings();
  for (const Finding& f : findings) {
    if (f.deliverableId.empty() || f.severity < Severity::Warning || toldByState(f)) continue;
    const Deliverable* d = m_document.project().deliverable(f.deliverableId);
    Beside& beside = m_beside[d ? framedAs(*d) : f.deliverableId]; // what shares a column is told in its head
    ++beside.count;
    beside.worst = std::min(beside.worst, f.errs() ? Cell::State::Unusable : Cell::State::Soft);
  }
  if (rowCount() == 0 || columnCount() == 0) return;
  const auto open = [&findings](int place) {
    return findings[size_t(place)].severity >= Severity::Warning && toldByState(findings[size_t(place)]);
  };
  for (int c = 0; c < columnCount(); ++c)
    for (int row = 0; row < rowCount(); ++row) {
      const Cell::State state = column(c).states[size_t(row)];
      if (state != Cell::State::Bars && state != Cell::State::Soft) continue;
      const std::string& deliverable = m_document.project().deliverables[size_t(c)].id;
      const std::string& shot = m_document.project().shots[size_t(row)].id;
      const std::vector<int> places = m_preflight->placesIn(deliverable, shot);
      if (std::any_of(places.begin(), places.end(), open)) continue;
      m_settled.emplace(deliverable, shot);
      ++m_beside[deliverable].settled[size_t(state)];
    }
  emit dataChanged(index(0, 0), index(rowCount() - 1, columnCount() - 1), {AmissRole, SettledRole, Qt::ToolTipRole});
  emit headerDataChanged(Qt::Horizontal, 0, columnCount() - 1);
}

std::vector<const Finding*> SheetModel::findingsBeside(CellPlace place) const {
  if (!m_preflight) return {};
  const Project& p = m_document.project();
  return m_preflight->besideState(p.deliverables[size_t(place.deliverable)].id, p.shots[size_t(place.shot)].id);
}

void SheetModel::lookAgain(CellPlace place) {
  if (size_t(place.deliverable) >= m_columns.size() || !m_columns[size_t(place.deliverable)].known) return;
  Column& column = m_columns[size_t(place.deliverable)];
  Cell::State& state = column.states[size_t(place.shot)];
  --column.counts[size_t(state)];
  state = m_document.cell(place).state;
  ++column.counts[size_t(state)];
}

void SheetModel::rowsChanged(const std::vector<int>& rows) {
  if (rows.empty()) return;
  for (const int row : rows) {
    for (int c = 0; c < int(m_columns.size()); ++c) lookAgain({row, c});
    emit headerDataChanged(Qt::Vertical, row, row);
    if (columnCount() > 0) emit dataChanged(index(row, 0), index(row, columnCount() - 1));
  }
  if (columnCount() > 0) emit headerDataChanged(Qt::Horizontal, 0, columnCount() - 1);
}

const SheetModel::Column& SheetModel::column(int column) const {
  if (m_columns.size() != size_t(columnCount())) m_columns.assign(size_t(columnCount()), {});
  Column& known = m_columns[size_t(column)];
  if (known.known) return known;
  known = {};
  for (int row = 0; row < rowCount(); ++row) {
    known.states.push_back(m_document.cell({row, column}).state);
    ++known.counts[size_t(known.states.back())];
  }
  known.known = true;
  return known;
}

int SheetModel::rowCount(const QModelIndex& parent) const {
  return parent.isValid() ? 0 : int(m_document.project().shots.size());
}

int SheetModel::columnCount(const QModelIndex& parent) const {
  return parent.isValid() ? 0 : int(m_document.project().deliverables.size());
}

QVariant SheetModel::data(const QModelIndex& index, int role) const {
  if (!checkIndex(index, CheckIndexOption::IndexIsValid)) return {};
  const auto cell = [&] { return m_document.cell({index.row(), index.column()}); };
  switch (role) {
  case CellRole:
    return QVariant::fromValue(cell());
  case CadenceRole:
    return QVariant::fromValue(m_document.cadence({index.row(), index.column()}));
  case SettledRole: {
    const Project& p = m_document.project();
    return m_settled.contains({p.deliverables[size_t(index.column())].id, p.shots[size_t(index.row())].id});
  }
  case AmissRole:
    return int(findingsBeside({index.row(), index.column()}).size());
  case Qt::DisplayRole:
    return cellWords(cell());
  case Qt::ToolTipRole: {
    const Cell c = cell();
    if (c.state == Cell::State::Unusable) return c.reason;
    if (c.state == Cell::State::Waiting) return tr("The source is being looked at");
    QString tip = tr("%1 · detail %2 source pixels a canvas pixel")
                      .arg(layoutWords(c.framing), QString::fromStdString(detailText(c.detail)));
    if (c.state == Cell::State::Soft)
      tip += tr("\nThe picture is soft: it is enlarged. Ways out: two stacked, a backdrop, a smaller canvas.");
    if (c.state == Cell::State::Bars)
      tip += tr("\nThe picture leaves %1 % of the canvas uncovered.").arg(c.uncoveredPercent, 0, 'f', 1);
    if (const auto cadence = m_document.cadence({index.row(), index.column()}))
      tip += QLatin1Char('\n') + said(cadence->words());
    for (const Finding* f : findingsBeside({index.row(), index.column()})) tip += QLatin1Char('\n') + said(f->message);
    return tip;
  }
  case Qt::AccessibleTextRole: {
    const Project& p = m_document.project();
    const Cell c = cell();
    const int more = int(findingsBeside({index.row(), index.column()}).size());
    return tr("%1 in %2: %3, %4%5%6")
        .arg(QString::fromStdString(p.shots[size_t(index.row())].name),
             QString::fromStdString(p.deliverables[size_t(index.column())].name), layoutWords(c.framing), cellWords(c),
             c.framing.byHand() ? tr(", by hand") : QString(), more > 0 ? tr(", %n more", nullptr, more) : QString());
  }
  default:
    return {};
  }
}

QVariant SheetModel::headerData(int section, Qt::Orientation orientation, int role) const {
  if (section < 0 || section >= (orientation == Qt::Horizontal ? columnCount() : rowCount())) return {};
  const QStringList lines = orientation == Qt::Horizontal ? deliverableLines(section) : shotLines(section);
  if (role == Qt::DisplayRole) return lines.first();
  if (role == Qt::ToolTipRole || role == Qt::AccessibleTextRole) {
    const QString more = orientation == Qt::Horizontal ? bitRateWords(section) : QString();
    return more.isEmpty() ? lines.join('\n') : lines.join('\n') + '\n' + more;
  }
  return {};
}

Cell::State SheetModel::worstInColumn(int place) const {
  const auto beside = m_beside.find(m_document.project().deliverables[size_t(place)].id);
  Cell::State worst = beside == m_beside.end() ? Cell::State::Good : beside->second.worst;
  for (const Cell::State state : {Cell::State::Soft, Cell::State::Bars, Cell::State::Unusable})
    if (countInColumn(place, state) > 0) worst = std::min(worst, state);
  return worst;
}

int SheetModel::countInColumn(int place, Cell::State state) const {
  const auto beside = m_beside.find(m_document.project().deliverables[size_t(place)].id);
  const int settled = beside == m_beside.end() ? 0 : beside->second.settled[size_t(state)];
  return std::max(0, column(place).counts[size_t(state)] - settled);
}

QStringList SheetModel::deliverableLines(int column) const {
  const Deliverable& d = m_document.project().deliverables[size_t(column)];
  const Encoding e = resolvedEncoding(d);
  const auto bytes = expectedBytes(e, durationIn(m_document.project(), m_document.footage(), d));
  const bool byQuality = e.hasPicture() && *e.rateControl == RateControl::ConstantQuality;
  const QString much = e.copies    ? tr("copies")
                       : byQuality ? tr("quality %1").arg(*e.crf)
                       : bytes     ? QString::fromStdString(bytesText(*bytes))
                                   : QString::fromStdString(std::string(e.info().name));
  const auto sharers = int(sharersOf(m_document.project().deliverables, d).size());
  QStringList lines{QString::fromStdString(d.name)};
  if (e.hasPicture())
    lines << QString::fromStdString(sizeText(d.canvas)) +
                 (sharers > 1 ? tr(" · %n versions", nullptr, sharers) : QString())
          << QString::fromStdString(d.rate.name()) + QStringLiteral(" · ") + much;
  else
    lines << said(codecText(e)) << much;
  const int unusable = countInColumn(column, Cell::State::Unusable);
  const int bars = countInColumn(column, Cell::State::Bars);
  const int soft = countInColumn(column, Cell::State::Soft);
  QStringList short_;
  if (unusable > 0) short_ << tr("%1 missing").arg(unusable);
  if (bars > 0) short_ << tr("%1 with bars").arg(bars);
  if (soft > 0) short_ << tr("%1 soft").arg(soft);
  const auto beside = m_beside.find(d.id);
  if (const int more = beside == m_beside.end() ? 0 : beside->second.count; more > 0)
    short_ << (short_.isEmpty() ? tr("%n to look at", nullptr, more) : tr("%n more", nullptr, more));
  lines << (short_.isEmpty() ? rowCount() > 0 ? tr("ready") : tr("no shots yet") : short_.join(QStringLiteral(" · ")));
  return lines;
}

QString SheetModel::bitRateWords(int column) const {
  const Deliverable& d = m_document.project().deliverables[size_t(column)];
  const Encoding e = resolvedEncoding(d);
  if (!e.hasPicture() || !expectedBytes(e, Rational(1))) return {};
  return tr("bit rate %1").arg(QString::fromStdString(bitRateText(e.bitRate)));
}

QStringList SheetModel::shotLines(int row) const {
  const Shot& shot = m_document.project().shots[size_t(row)];
  QStringList lines{QStringLiteral("%1  %2").arg(row + 1).arg(QString::fromStdString(shot.name))};
  const Result<MediaInfo>* media = m_document.media(shot.source);
  if (!media) return lines << tr("looking …");
  if (!*media) return lines << (media->error().code == ErrorCode::Missing ? tr("file missing") : tr("cannot be read"));
  if (!(*media)->video) return lines << tr("no picture");
  const VideoInfo& video = *(*media)->video;
  const Source& source = *m_document.project().source(shot.source);
  const SizeF size = video.shape().uprightWithBars();
  const QString pixels = QStringLiteral("%1×%2").arg(std::lround(size.width)).arg(std::lround(size.height));
  if ((*media)->kind == MediaKind::Still)
    lines << tr("%1 · still").arg(pixels);
  else
    lines << tr("%1 · %2%3")
                 .arg(pixels, QString::fromStdString(video.clock.rate().name()),
                      video.clock.variable()                       ? tr(" variable")
                      : scanOf(source, video) == Scan::Progressive ? QString()
                                                                   : tr(" interlaced"));
  QString length = QString::fromStdString(clockText(shot.duration()));
  if (!source.bars.none()) length += tr(" · bars cut");
  if ((*media)->kind == MediaKind::Video && (*media)->audio.empty()) length += tr(" · silent");
  lines << length;
  if (const double guess = suggestion(row); guess > 0)
    lines << (guess < kSureEnough ? tr("subject in doubt, %1 %") : tr("subject suggested, %1 %"))
                 .arg(qRound(guess * 100));
  return lines;
}

double SheetModel::suggestion(int row) const {
  double least = 0;
  for (const Subject& subject : m_document.project().shots[size_t(row)].subjects)
    if (subject.guess > 0 && (least == 0 || subject.guess < least)) least = subject.guess;
  return least;
}

} // namespace tromb
