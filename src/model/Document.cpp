// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/Document.h"

#include "destination/NewDeliverable.h"
#include "model/DocumentCommands.h"
#include "model/Translation.h"
#include "project/ProjectFile.h"
#include "project/Sharing.h"

#include <QFile>
#include <QFileInfo>
#include <algorithm>
#include <set>
#include <sys/stat.h>
#include <tuple>

namespace tromb {
namespace {

/// The items at these places, ascending, each once.
template <typename Item> std::vector<Held<Item>> held(const std::vector<Item>& list, std::vector<int> places) {
  std::sort(places.begin(), places.end());
  places.erase(std::unique(places.begin(), places.end()), places.end());
  std::vector<Held<Item>> items;
  for (const int place : places)
    if (place >= 0 && place < int(list.size())) items.push_back({place, list[size_t(place)], {}});
  return items;
}

template <typename Item>
void pushChanges(QUndoStack& stack, Document& document, const std::vector<Item>& list, const std::vector<Item>& changed,
                 const QString& text, int gesture) {
  std::vector<Item> before;
  std::vector<Item> after;
  for (Item item : changed) {
    if constexpr (std::is_same_v<Item, Shot>) bringOnTicks(item);
    const int at = placeOf(list, item.id);
    if (at < 0 || (gesture == 0 && list[size_t(at)] == item)) continue;
    before.push_back(list[size_t(at)]);
    after.push_back(item);
  }
  if (before != after) stack.push(new ChangeCommand<Item>(document, text, before, after, gesture));
}

/// Tells one writing of a file from another; empty where it is not there.
std::string stampOf(const QString& path) {
  struct stat file {};
  if (path.isEmpty() || ::stat(QFile::encodeName(path).constData(), &file) != 0) return {};
  return std::to_string(file.st_ino) + "/" + std::to_string(file.st_size) + "/" + std::to_string(file.st_mtim.tv_sec) +
         "." + std::to_string(file.st_mtim.tv_nsec);
}

} // namespace

Document::Document(QObject* parent) : QObject(parent) {
  connect(&m_stack, &QUndoStack::cleanChanged, this, &Document::identityChanged);
  for (const auto signal : {&Document::sourcesInserted, &Document::sourcesRemoved, &Document::reset})
    connect(this, signal, this, [this] { m_sourceRows.clear(); });
  for (const auto signal : {&Document::shotsInserted, &Document::shotsRemoved, &Document::reset})
    connect(this, signal, this, [this] { m_duration.reset(); });
  connect(this, &Document::shotChanged, this, [this] { m_duration.reset(); });
}

Document::~Document() {
  m_stack.blockSignals(true);
  blockSignals(true);
}

QString Document::title() const {
  if (!m_project.name.empty()) return QString::fromStdString(m_project.name);
  return m_path.isEmpty() ? tr("New project") : QFileInfo(m_path).completeBaseName();
}

const Result<MediaInfo>* Document::media(const std::string& sourceId) const {
  const auto at = m_footage.find(sourceId);
  return at == m_footage.end() ? nullptr : &at->second;
}

Cell Document::cell(CellPlace place) const {
  const Shot& shot = m_project.shots[size_t(place.shot)];
  Cell cell = cellOf(m_project.deliverables[size_t(place.deliverable)], shot,
                     m_project.sources[size_t(rowOfSource(shot.source))], media(shot.source));
  const std::string& still = cell.framing.still;
  const Result<MediaInfo>* under = cell.framing.liesOn(still) ? media(still) : nullptr;
  if (under && !*under) {
    cell.state = Cell::State::Unusable;
    cell.reason = tr("The picture under it: %1").arg(said(under->error()));
  }
  return cell;
}

std::optional<ShotCadence> Document::cadence(CellPlace place) const {
  const Shot& shot = m_project.shots[size_t(place.shot)];
  const Result<MediaInfo>* known = media(shot.source);
  if (!known || !*known || (*known)->kind != MediaKind::Video) return std::nullopt;
  return cadenceIn(m_project.deliverables[size_t(place.deliverable)], shot,
                   m_project.sources[size_t(rowOfSource(shot.source))], **known);
}

bool Document::shows(int row, const QStringList& sourceIds) const {
  const Shot& shot = m_project.shots[size_t(row)];
  if (sourceIds.contains(QString::fromStdString(shot.source))) return true;
  return std::any_of(m_project.deliverables.begin(), m_project.deliverables.end(), [&](const Deliverable& d) {
    const auto at = d.framings.find(shot.id);
    return at != d.framings.end() && !at->second.still.empty() &&
           sourceIds.contains(QString::fromStdString(at->second.still));
  });
}

const Measured* Document::measured(const std::string& sourceId) const {
  const auto at = m_measured.find(sourceId);
  return at == m_measured.end() ? nullptr : &at->second;
}

const Rational& Document::duration() const {
  if (!m_duration) m_duration = m_project.duration();
  return *m_duration;
}

int Document::rowOfSource(const std::string& sourceId) const {
  if (m_sourceRows.size() != m_project.sources.size())
    for (size_t row = 0; row < m_project.sources.size(); ++row) m_sourceRows[m_project.sources[row].id] = int(row);
  const auto at = m_sourceRows.find(sourceId);
  return at == m_sourceRows.end() ? -1 : at->second;
}

void Document::replace(Project project, const QString& path) {
  emit aboutToReset();
  m_project = std::move(project);
  m_sourceRows.clear();
  m_duration.reset();
  m_footage.clear();
  m_measured.clear();
  m_changedSources.clear();
  m_path = path;
  m_stamp = stampOf(path);
  m_stack.clear();
  m_touched = false;
  emit reset();
  emit identityChanged();
}

bool Document::changedOutside() const {
  return !m_path.isEmpty() && !m_stamp.empty() && m_stamp != stampOf(m_path);
}

void Document::startNew(const Project& from) {
  replace(from, {});
}

Status Document::load(const QString& path) {
  auto project = loadProject(path.toStdString());
  if (!project) return tl::unexpected(project.error());
  open(std::move(*project), path);
  return {};
}

void Document::open(Project project, const QString& path) {
  replace(std::move(project), QFileInfo(path).absoluteFilePath());
}

void Document::recover(const Project& project, const QString& path) {
  replace(project, path);
  m_touched = true;
  emit identityChanged();
}

Status Document::save(const QString& path) {
  Project named = m_project;
  if (named.name.empty() || (m_path != path && m_project.name == QFileInfo(m_path).completeBaseName().toStdString()))
    named.name = QFileInfo(path).completeBaseName().toStdString();
  if (const Status saved = saveProject(named, path.toStdString()); !saved) return saved;
  m_project.name = named.name;
  m_path = QFileInfo(path).absoluteFilePath();
  m_stamp = stampOf(m_path);
  m_touched = false;
  m_stack.setClean();
  emit identityChanged();
  return {};
}

void Document::setMedia(const std::vector<Learned>& learned) {
  QStringList ids;
  const bool touched = m_touched;
  for (const Learned& each : learned) {
    const int row = rowOfSource(each.sourceId);
    if (row >= 0) {
      Source& source = m_project.sources[size_t(row)];
      if (!each.path.empty() && each.path != source.path) continue;
      if (!each.fingerprint.empty() && each.fingerprint != source.fingerprint) {
        if (!source.fingerprint.empty()) { // other contents under the same name
          m_measured.erase(each.sourceId);
          m_changedSources.insert(each.sourceId);
          m_touched = true;
        }
        source.fingerprint = each.fingerprint;
      }
    }
    m_footage.insert_or_assign(each.sourceId, each.media);
    ids << QString::fromStdString(each.sourceId);
  }
  if (ids.isEmpty()) return;
  emit mediaChanged(ids);
  if (m_touched != touched) emit identityChanged();
}

void Document::forgetFacts(const std::string& sourceId) {
  m_footage.erase(sourceId);
  m_measured.erase(sourceId);
  m_changedSources.erase(sourceId);
  emit mediaChanged({QString::fromStdString(sourceId)});
  emit factsWanted();
}

bool Document::takeIn(Source& source) const {
  const Measured* found = measured(source.id);
  return found && tromb::takeIn(source, *found);
}

void Document::setMeasured(const std::string& sourceId, const std::string& fingerprint, const Measured& measured) {
  const int row = rowOfSource(sourceId);
  if (row < 0) return; // removed meanwhile
  m_measured.insert_or_assign(sourceId, measured);
  Source& source = m_project.sources[size_t(row)];
  if (source.fingerprint.empty()) source.fingerprint = fingerprint;
  if (takeIn(source)) {
    m_touched = true;
    emit identityChanged();
  }
  emit sourceChanged(row);
}

void Document::addFootage(const std::vector<NewFootage>& files, AsShots asShots, const std::string& group) {
  std::vector<Held<Source>> sources;
  std::vector<Held<Shot>> shots;
  Project ahead = m_project; // so that each gets ids that the ones before it did not take
  for (const NewFootage& file : files) {
    ahead.sources.push_back(newSource(ahead, file.media));
    Source& source = ahead.sources.back();
    // Ids of removed sources are not used again, since their facts are kept in case the removal is undone.
    for (int n = 1; m_footage.contains(source.id); ++n) source.id = "s" + std::to_string(n);
    source.group = group;
    source.fingerprint = file.fingerprint;
    m_footage.insert_or_assign(source.id, file.media);
    m_measured.erase(source.id);
    sources.push_back({int(ahead.sources.size()) - 1, source, {}});
    if (asShots == AsShots::No || !file.media.video) continue;
    ahead.shots.push_back(newShot(ahead, source, file.media));
    shots.push_back({int(ahead.shots.size()) - 1, ahead.shots.back(), {}});
  }
  if (sources.empty()) return;
  m_stack.beginMacro(tr("Bring in %n files", nullptr, int(sources.size())));
  m_stack.push(new ItemsCommand<Source>(*this, {}, std::move(sources), false));
  if (!shots.empty()) m_stack.push(new ItemsCommand<Shot>(*this, {}, std::move(shots), false));
  m_stack.endMacro();
}

void Document::removeSources(std::vector<int> rows) {
  auto sources = held(m_project.sources, std::move(rows));
  if (sources.empty()) return;
  std::set<std::string> gone;
  for (const auto& source : sources) gone.insert(source.item.id);
  std::vector<int> shots;
  for (int row = 0; row < int(m_project.shots.size()); ++row)
    if (gone.contains(m_project.shots[size_t(row)].source)) shots.push_back(row);
  std::vector<SoundBed> beds = m_project.beds;
  std::erase_if(beds, [&](const SoundBed& bed) { return gone.contains(bed.source); });
  m_stack.beginMacro(tr("Remove %n sources", nullptr, int(sources.size())));
  removeShots(shots);
  setBeds(beds, {});
  std::vector<Element> elements = m_project.elements;
  std::erase_if(elements, [&](const Element& element) { return gone.contains(element.source); });
  setElements(std::move(elements), {});
  std::vector<std::pair<CellPlace, Framing>> framings; // that lie on one that goes
  for (int column = 0; column < int(m_project.deliverables.size()); ++column)
    for (const auto& [shot, framing] : m_project.deliverables[size_t(column)].framings) {
      if (gone.contains(framing.still))
        framings.emplace_back(CellPlace{placeOf(m_project.shots, shot), column}, withoutStill(framing));
    }
  setFramings(framings, {});
  m_stack.push(new ItemsCommand<Source>(*this, {}, std::move(sources), true));
  m_stack.endMacro();
}

void Document::changeSources(const std::vector<Source>& changed, const QString& text) {
  if (std::all_of(changed.begin(), changed.end(), [this](const Source& source) {
        const Source* before = m_project.source(source.id);
        return !before || *before == source;
      }))
    return;
  m_stack.beginMacro(text);
  for (const Source& source : changed) carryOver(source, text);
  pushChanges(m_stack, *this, m_project.sources, changed, text, 0);
  m_stack.endMacro();
}

void Document::carryOver(const Source& changed, const QString& text) {
  const Source* source = m_project.source(changed.id);
  const Result<MediaInfo>* known = media(changed.id);
  if (!source || !known || !*known || !(*known)->video) return;
  const PictureShape before = shapeOf(*source, *(*known)->video);
  const PictureShape after = shapeOf(changed, *(*known)->video);
  if (before.bars() == after.bars() && before.rotation() == after.rotation() && before.mirrored() == after.mirrored())
    return;
  // Bars that leave no picture, typed by mistake, give no place.
  for (const SizeF& picture : {before.picture(), after.picture()})
    if (picture.width < 1 || picture.height < 1) return;
  const auto carry = [&](auto& place) { std::tie(place.x, place.y) = samePlace(before, after, place.x, place.y); };
  std::vector<Shot> shots;
  std::vector<std::pair<CellPlace, Framing>> framings;
  for (int row = 0; row < int(m_project.shots.size()); ++row) {
    Shot shot = m_project.shots[size_t(row)];
    if (shot.source != changed.id) continue;
    for (Subject& subject : shot.subjects) std::for_each(subject.move.begin(), subject.move.end(), carry);
    if (!shot.subjects.empty()) shots.push_back(shot);
    for (int column = 0; column < int(m_project.deliverables.size()); ++column) {
      const auto& stored = m_project.deliverables[size_t(column)].framings;
      const auto at = stored.find(shot.id);
      if (at == stored.end()) continue;
      Framing framing = at->second;
      for (Window& window : framing.windows) {
        carry(window);
        std::for_each(window.move.begin(), window.move.end(), carry);
      }
      framings.emplace_back(CellPlace{row, column}, framing);
    }
  }
  changeShots(shots, text);
  putFramings(framings, text, 0);
}

void Document::relink(const std::vector<std::pair<std::string, std::string>>& paths) {
  std::vector<Source> changed;
  for (const auto& [id, path] : paths)
    if (const Source* source = m_project.source(id)) {
      changed.push_back(*source);
      changed.back().path = path;
    }
  changeSources(changed, tr("Find %n files", nullptr, int(changed.size())));
}

void Document::addShots(std::vector<Shot> shots, int at) {
  std::vector<Held<Shot>> items;
  Project ahead = m_project;
  for (Shot& shot : shots) {
    bringOnTicks(shot);
    shot.id = freshId(ahead.shots, "h");
    ahead.shots.push_back(shot);
    items.push_back({at + int(items.size()), shot, {}});
  }
  const QString text = tr("Add %n shots", nullptr, int(items.size()));
  if (!items.empty()) m_stack.push(new ItemsCommand<Shot>(*this, text, std::move(items), false));
}

void Document::removeShots(std::vector<int> rows) {
  auto shots = held(m_project.shots, std::move(rows));
  const QString text = tr("Remove %n shots", nullptr, int(shots.size()));
  if (shots.empty()) return;
  std::set<std::string> gone;
  for (const auto& shot : shots) gone.insert(shot.item.id);
  std::vector<Element> elements = m_project.elements;
  std::erase_if(elements, [&](const Element& element) { return gone.contains(element.shot); });
  m_stack.beginMacro(text);
  setElements(std::move(elements), {});
  m_stack.push(new ItemsCommand<Shot>(*this, text, std::move(shots), true));
  m_stack.endMacro();
}

std::vector<std::pair<std::string, Framing>> Document::framingsOf(const std::string& shotId) const {
  std::vector<std::pair<std::string, Framing>> framings;
  for (const Deliverable& d : m_project.deliverables)
    if (const auto at = d.framings.find(shotId); at != d.framings.end()) framings.emplace_back(d.id, at->second);
  return framings;
}

void Document::duplicateShots(std::vector<int> rows) {
  std::vector<Held<Shot>> copies;
  Project ahead = m_project;
  for (const auto& original : held(m_project.shots, std::move(rows))) {
    Shot copy = original.item;
    copy.id = freshId(ahead.shots, "h");
    ahead.shots.push_back(copy);
    for (const Element& each : m_project.elements) {
      if (each.shot != original.item.id) continue;
      Element along = each;
      along.id = freshId(ahead.elements, "e");
      along.shot = copy.id;
      ahead.elements.push_back(std::move(along));
    }
    copies.push_back({original.place + 1 + int(copies.size()), copy, framingsOf(original.item.id)});
  }
  if (copies.empty()) return;
  m_stack.beginMacro(tr("Duplicate %n shots", nullptr, int(copies.size())));
  m_stack.push(new ItemsCommand<Shot>(*this, {}, std::move(copies), false));
  setElements(std::move(ahead.elements), {});
  m_stack.endMacro();
}

void Document::placeShots(std::vector<int> rows, int before) {
  std::sort(rows.begin(), rows.end());
  rows.erase(std::unique(rows.begin(), rows.end()), rows.end());
  // The row at which the first of them ends up, once the moved shots in front of that place are gone.
  const auto ahead = int(std::lower_bound(rows.begin(), rows.end(), before) - rows.begin());
  const int first = before - ahead;
  bool moves = false;
  for (size_t i = 0; i < rows.size(); ++i) moves = moves || rows[i] != first + int(i);
  if (!moves) return;
  m_stack.beginMacro(tr("Put %n shots elsewhere", nullptr, int(rows.size())));
  // Shots in front of the place are moved from last to first, so that no move changes the row of another.
  for (int i = ahead - 1; i >= 0; --i) moveShot(rows[size_t(i)], first + i);
  for (size_t i = size_t(ahead); i < rows.size(); ++i) moveShot(rows[i], first + int(i));
  m_stack.endMacro();
}

void Document::moveShot(int from, int to) {
  const int count = int(m_project.shots.size());
  if (from == to || from < 0 || to < 0 || from >= count || to >= count) return;
  m_stack.push(new MoveCommand<Shot>(*this, from, to, tr("Put a shot elsewhere")));
}

void Document::renameShot(int row, const QString& name) {
  Shot changed = m_project.shots[size_t(row)];
  changed.name = name.trimmed().toStdString();
  if (!changed.name.empty()) changeShots({changed}, tr("Rename the shot"));
}

void Document::changeShots(const std::vector<Shot>& changed, const QString& text, int gesture) {
  pushChanges(m_stack, *this, m_project.shots, changed, text, gesture);
}

void Document::splitShot(int row, const std::vector<Rational>& sourceTimes) {
  const Shot whole = m_project.shots[size_t(row)];
  std::vector<Shot> parts = partsOf(whole, sourceTimes);
  if (parts.size() < 2) return;
  putParts(row, std::move(parts), tr("Split the shot"));
}

void Document::holdPicture(int row, const Rational& at, const Rational& end, const Rational& length) {
  const Shot whole = m_project.shots[size_t(row)];
  if (whole.pace.held > Rational(0) || at < whole.in || at >= whole.out || end <= at) return;
  Shot before = whole;
  before.out = at;
  Shot still = whole;
  still.in = at;
  still.out = end;
  still.pace = {};
  still.pace.held = length;
  Shot after = whole;
  after.in = at;
  std::vector<Shot> parts;
  const auto add = [&parts](const Shot& part) {
    if (part.out <= part.in) return; // it is held from its first picture on
    parts.push_back(part);
    bringOnTicks(parts.back());
  };
  add(whole.pace.reversed ? after : before);
  add(still);
  add(whole.pace.reversed ? before : after);
  putParts(row, std::move(parts), tr("Hold the picture"));
}

/// Puts parts, in running order, in the place of a shot that they are made of; each keeps its framings.
void Document::putParts(int row, std::vector<Shot> parts, const QString& text) {
  const Shot whole = m_project.shots[size_t(row)];
  const auto framings = framingsOf(whole.id);
  std::vector<Held<Shot>> added;
  Project ahead = m_project;
  for (size_t i = 1; i < parts.size(); ++i) {
    parts[i].id = freshId(ahead.shots, "h");
    parts[i].name = whole.name + " " + std::to_string(i + 1);
    ahead.shots.push_back(parts[i]);
    added.push_back({row + int(i), parts[i], framings});
  }
  m_stack.beginMacro(text);
  std::vector<Element> elements = elementsOfParts(m_project, whole, parts);
  changeShots({parts.front()}, {});
  m_stack.push(new ItemsCommand<Shot>(*this, {}, std::move(added), false));
  setElements(std::move(elements), {});
  m_stack.endMacro();
}

void Document::setGroups(const std::vector<Group>& groups, const QString& text) {
  if (groups != m_project.groups) m_stack.push(new PartCommand(*this, text, m_project.groups, groups));
}

void Document::setRegions(std::vector<Region> regions, const QString& text, int gesture) {
  for (Region& region : regions) bringOnTicks(region);
  if (regions != m_project.regions) m_stack.push(new PartCommand(*this, text, m_project.regions, regions, gesture));
}

void Document::setBeds(std::vector<SoundBed> beds, const QString& text, int gesture) {
  for (SoundBed& bed : beds) bringOnTicks(bed);
  if (beds != m_project.beds) m_stack.push(new PartCommand(*this, text, m_project.beds, beds, gesture));
}

void Document::setElements(std::vector<Element> elements, const QString& text, int gesture) {
  for (Element& element : elements) bringOnTicks(element);
  if (elements != m_project.elements)
    m_stack.push(new ElementsCommand(*this, text, m_project.elements, elements, gesture));
}

void Document::changeElement(const std::string& id, const std::function<void(Element&)>& how, const QString& text,
                             int gesture) {
  const int place = placeOf(m_project.elements, id);
  if (place < 0) return;
  const Element& before = m_project.elements[size_t(place)];
  Element after = before.styled(m_project.captionStyle);
  how(after);
  if (before.kind == ElementKind::Caption) {
    const CaptionStyle style{after.look, after.place, after.own, after.overButtons};
    if (style != m_project.captionStyle) return setCaptionStyle(style, text, gesture);
    after.look = before.look;
    after.place = before.place;
    after.own = before.own;
    after.overButtons = before.overButtons;
  }
  std::vector<Element> elements = m_project.elements;
  elements[size_t(place)] = std::move(after);
  setElements(std::move(elements), text, gesture);
}

void Document::setCaptionStyle(const CaptionStyle& style, const QString& text, int gesture) {
  if (style != m_project.captionStyle)
    m_stack.push(new PartCommand(*this, text, m_project.captionStyle, style, gesture));
}

void Document::setOutput(const Output& output, const QString& text) {
  if (output != m_project.output) m_stack.push(new PartCommand(*this, text, m_project.output, output));
}

void Document::setChecks(const Checks& checks, const QString& text) {
  if (checks != m_project.checks) m_stack.push(new PartCommand(*this, text, m_project.checks, checks));
}

void Document::addDeliverable(const Deliverable& deliverable) {
  addDeliverables({deliverable}, tr("Add '%1'").arg(QString::fromStdString(deliverable.name)));
}

void Document::addDeliverables(const std::vector<Deliverable>& deliverables, const QString& text) {
  std::vector<Held<Deliverable>> items;
  for (const Deliverable& deliverable : deliverables)
    items.push_back({int(m_project.deliverables.size() + items.size()), deliverable, {}});
  if (!items.empty()) m_stack.push(new ItemsCommand<Deliverable>(*this, text, std::move(items), false));
}

void Document::editDeliverable(int column, const Deliverable& changed) {
  const Deliverable& before = m_project.deliverables[size_t(column)];
  Deliverable after = changed;
  after.id = before.id;
  after.sharesWith = before.sharesWith;
  after.framings = before.framings;
  changeDeliverables({after}, tr("Change '%1'").arg(QString::fromStdString(before.name)));
}

void Document::changeDeliverables(const std::vector<Deliverable>& changed, const QString& text, int gesture) {
  pushChanges(m_stack, *this, m_project.deliverables, withSharers(m_project.deliverables, changed), text, gesture);
}

void Document::matchRates(const FrameRate& shot) {
  std::vector<Deliverable> changed;
  for (Deliverable d : m_project.deliverables) {
    if (!framesItself(d)) continue; // it has the rate of its normal version
    d.rate = matchedRate(d.destination, shot);
    changed.push_back(std::move(d));
  }
  changeDeliverables(changed, tr("Deliver at %1").arg(QString::fromStdString(shot.name())));
}

void Document::removeDeliverables(std::vector<int> columns) {
  auto items = held(m_project.deliverables, std::move(columns));
  if (items.empty()) return;
  std::vector<std::string> gone;
  for (const auto& each : items) gone.push_back(each.item.id);
  m_stack.beginMacro(tr("Remove %n deliverables", nullptr, int(items.size())));
  pushChanges(m_stack, *this, m_project.deliverables, heirs(m_project.deliverables, gone), {}, 0);
  m_stack.push(new ItemsCommand<Deliverable>(*this, {}, std::move(items), true));
  m_stack.endMacro();
}

void Document::moveDeliverable(int from, int to) {
  const int count = int(m_project.deliverables.size());
  if (from == to || from < 0 || to < 0 || from >= count || to >= count) return;
  m_stack.push(new MoveCommand<Deliverable>(*this, from, to, tr("Put a deliverable elsewhere")));
}

void Document::setFramings(const std::vector<std::pair<CellPlace, Framing>>& framings, const QString& text,
                           int gesture) {
  auto byHand = framings;
  for (auto& [place, framing] : byHand) framing.guess = 0;
  putFramings(byHand, text, gesture);
}

void Document::frameShots(const std::vector<Framed>& framed, const QString& text) {
  std::vector<Shot> shots;
  std::vector<std::pair<CellPlace, Framing>> framings;
  bool differs = false;
  for (const Framed& each : framed) {
    const int row = placeOf(m_project.shots, each.shot);
    if (row < 0) continue;
    shots.push_back(m_project.shots[size_t(row)]);
    differs = differs || shots.back().subjects != each.subjects;
    shots.back().subjects = each.subjects;
    for (size_t column = 0; column < m_project.deliverables.size(); ++column) {
      const Deliverable& d = m_project.deliverables[column];
      const auto now = d.framings.find(each.shot);
      const auto wanted = each.framings.find(d.id);
      if (now != d.framings.end() && now->second.guess <= 0) continue;
      Framing follows;
      follows.guess = each.subjects.empty() ? 0 : each.subjects.front().guess;
      if (wanted == each.framings.end() && now == d.framings.end()) continue;
      framings.emplace_back(CellPlace{row, int(column)}, wanted != each.framings.end() ? wanted->second : follows);
      differs = differs || now == d.framings.end() || now->second != framings.back().second;
    }
  }
  if (!differs) return;
  m_stack.beginMacro(text);
  changeShots(shots, text);
  putFramings(framings, text, 0);
  m_stack.endMacro();
}

void Document::putFramings(const std::vector<std::pair<CellPlace, Framing>>& framings, const QString& text,
                           int gesture) {
  std::vector<FramingCommand::Change> changes;
  std::set<std::pair<std::string, std::string>> told; // cells that are shared may be given several times
  bool differs = false;
  for (const auto& [place, framing] : framings) {
    const Deliverable& in = m_project.deliverables[size_t(place.deliverable)];
    const std::string& shot = m_project.shots[size_t(place.shot)].id;
    if (!told.emplace(framedAs(in), shot).second) continue;
    for (const int column : sharersOf(m_project.deliverables, in)) {
      const Deliverable& d = m_project.deliverables[size_t(column)];
      const auto at = d.framings.find(shot);
      const std::optional<Framing> before = at == d.framings.end() ? std::nullopt : std::optional<Framing>(at->second);
      differs = differs || before.value_or(Framing{}) != framing;
      changes.push_back({d.id, shot, before, framing});
    }
  }
  if (differs) m_stack.push(new FramingCommand(*this, text, std::move(changes), gesture));
}

} // namespace tromb
