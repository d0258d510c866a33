// SPDX-License-Identifier: GPL-3.0-or-later
// The undoable changes of a Document; pushed by its methods only.
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

private:
  Document& m_document;
};

/// A shot taken out, with what belongs to it, so that it can be put back.
struct HeldShot {
  int row = 0;
  Shot shot;
  std::optional<Source> source;                          ///< when the source comes and goes with it
  std::vector<std::pair<std::string, Framing>> framings; ///< by deliverable id
};

/// Puts shots in, or (as `removal`) takes them out.
class ShotsCommand final : public DocumentCommand {
public:
  ShotsCommand(Document& document, const QString& text, std::vector<HeldShot> shots, bool removal);
  void redo() override { m_removal ? takeOut() : putIn(); }
  void undo() override { m_removal ? putIn() : takeOut(); }

private:
  void putIn();
  void takeOut();
  std::vector<HeldShot> m_shots; ///< ascending rows
  bool m_removal;
};

struct HeldDeliverable {
  int column = 0;
  Deliverable deliverable;
};

class DeliverablesCommand final : public DocumentCommand {
public:
  DeliverablesCommand(Document& document, const QString& text, std::vector<HeldDeliverable> deliverables, bool removal);
  void redo() override { m_removal ? takeOut() : putIn(); }
  void undo() override { m_removal ? putIn() : takeOut(); }

private:
  void putIn();
  void takeOut();
  std::vector<HeldDeliverable> m_deliverables; ///< ascending columns
  bool m_removal;
};

class MoveCommand final : public DocumentCommand {
public:
  enum class What { Shot, Deliverable };
  MoveCommand(Document& document, What what, int from, int to, const QString& text)
      : DocumentCommand(document, text), m_what(what), m_from(from), m_to(to) {}
  void redo() override { move(m_from, m_to); }
  void undo() override { move(m_to, m_from); }

private:
  void move(int from, int to);
  What m_what;
  int m_from;
  int m_to;
};

/// Swaps one shot or deliverable for a changed one with the same id.
template <typename Item> class ChangeCommand final : public DocumentCommand {
public:
  ChangeCommand(Document& document, const QString& text, Item before, Item after)
      : DocumentCommand(document, text), m_before(std::move(before)), m_after(std::move(after)) {}
  void redo() override { put(m_after); }
  void undo() override { put(m_before); }

private:
  void put(const Item& item);
  Item m_before;
  Item m_after;
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
