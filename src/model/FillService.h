// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "geometry/WaysToFill.h"
#include "model/FramingService.h"
#include "model/PreflightService.h"

#include <functional>
#include <set>

namespace tromb {

/// Ways to fill a cell, the one that loses least first, by what was found in the shot (`matters`, may be empty) and
/// what covers the canvas. Empty where its source cannot be used.
[[nodiscard]] std::vector<WayToFill> waysOf(const Document& document, CellPlace place, std::vector<SeenBox> matters);

/// The cells whose picture falls short of its canvas (soft, with bars, its subject cut off or covered, or moved too
/// fast) and the other ways to fill them. Each deliverable is answered at once: a way is taken for all its cells that
/// fall short. Lives in the window's thread.
class FillService : public QObject {
  Q_OBJECT

public:
  FillService(Document& document, const FramingService& framing, PreflightService& preflight,
              QObject* parent = nullptr);

  /// Columns of deliverables in which cells fall short and nobody has accepted it.
  [[nodiscard]] std::vector<int> columns() const;
  /// Their rows in one of them, the softest first; none where nothing of it can be shown any more.
  [[nodiscard]] std::vector<int> rows(int column) const;
  /// See waysOf; without a smaller canvas, which is no matter of some cells.
  [[nodiscard]] std::vector<WayToFill> ways(CellPlace place) const;
  struct Taken {
    int filled = 0;   ///< cells that are filled in the new way
    int accepted = 0; ///< cells that stay as they are, since they would lose more by it
  };
  /// Fills all cells of a column that fall short in a way that was proposed for the first of its rows, and accepts
  /// those that lose less as they are; as one undo step.
  Taken take(int column, WayToFill::Kind kind);
  /// Accepts all of them as they are.
  Taken letBe(int column);

signals:
  void changed();

private:
  Taken answer(int column, const QString& step,
               const std::function<const WayToFill*(const std::vector<WayToFill>&)>& choose);
  Document& m_document;
  std::set<std::string> m_answered; ///< Deliverable::id, until it is looked again at what falls short
  const FramingService& m_framing;
  PreflightService& m_preflight;
};

} // namespace tromb
