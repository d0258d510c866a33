// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/PreflightService.h"

#include <QAbstractTableModel>
#include <array>
#include <set>
#include <vector>

namespace tromb {

/// The contact sheet: rows are shots in running order, columns are deliverables. Follows the document exactly.
class SheetModel : public QAbstractTableModel {
  Q_OBJECT

public:
  enum Role {
    CellRole = Qt::UserRole + 1, ///< a tromb::Cell
    AmissRole,                   ///< how much else is amiss in the cell than what its state says
    CadenceRole,                 ///< a std::optional<tromb::ShotCadence>
    SettledRole,                 ///< whether what its state says was accepted, or is not looked for
  };

  explicit SheetModel(Document& document, QObject* parent = nullptr);
  /// What preflight finds is shown from now on. It must live as long.
  void setPreflight(const PreflightService& preflight);

  [[nodiscard]] int rowCount(const QModelIndex& parent = {}) const override;
  [[nodiscard]] int columnCount(const QModelIndex& parent = {}) const override;
  [[nodiscard]] QVariant data(const QModelIndex& index, int role) const override;
  [[nodiscard]] QVariant headerData(int section, Qt::Orientation orientation, int role) const override;

  /// The lines of a head: name, canvas, rate and size of the file, what falls short.
  [[nodiscard]] QStringList deliverableLines(int column) const;
  /// The lines of a row's left end: number and name, facts, length.
  [[nodiscard]] QStringList shotLines(int row) const;
  /// The least confidence of a shot's subjects that were suggested, 0 where none was.
  [[nodiscard]] double suggestion(int row) const;
  /// How many cells of a column are in a state; without those in which somebody has accepted it.
  [[nodiscard]] int countInColumn(int column, Cell::State state) const;
  /// The worst that is amiss in a column: in its cells, or in all of it.
  [[nodiscard]] Cell::State worstInColumn(int column) const;
  [[nodiscard]] Document& document() const { return m_document; }

private:
  [[nodiscard]] QString bitRateWords(int column) const;
  /// The states of one column's cells: heads and totals are asked for far more often than cells change.
  struct Column {
    bool known = false;
    std::vector<Cell::State> states;
    std::array<int, 5> counts{}; ///< by state
  };
  [[nodiscard]] const Column& column(int column) const;
  void forget() { m_columns.clear(); }
  void lookAgain(CellPlace place);
  void rowsChanged(const std::vector<int>& rows);

  void takeFindings();
  /// Findings of a cell that are amiss and are not told by its state.
  [[nodiscard]] std::vector<const Finding*> findingsBeside(CellPlace place) const;

  Document& m_document;
  const PreflightService* m_preflight = nullptr;
  /// What preflight finds amiss in a deliverable beside what the states of its cells say.
  struct Beside {
    int count = 0;
    Cell::State worst = Cell::State::Good;
    std::array<int, 5> settled{}; ///< cells, by state, in which that is accepted
  };
  std::map<std::string, Beside> m_beside;                  ///< by Deliverable::id
  std::set<std::pair<std::string, std::string>> m_settled; ///< such cells, by Deliverable::id and Shot::id
  mutable std::vector<Column> m_columns;
  int m_from = 0; ///< rows of the change that is under way
  int m_to = 0;
};

} // namespace tromb
