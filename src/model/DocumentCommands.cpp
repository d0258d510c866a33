// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/DocumentCommands.h"

#include <algorithm>

namespace tromb {
namespace {

template <typename List> int indexOf(const List& list, const std::string& id) {
  const auto at = std::find_if(list.begin(), list.end(), [&](const auto& item) { return item.id == id; });
  return at == list.end() ? -1 : int(at - list.begin());
}

template <typename List> void rotateItem(List& list, int from, int to) {
  const auto item = list.begin() + from;
  if (from < to)
    std::rotate(item, item + 1, list.begin() + to + 1);
  else
    std::rotate(list.begin() + to, item, item + 1);
}

} // namespace

int DocumentCommand::columnOf(const std::string& id) const {
  return indexOf(project().deliverables, id);
}

int DocumentCommand::rowOf(const std::string& id) const {
  return indexOf(project().shots, id);
}

ShotsCommand::ShotsCommand(Document& document, const QString& text, std::vector<HeldShot> shots, bool removal)
    : DocumentCommand(document, text), m_shots(std::move(shots)), m_removal(removal) {}

void ShotsCommand::putIn() {
  for (const HeldShot& held : m_shots) {
    emit document().shotsAboutToBeInserted(held.row, held.row);
    if (held.source) project().sources.push_back(*held.source);
    project().shots.insert(project().shots.begin() + held.row, held.shot);
    for (const auto& [deliverable, framing] : held.framings)
      if (const int column = columnOf(deliverable); column >= 0)
        project().deliverables[size_t(column)].framings[held.shot.id] = framing;
    emit document().shotsInserted();
  }
}

void ShotsCommand::takeOut() {
  for (auto held = m_shots.rbegin(); held != m_shots.rend(); ++held) {
    emit document().shotsAboutToBeRemoved(held->row, held->row);
    held->framings.clear();
    for (Deliverable& deliverable : project().deliverables)
      if (const auto at = deliverable.framings.find(held->shot.id); at != deliverable.framings.end()) {
        held->framings.emplace_back(deliverable.id, at->second);
        deliverable.framings.erase(at);
      }
    project().shots.erase(project().shots.begin() + held->row);
    if (held->source) project().sources.pop_back();
    emit document().shotsRemoved();
  }
}

DeliverablesCommand::DeliverablesCommand(Document& document, const QString& text,
                                         std::vector<HeldDeliverable> deliverables, bool removal)
    : DocumentCommand(document, text), m_deliverables(std::move(deliverables)), m_removal(removal) {}

void DeliverablesCommand::putIn() {
  for (const HeldDeliverable& held : m_deliverables) {
    emit document().deliverablesAboutToBeInserted(held.column, held.column);
    project().deliverables.insert(project().deliverables.begin() + held.column, held.deliverable);
    emit document().deliverablesInserted();
  }
}

void DeliverablesCommand::takeOut() {
  for (auto held = m_deliverables.rbegin(); held != m_deliverables.rend(); ++held) {
    emit document().deliverablesAboutToBeRemoved(held->column, held->column);
    held->deliverable = project().deliverables[size_t(held->column)];
    project().deliverables.erase(project().deliverables.begin() + held->column);
    emit document().deliverablesRemoved();
  }
}

void MoveCommand::move(int from, int to) {
  if (m_what == What::Shot) {
    emit document().shotAboutToMove(from, to);
    rotateItem(project().shots, from, to);
    emit document().shotMoved();
  } else {
    emit document().deliverableAboutToMove(from, to);
    rotateItem(project().deliverables, from, to);
    emit document().deliverableMoved();
  }
}

template <> void ChangeCommand<Shot>::put(const Shot& shot) {
  const int row = rowOf(shot.id);
  project().shots[size_t(row)] = shot;
  emit document().shotChanged(row);
}

template <> void ChangeCommand<Deliverable>::put(const Deliverable& deliverable) {
  const int column = columnOf(deliverable.id);
  project().deliverables[size_t(column)] = deliverable;
  emit document().deliverableChanged(column);
}

void FramingCommand::put(std::optional<Framing> Change::*side) {
  std::vector<CellPlace> places;
  for (const Change& change : m_changes) {
    const int column = columnOf(change.deliverable);
    const int row = rowOf(change.shot);
    auto& framings = project().deliverables[size_t(column)].framings;
    if (const auto& framing = change.*side)
      framings[change.shot] = *framing;
    else
      framings.erase(change.shot);
    places.push_back({row, column});
  }
  emit document().framingsChanged(places);
}

bool FramingCommand::mergeWith(const QUndoCommand* other) {
  const auto* later = static_cast<const FramingCommand*>(other);
  const auto sameCell = [](const Change& a, const Change& b) {
    return a.deliverable == b.deliverable && a.shot == b.shot;
  };
  if (later->m_gesture != m_gesture ||
      !std::equal(m_changes.begin(), m_changes.end(), later->m_changes.begin(), later->m_changes.end(), sameCell))
    return false;
  bool nothing = true;
  for (size_t i = 0; i < m_changes.size(); ++i) {
    m_changes[i].after = later->m_changes[i].after;
    nothing = nothing && m_changes[i].after == m_changes[i].before;
  }
  setObsolete(nothing);
  return true;
}

} // namespace tromb
