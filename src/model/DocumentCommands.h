// SPDX-License-Identifier: GPL-3.0-or-later
// The undoable changes of a Document; pushed by its methods only. Larger edits are macros of these.
#pragma once

#include "model/Document.h"

#include <QUndoCommand>

namespace tromb {

/// Base of all: reaches into the document's project and tells the views exactly what changed.
class DocumentCommand : public QUndoCommand {
protected:
  DocumentCommand(Document& document, const QString& text) : QUndoCommand(text), m_document(document) {}
  [[nodiscard]] Project& project() const { return m_document.m_project; }
  [[nodiscard]] Document& document() const { return m_document; }
  [[nodiscard]] int columnOf(const std::string& deliverableId) const;
  [[nodiscard]] int rowOf(const std::string& shotId) const;
  [[nodiscard]] bool takeIn(Source& source) const { return m_document.takeIn(source); }
  void forgetFacts(const std::string& sourceId) const { m_document.forgetFacts(sourceId); }

private:
  Document& m_document;
};

/// Where a document keeps items of a kind, and the signals that tell of them.
template <typename Item> struct Listed;
/// The same of a part that is changed as a whole.
template <typename Part> struct Whole;

/// An item taken out, with what belongs to it, so that it can be put back.
template <typename Item> struct Held {
  int place = 0;
  Item item;
  std::vector<std::pair<std::string, Framing>> framings; ///< The framings of one shot, by deliverable id.
};

/// Puts sources, shots or deliverables in, or (as `removal`) takes them out.
template <typename Item> class ItemsCommand final : public DocumentCommand {
public:
  ItemsCommand(Document& document, const QString& text, std::vector<Held<Item>> items, bool removal)
      : DocumentCommand(document, text), m_items(std::move(items)), m_removal(removal) {}
  void redo() override { m_removal ? takeOut() : putIn(); }
  void undo() override { m_removal ? putIn() : takeOut(); }

private:
  void putIn();
  void takeOut();
  std::vector<Held<Item>> m_items; ///< ascending places
  bool m_removal;
};

/// Moves one shot or deliverable.
template <typename Item> class MoveCommand final : public DocumentCommand {
public:
  MoveCommand(Document& document, int from, int to, const QString& text)
      : DocumentCommand(document, text), m_from(from), m_to(to) {}
  void redo() override { move(m_from, m_to); }
  void undo() override { move(m_to, m_from); }

private:
  void move(int from, int to);
  int m_from;
  int m_to;
};

/// Swaps items for changed ones with the same ids.
template <typename Item> class ChangeCommand final : public DocumentCommand {
public:
  ChangeCommand(Document& document, const QString& text, std::vector<Item> before, std::vector<Item> after,
                int gesture = 0)
      : DocumentCommand(document, text), m_before(std::move(before)), m_after(std::move(after)), m_gesture(gesture) {}
  void redo() override { put(m_after); }
  void undo() override { put(m_before); }
  [[nodiscard]] int id() const override;
  bool mergeWith(const QUndoCommand* other) override;

private:
  void put(const std::vector<Item>& items);
  std::vector<Item> m_before;
  std::vector<Item> m_after;
  int m_gesture;
};

/// Swaps a whole part of the project: groups, regions, sound beds, or what is said of its files.
template <typename Part> class PartCommand final : public DocumentCommand {
public:
  PartCommand(Document& document, const QString& text, Part before, Part after, int gesture = 0)
      : DocumentCommand(document, text), m_before(std::move(before)), m_after(std::move(after)), m_gesture(gesture) {}
  void redo() override { put(m_after); }
  void undo() override { put(m_before); }
  [[nodiscard]] int id() const override;
  bool mergeWith(const QUndoCommand* other) override;

private:
  void put(const Part& part);
  Part m_before;
  Part m_after;
  int m_gesture;
};

/// Swaps a stretch of the list of elements, which may be long: that in which two lists differ.
class ElementsCommand final : public DocumentCommand {
public:
  ElementsCommand(Document& document, const QString& text, const std::vector<Element>& before,
                  const std::vector<Element>& after, int gesture);
  void redo() override { put(m_before.size(), m_after); }
  void undo() override { put(m_after.size(), m_before); }
  [[nodiscard]] int id() const override { return m_gesture > 0 ? kMergeId : -1; }
  bool mergeWith(const QUndoCommand* other) override;

private:
  static constexpr int kMergeId = 10;
  void put(size_t count, const std::vector<Element>& elements);
  size_t m_place = 0;
  std::vector<Element> m_before;
  std::vector<Element> m_after;
  int m_gesture;
};

class FramingCommand final : public DocumentCommand {
public:
  struct Change {
    std::string deliverable;
    std::string shot;
    std::optional<Framing> before; ///< empty: the default, not stored
    std::optional<Framing> after;
  };
  FramingCommand(Document& document, const QString& text, std::vector<Change> changes, int gesture)
      : DocumentCommand(document, text), m_changes(std::move(changes)), m_gesture(gesture) {}
  void redo() override { put(&Change::after); }
  void undo() override { put(&Change::before); }
  [[nodiscard]] int id() const override { return m_gesture > 0 ? 1 : -1; }
  bool mergeWith(const QUndoCommand* other) override;

private:
  void put(std::optional<Framing> Change::*side);
  std::vector<Change> m_changes;
  int m_gesture;
};

} // namespace tromb
