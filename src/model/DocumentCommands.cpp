// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/DocumentCommands.h"

#include <algorithm>
#include <type_traits>
#include <utility>

namespace tromb {
namespace {

template <typename List> void rotateItem(List& list, int from, int to) {
  const auto item = list.begin() + from;
  if (from < to)
    std::rotate(item, item + 1, list.begin() + to + 1);
  else
    std::rotate(list.begin() + to, item, item + 1);
}

} // namespace

int DocumentCommand::columnOf(const std::string& id) const {
  return placeOf(project().deliverables, id);
}

int DocumentCommand::rowOf(const std::string& id) const {
  return placeOf(project().shots, id);
}

template <> struct Listed<Source> {
  static constexpr int kMergeId = 2;
  static auto& of(Project& project) { return project.sources; }
  static void insertion(Document& d, int at) { emit d.sourcesAboutToBeInserted(at, at); }
  static void inserted(Document& d) { emit d.sourcesInserted(); }
  static void removal(Document& d, int at) { emit d.sourcesAboutToBeRemoved(at, at); }
  static void removed(Document& d) { emit d.sourcesRemoved(); }
  static void changed(Document& d, int at) { emit d.sourceChanged(at); }
};
template <> struct Listed<Shot> {
  static constexpr int kMergeId = 3;
  static auto& of(Project& project) { return project.shots; }
  static void insertion(Document& d, int at) { emit d.shotsAboutToBeInserted(at, at); }
  static void inserted(Document& d) { emit d.shotsInserted(); }
  static void removal(Document& d, int at) { emit d.shotsAboutToBeRemoved(at, at); }
  static void removed(Document& d) { emit d.shotsRemoved(); }
  static void changed(Document& d, int at) { emit d.shotChanged(at); }
  static void moving(Document& d, int from, int to) { emit d.shotAboutToMove(from, to); }
  static void moved(Document& d) { emit d.shotMoved(); }
};
template <> struct Listed<Deliverable> {
  static constexpr int kMergeId = 4;
  static auto& of(Project& project) { return project.deliverables; }
  static void insertion(Document& d, int at) { emit d.deliverablesAboutToBeInserted(at, at); }
  static void inserted(Document& d) { emit d.deliverablesInserted(); }
  static void removal(Document& d, int at) { emit d.deliverablesAboutToBeRemoved(at, at); }
  static void removed(Document& d) { emit d.deliverablesRemoved(); }
  static void changed(Document& d, int at) { emit d.deliverableChanged(at); }
  static void moving(Document& d, int from, int to) { emit d.deliverableAboutToMove(from, to); }
  static void moved(Document& d) { emit d.deliverableMoved(); }
};
template <> struct Whole<std::vector<Group>> {
  static constexpr int kMergeId = 5;
  static auto& of(Project& project) { return project.groups; }
  static void replaced(Document& d) { emit d.groupsChanged(); }
};
template <> struct Whole<std::vector<Region>> {
  static constexpr int kMergeId = 6;
  static auto& of(Project& project) { return project.regions; }
  static void replaced(Document& d) { emit d.regionsChanged(); }
};
template <> struct Whole<std::vector<SoundBed>> {
  static constexpr int kMergeId = 7;
  static auto& of(Project& project) { return project.beds; }
  static void replaced(Document& d) { emit d.bedsChanged(); }
};
template <> struct Whole<CaptionStyle> {
  static constexpr int kMergeId = 11;
  static auto& of(Project& project) { return project.captionStyle; }
  static void replaced(Document& d) { emit d.elementsChanged(); }
};
template <> struct Whole<Output> {
  static constexpr int kMergeId = 8;
  static auto& of(Project& project) { return project.output; }
  static void replaced(Document& d) { emit d.outputChanged(); }
};

template <> struct Whole<Checks> {
  static constexpr int kMergeId = 9;
  static auto& of(Project& project) { return project.checks; }
  static void replaced(Document& d) { emit d.checksChanged(); }
};

template <typename Item> void ItemsCommand<Item>::putIn() {
  auto& list = Listed<Item>::of(project());
  for (const Held<Item>& held : m_items) {
    Listed<Item>::insertion(document(), held.place);
    list.insert(list.begin() + held.place, held.item);
    if constexpr (std::is_same_v<Item, Source>) (void)takeIn(list[size_t(held.place)]);
    for (const auto& [deliverable, framing] : held.framings)
      if (const int column = columnOf(deliverable); column >= 0)
        project().deliverables[size_t(column)].framings[held.item.id] = framing;
    Listed<Item>::inserted(document());
  }
}

template <typename Item> void ItemsCommand<Item>::takeOut() {
  auto& list = Listed<Item>::of(project());
  for (auto held = m_items.rbegin(); held != m_items.rend(); ++held) {
    Listed<Item>::removal(document(), held->place);
    held->item = list[size_t(held->place)];
    held->framings.clear();
    if constexpr (std::is_same_v<Item, Shot>)
      for (Deliverable& deliverable : project().deliverables)
        if (const auto at = deliverable.framings.find(held->item.id); at != deliverable.framings.end()) {
          held->framings.emplace_back(deliverable.id, at->second);
          deliverable.framings.erase(at);
        }
    list.erase(list.begin() + held->place);
    Listed<Item>::removed(document());
  }
}

template <typename Item> void MoveCommand<Item>::move(int from, int to) {
  Listed<Item>::moving(document(), from, to);
  rotateItem(Listed<Item>::of(project()), from, to);
  Listed<Item>::moved(document());
}

template <typename Item> int ChangeCommand<Item>::id() const {
  return m_gesture > 0 ? Listed<Item>::kMergeId : -1;
}

template <typename Item> bool ChangeCommand<Item>::mergeWith(const QUndoCommand* other) {
  const auto* later = static_cast<const ChangeCommand*>(other);
  if (later->m_gesture != m_gesture ||
      !std::equal(m_after.begin(), m_after.end(), later->m_after.begin(), later->m_after.end(),
                  [](const Item& a, const Item& b) { return a.id == b.id; }))
    return false;
  m_after = later->m_after;
  setObsolete(m_after == m_before);
  return true;
}

template <typename Item> void ChangeCommand<Item>::put(const std::vector<Item>& items) {
  for (const Item& item : items) {
    const int at = placeOf(Listed<Item>::of(project()), item.id);
    Item& place = Listed<Item>::of(project())[size_t(at)];
    if constexpr (std::is_same_v<Item, Source>) {
      const Source before = std::exchange(place, item);
      if (before.path == item.path) {
        place.fingerprint = before.fingerprint; // the fingerprint is a fact that may have been learned since
        (void)takeIn(place);
      } else {
        forgetFacts(item.id);
      }
    } else {
      place = item;
    }
    Listed<Item>::changed(document(), at);
  }
}

template <typename Part> int PartCommand<Part>::id() const {
  return m_gesture > 0 ? Whole<Part>::kMergeId : -1;
}

template <typename Part> bool PartCommand<Part>::mergeWith(const QUndoCommand* other) {
  const auto* later = static_cast<const PartCommand*>(other);
  if (later->m_gesture != m_gesture) return false;
  m_after = later->m_after;
  setObsolete(m_after == m_before);
  return true;
}

template <typename Part> void PartCommand<Part>::put(const Part& part) {
  Whole<Part>::of(project()) = part;
  Whole<Part>::replaced(document());
}

template class ItemsCommand<Source>;
template class ItemsCommand<Shot>;
template class ItemsCommand<Deliverable>;
template class MoveCommand<Shot>;
template class MoveCommand<Deliverable>;
template class ChangeCommand<Source>;
template class ChangeCommand<Shot>;
template class ChangeCommand<Deliverable>;
template class PartCommand<std::vector<Group>>;
template class PartCommand<std::vector<Region>>;
template class PartCommand<std::vector<SoundBed>>;
template class PartCommand<CaptionStyle>;
template class PartCommand<Output>;
template class PartCommand<Checks>;

ElementsCommand::ElementsCommand(Document& document, const QString& text, const std::vector<Element>& before,
                                 const std::vector<Element>& after, int gesture)
    : DocumentCommand(document, text), m_gesture(gesture) {
  const auto [first, other] = std::mismatch(before.begin(), before.end(), after.begin(), after.end());
  const auto [last, otherLast] = std::mismatch(before.rbegin(), std::make_reverse_iterator(first), after.rbegin(),
                                               std::make_reverse_iterator(other));
  m_place = size_t(first - before.begin());
  m_before.assign(first, last.base());
  m_after.assign(other, otherLast.base());
}

bool ElementsCommand::mergeWith(const QUndoCommand* other) {
  const auto* later = static_cast<const ElementsCommand*>(other);
  if (later->m_gesture != m_gesture || later->m_place != m_place || later->m_before != m_after) return false;
  m_after = later->m_after;
  setObsolete(m_after == m_before);
  return true;
}

void ElementsCommand::put(size_t count, const std::vector<Element>& elements) {
  std::vector<Element>& all = project().elements;
  const auto at = all.erase(all.begin() + ptrdiff_t(m_place), all.begin() + ptrdiff_t(m_place + count));
  all.insert(at, elements.begin(), elements.end());
  emit document().elementsChanged();
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
