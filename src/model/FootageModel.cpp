// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/FootageModel.h"

#include "model/SourceFacts.h"
#include "time/Timecode.h"

#include <algorithm>

namespace tromb {

FootageModel::FootageModel(Document& document, QObject* parent) : QAbstractListModel(parent), m_document(document) {
  const auto changed = [this](int row) { emit dataChanged(index(row), index(row)); };
  const auto all = [this] {
    if (rowCount() > 0) emit dataChanged(index(0), index(rowCount() - 1));
  };
  connect(&document, &Document::aboutToReset, this, &FootageModel::beginResetModel);
  connect(&document, &Document::reset, this, &FootageModel::endResetModel);
  connect(&document, &Document::sourcesAboutToBeInserted, this,
          [this](int first, int last) { beginInsertRows({}, first, last); });
  connect(&document, &Document::sourcesInserted, this, &FootageModel::endInsertRows);
  connect(&document, &Document::sourcesAboutToBeRemoved, this,
          [this](int first, int last) { beginRemoveRows({}, first, last); });
  connect(&document, &Document::sourcesRemoved, this, &FootageModel::endRemoveRows);
  connect(&document, &Document::sourceChanged, this, changed);
  connect(&document, &Document::mediaChanged, this, [this, changed](const QStringList& ids) {
    for (const QString& id : ids)
      if (const int row = m_document.rowOfSource(id.toStdString()); row >= 0) changed(row);
  });
  // A source's findings depend on the deliverables, and whether it is used depends on the shots.
  connect(&document, &Document::deliverablesInserted, this, all);
  connect(&document, &Document::deliverablesRemoved, this, all);
  connect(&document, &Document::deliverableChanged, this, all);
  connect(&document, &Document::shotsInserted, this, all);
  connect(&document, &Document::shotsRemoved, this, all);
}

int FootageModel::rowCount(const QModelIndex& parent) const {
  return parent.isValid() ? 0 : int(m_document.project().sources.size());
}

const MediaInfo* FootageModel::media(int row) const {
  const Result<MediaInfo>* known = m_document.media(source(row).id);
  return known && *known ? &**known : nullptr;
}

bool FootageModel::unused(int row) const {
  const auto uses = [&](const auto& item) { return item.source == source(row).id; };
  const Project& p = m_document.project();
  return std::ranges::none_of(p.shots, uses) && std::ranges::none_of(p.beds, uses) &&
         std::ranges::none_of(p.elements, uses);
}

QVariant FootageModel::data(const QModelIndex& index, int role) const {
  if (!checkIndex(index, CheckIndexOption::IndexIsValid)) return {};
  const Source& s = source(index.row());
  switch (role) {
  case Qt::DisplayRole:
  case Qt::EditRole:
    return QString::fromStdString(sourceName(s));
  case Qt::ToolTipRole:
    return QString::fromStdString(s.path);
  case Qt::AccessibleTextRole: {
    QString said = QString::fromStdString(sourceName(s));
    if (const MediaInfo* info = media(index.row()))
      said += QStringLiteral(", ") + factsLine(readingOf(m_document.project().sources[size_t(index.row())], *info));
    for (const Consequence& c : consequencesOf(m_document, s))
      said += QStringLiteral("; ") + c.about + QStringLiteral(": ") + c.text;
    return said;
  }
  default:
    return {};
  }
}

bool FootageModel::setData(const QModelIndex& index, const QVariant& value, int role) {
  const std::string name = value.toString().trimmed().toStdString();
  if (role != Qt::EditRole || !checkIndex(index, CheckIndexOption::IndexIsValid) || name.empty()) return false;
  Source changed = source(index.row());
  if (sourceName(changed) == name) return false;
  changed.name = name;
  m_document.changeSources({changed}, tr("Rename '%1'").arg(data(index, Qt::DisplayRole).toString()));
  return true;
}

Qt::ItemFlags FootageModel::flags(const QModelIndex& index) const {
  return QAbstractListModel::flags(index) |
         (index.isValid() ? Qt::ItemIsEditable | Qt::ItemIsDragEnabled : Qt::NoItemFlags);
}

FootageFilter::FootageFilter(FootageModel& model, QObject* parent) : QSortFilterProxyModel(parent), m_model(model) {
  setSourceModel(&model);
  setDynamicSortFilter(true);
  sort(0);
}

void FootageFilter::setText(const QString& text) {
  m_text = text.trimmed();
  invalidateFilter();
}

void FootageFilter::setGroup(const QString& groupId) {
  m_group = groupId.toStdString();
  invalidateFilter();
}

void FootageFilter::setFact(Fact fact, const std::string& deliverable) {
  m_fact = fact;
  m_deliverable = deliverable;
  invalidateFilter();
}

void FootageFilter::setOrder(Order order, bool descending) {
  m_order = order;
  invalidate();
  sort(0, descending ? Qt::DescendingOrder : Qt::AscendingOrder);
}

bool FootageFilter::inGroup(const std::string& group) const {
  if (m_group.empty()) return true;
  const auto& groups = m_model.document().project().groups;
  std::string up = group;
  for (size_t steps = 0; !up.empty() && steps <= groups.size(); ++steps) {
    if (up == m_group) return true;
    const int at = placeOf(groups, up);
    up = at < 0 ? std::string() : groups[size_t(at)].parent;
  }
  return false;
}

bool FootageFilter::hasFact(int row) const {
  if (m_fact == Fact::Any) return true;
  if (m_fact == Fact::Unused) return m_model.unused(row);
  const MediaInfo* media = m_model.media(row);
  if (m_fact == Fact::Missing) return !media && m_model.document().media(m_model.source(row).id);
  if (!media) return false;
  if (m_fact == Fact::Sound) return media->kind == MediaKind::Audio;
  if (!media->video) return false;
  const VideoInfo& video = *media->video;
  const Source& source = m_model.source(row);
  const bool moving = media->kind == MediaKind::Video;
  switch (m_fact) {
  case Fact::Video:
    return moving;
  case Fact::Still:
    return !moving;
  case Fact::FastRate:
    return moving && video.clock.rate().value() > Rational(30);
  case Fact::Interlaced:
    return moving && scanOf(source, video) != Scan::Progressive;
  case Fact::Variable:
    return video.clock.variable();
  case Fact::NotSquare:
    return video.pixelAspect != Rational(1);
  case Fact::Bars:
    return !source.bars.none();
  case Fact::Hdr:
    return isHdr(colourOf(source, video));
  case Fact::Silent:
    return moving && media->audio.empty();
  case Fact::SlowMotion:
    return source.slowMotion;
  case Fact::SofterThan: {
    const Deliverable* d = m_model.document().project().deliverable(m_deliverable);
    if (!d) return false;
    const PictureShape shape = shapeIn(*d, source, video);
    return detail(shape, place(shape, d->canvas, Framing{})) < kSharpDetail;
  }
  default:
    return true;
  }
}

bool FootageFilter::filterAcceptsRow(int row, const QModelIndex&) const {
  const Source& source = m_model.source(row);
  if (!inGroup(source.group) || !hasFact(row)) return false;
  if (m_text.isEmpty()) return true;
  const MediaInfo* media = m_model.media(row);
  const QString all = QString::fromStdString(sourceName(source) + "\n" + source.path + "\n") +
                      (media ? factsLine(readingOf(source, *media)) : QString());
  return all.contains(m_text, Qt::CaseInsensitive);
}

double FootageFilter::key(int row) const {
  const MediaInfo* media = m_model.media(row);
  if (!media) return -1;
  switch (m_order) {
  case Order::Length:
    return media->duration.toDouble();
  case Order::Pixels:
    return media->video ? double(media->video->stored.width) * media->video->stored.height : 0;
  case Order::Rate:
    return media->kind == MediaKind::Video ? media->video->clock.rate().toDouble() : 0;
  case Order::Scan:
    return media->video ? double(scanOf(m_model.source(row), *media->video)) : -1;
  case Order::BitDepth:
    return media->video ? media->video->bitDepth : 0;
  case Order::Colour: // the wider and brighter, the later
    return media->video ? media->video->colour.transfer * 100 + media->video->colour.primaries : 0;
  case Order::Channels:
    return media->audio.empty() ? 0 : media->audio.front().channels;
  case Order::Loudness: {
    const Measured* measured = m_model.document().measured(m_model.source(row).id);
    return measured && measured->loudness ? measured->loudness->integratedLufs : -1000;
  }
  case Order::FileSize:
    return double(media->sizeBytes);
  default:
    return 0;
  }
}

bool FootageFilter::lessThan(const QModelIndex& left, const QModelIndex& right) const {
  if (m_order == Order::Name) {
    const int names = QString::localeAwareCompare(left.data().toString(), right.data().toString());
    if (names != 0) return names < 0;
  } else if (m_order != Order::BroughtIn) {
    const double a = key(left.row());
    const double b = key(right.row());
    if (a != b) return a < b;
  }
  return left.row() < right.row();
}

} // namespace tromb
