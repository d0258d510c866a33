// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/Cell.h"
#include "project/Footage.h"

#include <QObject>
#include <QStringList>
#include <QUndoStack>
#include <optional>
#include <vector>

namespace tromb {

/// A place on the sheet.
struct CellPlace {
  int shot = 0;        ///< row
  int deliverable = 0; ///< column
  friend bool operator==(const CellPlace&, const CellPlace&) = default;
};

/// The open project: its value, the facts of its footage, and the stack of undoable changes. Every lasting change
/// goes through one of the commands below; views learn of it by the exact signals. Lives in the window's thread.
class Document : public QObject {
  Q_OBJECT

public:
  explicit Document(QObject* parent = nullptr);

  [[nodiscard]] const Project& project() const { return m_project; }
  [[nodiscard]] const Footage& footage() const { return m_footage; }
  [[nodiscard]] QUndoStack& undoStack() { return m_stack; }
  [[nodiscard]] QString path() const { return m_path; } ///< empty until it was saved once
  [[nodiscard]] QString title() const;                  ///< the project's name for people
  [[nodiscard]] bool modified() const { return !m_stack.isClean(); }

  [[nodiscard]] Cell cell(CellPlace place) const;
  /// Facts of a source, null while it is being looked at.
  [[nodiscard]] const Result<MediaInfo>* media(const std::string& sourceId) const;
  /// Cells that complain, in all.
  [[nodiscard]] int complaints() const;

  // Files. Loading replaces everything and clears the undo stack.
  void startNew();
  [[nodiscard]] Status load(const QString& path);
  [[nodiscard]] Status save(const QString& path);

  /// What was learned of a source's file; not undoable, since it is a fact.
  void setMedia(const std::string& sourceId, Result<MediaInfo> media);

  // Undoable commands.
  struct NewFootage {
    MediaInfo media;
    Bars bars;
  };
  void addFootage(const std::vector<NewFootage>& files);
  void removeShots(std::vector<int> rows);
  void moveShot(int from, int to); ///< `to` is the row it has afterwards
  void renameShot(int row, const QString& name);
  void addDeliverable(const Deliverable& deliverable);
  void editDeliverable(int column, const Deliverable& changed); ///< id and framings are kept
  void removeDeliverables(std::vector<int> columns);
  void moveDeliverable(int from, int to);
  /// Changes framings; calls with the same `gesture` (> 0) on the same cells merge into one step.
  void setFramings(const std::vector<std::pair<CellPlace, Framing>>& framings, const QString& text, int gesture = 0);
  [[nodiscard]] int newGesture() { return ++m_gesture; }

signals:
  void aboutToReset();
  void reset();
  void shotsAboutToBeInserted(int first, int last);
  void shotsInserted();
  void shotsAboutToBeRemoved(int first, int last);
  void shotsRemoved();
  void shotAboutToMove(int from, int to);
  void shotMoved();
  void deliverablesAboutToBeInserted(int first, int last);
  void deliverablesInserted();
  void deliverablesAboutToBeRemoved(int first, int last);
  void deliverablesRemoved();
  void deliverableAboutToMove(int from, int to);
  void deliverableMoved();
  void shotChanged(int row);
  void deliverableChanged(int column);
  void framingsChanged(const std::vector<tromb::CellPlace>& places);
  void mediaChanged(const QString& sourceId);
  void identityChanged(); ///< name, path or saved state

private:
  friend class DocumentCommand;
  Project m_project;
  Footage m_footage;
  QUndoStack m_stack;
  QString m_path;
  int m_gesture = 0;
};

} // namespace tromb

Q_DECLARE_METATYPE(std::vector<tromb::CellPlace>)
