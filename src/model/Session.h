// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/Document.h"

#include <QObject>
#include <map>
#include <optional>
#include <set>
#include <utility>

namespace tromb {

/// What one person is at in the open project: the shots, cells or sound bed that are selected, the deliverable that is
/// current, the one playhead, and in the footage the selected sources with their in and out points. Every view shows it
/// and changes it here; none keeps a selection or a moment of its own. Nothing of it is saved or undone. Lives in the
/// window's thread.
class Session : public QObject {
  Q_OBJECT

public:
  explicit Session(Document& document, QObject* parent = nullptr);
  [[nodiscard]] Document& document() const { return m_document; }

  // The selection. It is of shots, with or without cells of theirs, or of a sound bed; it follows what it is of
  // through every edit and loses what is removed.
  [[nodiscard]] std::vector<int> shots() const;       ///< rows, in order
  [[nodiscard]] bool isSelected(int row) const;       ///< a shot; quick
  [[nodiscard]] std::vector<CellPlace> cells() const; ///< by rows, then columns
  [[nodiscard]] int bed() const;                      ///< place among the project's sound beds; −1: none
  /// The cell that keys and fields belong to: row −1 while none is, column 0 at least.
  [[nodiscard]] CellPlace current() const;
  /// Their cells of those deliverables that cells were selected of are selected with them.
  void selectShots(const std::vector<int>& rows);
  /// Their shots are selected, and `rows` too, which may have no cell. `current` is one of them, or row −1.
  void selectCells(const std::vector<CellPlace>& places, CellPlace current, const std::vector<int>& rows = {});
  void selectBed(int place);
  /// Makes a deliverable current; where cells are selected, those of the same shots in it instead.
  void setDeliverable(int column);
  /// The deliverables that are chosen together, by place: the current one among them. Empty where there is none.
  [[nodiscard]] std::vector<int> deliverables() const;
  void selectDeliverables(const std::vector<int>& columns); ///< the first becomes current; does nothing for none

  // The playhead, seconds of the running order. It stays on its picture while other shots change.
  [[nodiscard]] const Rational& playhead() const { return m_playhead; }
  void setPlayhead(const Rational& seconds); ///< stopped at the ends
  struct Under {
    int row = -1;
    Rational sourceTime; ///< seconds of the source
    Rational sinceBegin; ///< seconds since the shot's beginning
  };
  /// The shot under the playhead, at the end the last one; row −1 where there is none.
  [[nodiscard]] Under underPlayhead() const;
  /// Moves the playhead to the middle of a shot, unless it is in it.
  void lookAt(int row);
  /// Where every shot begins, and at the last place where the last one ends; seconds of the running order.
  [[nodiscard]] const std::vector<Rational>& starts() const { return m_starts; }
  /// What frames of the running order are counted at.
  [[nodiscard]] const FrameRate& rate() const { return m_rate; }
  void setRate(const FrameRate& rate); ///< The playhead moves to the nearest frame at this rate.

  // The footage.
  [[nodiscard]] std::vector<int> sources() const; ///< rows that are selected, the one that is looked at first
  void selectSources(const std::vector<int>& rows);
  /// Frames of a source, half-open.
  struct Stretch {
    int64_t in = 0;
    int64_t end = 0;
    friend bool operator==(const Stretch&, const Stretch&) = default;
  };
  /// Between in and out point: all of the source where none was set, empty where it has no picture. Kept while the
  /// project is open.
  [[nodiscard]] Stretch stretch(const std::string& source) const;
  void setStretch(const std::string& source, Stretch stretch);
  /// The same in seconds of the source; a still has the length that it is shown for.
  [[nodiscard]] std::pair<Rational, Rational> stretchSeconds(const std::string& source) const;

signals:
  void selectionChanged();
  void sourcesSelected();
  void stretchChanged(const std::string& source);
  void playheadMoved(); ///< or what lies under it has changed

private:
  /// A picture: a shot, and a moment of its source.
  struct Picture {
    std::string shot;
    Rational time;       ///< seconds of the source
    Rational sinceBegin; ///< seconds since the shot's beginning: where a held picture shows one moment for long
  };
  using CellIds = std::pair<std::string, std::string>; ///< The id of a shot, then of a deliverable.
  void select(std::set<std::string> shots, std::set<CellIds> cells, CellIds current);
  void orderChanged(bool moved); ///< `moved`: a shot was put elsewhere
  [[nodiscard]] std::optional<Rational> placeOfHeld() const;
  [[nodiscard]] Picture shown() const; ///< under the playhead
  void dropRemoved();
  void holdPicture();
  [[nodiscard]] CellIds idsOf(CellPlace place) const;

  Document& m_document;
  std::set<std::string> m_shots;
  std::set<CellIds> m_cells;
  CellIds m_current;
  std::set<std::string> m_deliverables; ///< chosen together with the current one; counts only while it is among them
  std::string m_bed;
  std::vector<std::string> m_sources; ///< Ids of the selected sources; the first is the one that is looked at.
  std::map<std::string, Stretch> m_stretches;
  std::vector<Rational> m_starts;
  Rational m_playhead;
  Picture m_held;      ///< The picture that the playhead was put on and stays with.
  Picture m_shown;     ///< under the playhead since the last change: another one where the held is gone
  bool m_gone = false; ///< the held picture is in no shot since the last change
  FrameRate m_rate;
};

} // namespace tromb
