// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/Document.h"

#include "model/DocumentCommands.h"
#include "project/ProjectFile.h"

#include <QFileInfo>
#include <algorithm>

namespace tromb {

Document::Document(QObject* parent) : QObject(parent) {
  connect(&m_stack, &QUndoStack::cleanChanged, this, &Document::identityChanged);
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
  return cellOf(m_project.deliverables[size_t(place.deliverable)], shot, *m_project.source(shot.source),
                media(shot.source));
}

int Document::complaints() const {
  int count = 0;
  for (int row = 0; row < int(m_project.shots.size()); ++row)
    for (int column = 0; column < int(m_project.deliverables.size()); ++column)
      count += cell({row, column}).complains() ? 1 : 0;
  return count;
}

void Document::startNew() {
  emit aboutToReset();
  m_project = {};
  m_footage.clear();
  m_path.clear();
  m_stack.clear();
  emit reset();
  emit identityChanged();
}

Status Document::load(const QString& path) {
  auto project = loadProject(path.toStdString());
  if (!project) return tl::unexpected(project.error());
  emit aboutToReset();
  m_project = std::move(*project);
  m_footage.clear();
  m_path = QFileInfo(path).absoluteFilePath();
  m_stack.clear();
  emit reset();
  emit identityChanged();
  return {};
}

Status Document::save(const QString& path) {
  Project named = m_project;
  if (named.name.empty() || (m_path != path && m_project.name == QFileInfo(m_path).completeBaseName().toStdString()))
    named.name = QFileInfo(path).completeBaseName().toStdString();
  if (const Status saved = saveProject(named, path.toStdString()); !saved) return saved;
  m_project.name = named.name;
  m_path = QFileInfo(path).absoluteFilePath();
  m_stack.setClean();
  emit identityChanged();
  return {};
}

void Document::setMedia(const std::string& sourceId, Result<MediaInfo> media) {
  m_footage.insert_or_assign(sourceId, std::move(media));
  emit mediaChanged(QString::fromStdString(sourceId));
}

void Document::addFootage(const std::vector<NewFootage>& files) {
  std::vector<HeldShot> shots;
  Project ahead = m_project; // so that each gets ids that the ones before it did not take
  for (const NewFootage& file : files) {
    const BroughtIn made = bringIn(ahead, file.media, file.bars);
    ahead.sources.push_back(made.source);
    ahead.shots.push_back(made.shot);
    m_footage.insert_or_assign(made.source.id, file.media);
    shots.push_back({int(ahead.shots.size()) - 1, made.shot, made.source, {}});
  }
  const QString text = counted(int(shots.size()), tr("Bring in a file"), tr("Bring in %1 files"));
  if (!shots.empty()) m_stack.push(new ShotsCommand(*this, text, std::move(shots), false));
}

void Document::removeShots(std::vector<int> rows) {
  std::sort(rows.begin(), rows.end());
  rows.erase(std::unique(rows.begin(), rows.end()), rows.end());
  std::vector<HeldShot> shots;
  for (size_t i = 0; i < rows.size(); ++i) shots.push_back({rows[i], m_project.shots[size_t(rows[i])], {}, {}});
  const QString text = counted(int(shots.size()), tr("Remove a shot"), tr("Remove %1 shots"));
  if (!shots.empty()) m_stack.push(new ShotsCommand(*this, text, std::move(shots), true));
}

void Document::moveShot(int from, int to) {
  const int count = int(m_project.shots.size());
  if (from == to || from < 0 || to < 0 || from >= count || to >= count) return;
  m_stack.push(new MoveCommand(*this, MoveCommand::What::Shot, from, to, tr("Move shot")));
}

void Document::renameShot(int row, const QString& name) {
  Shot changed = m_project.shots[size_t(row)];
  changed.name = name.trimmed().toStdString();
  if (changed.name.empty() || changed == m_project.shots[size_t(row)]) return;
  m_stack.push(new ChangeCommand<Shot>(*this, tr("Rename shot"), m_project.shots[size_t(row)], changed));
}

void Document::addDeliverable(const Deliverable& deliverable) {
  m_stack.push(new DeliverablesCommand(*this, tr("Add '%1'").arg(QString::fromStdString(deliverable.name)),
                                       {{int(m_project.deliverables.size()), deliverable}}, false));
}

void Document::editDeliverable(int column, const Deliverable& changed) {
  const Deliverable& before = m_project.deliverables[size_t(column)];
  Deliverable after = changed;
  after.id = before.id;
  after.framings = before.framings;
  if (after == before) return;
  m_stack.push(
      new ChangeCommand<Deliverable>(*this, tr("Change '%1'").arg(QString::fromStdString(before.name)), before, after));
}

void Document::removeDeliverables(std::vector<int> columns) {
  std::sort(columns.begin(), columns.end());
  columns.erase(std::unique(columns.begin(), columns.end()), columns.end());
  std::vector<HeldDeliverable> held;
  for (const int column : columns) held.push_back({column, m_project.deliverables[size_t(column)]});
  const QString text = counted(int(held.size()), tr("Remove a deliverable"), tr("Remove %1 deliverables"));
  if (!held.empty()) m_stack.push(new DeliverablesCommand(*this, text, std::move(held), true));
}

void Document::moveDeliverable(int from, int to) {
  const int count = int(m_project.deliverables.size());
  if (from == to || from < 0 || to < 0 || from >= count || to >= count) return;
  m_stack.push(new MoveCommand(*this, MoveCommand::What::Deliverable, from, to, tr("Move deliverable")));
}

void Document::setFramings(const std::vector<std::pair<CellPlace, Framing>>& framings, const QString& text,
                           int gesture) {
  std::vector<FramingCommand::Change> changes;
  bool differs = false;
  for (const auto& [place, framing] : framings) {
    const Deliverable& d = m_project.deliverables[size_t(place.deliverable)];
    const std::string& shot = m_project.shots[size_t(place.shot)].id;
    const auto at = d.framings.find(shot);
    const std::optional<Framing> before = at == d.framings.end() ? std::nullopt : std::optional<Framing>(at->second);
    differs = differs || before.value_or(Framing{}) != framing;
    changes.push_back({d.id, shot, before, framing});
  }
  if (differs) m_stack.push(new FramingCommand(*this, text, std::move(changes), gesture));
}

} // namespace tromb
