// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/Document.h"

#include <QCoreApplication>
#include <optional>

namespace tromb {

class Bench;

/// The picture of the source that is on the bench: how it is turned and mirrored, and its burned-in bars. A change
/// holds for every shot of the source and is an undoable command of the document. Lives in the window's thread.
class BenchSource {
  Q_DECLARE_TR_FUNCTIONS(BenchSource)

public:
  explicit BenchSource(Bench& bench);

  [[nodiscard]] Orientation orientation() const;
  void setOrientation(const Orientation& orientation, const QString& text);
  /// Burned-in bars, in the source's own pixels as it stands in its orientation.
  [[nodiscard]] Bars bars() const;
  [[nodiscard]] std::optional<Bars> measuredBars() const; ///< The bars that were found; empty while nobody has looked.
  void setBars(const Bars& bars);
  [[nodiscard]] Size raster() const;    ///< The upright size of the source with its bars; 16×9 if there is none.
  static constexpr int kLeastKept = 16; ///< pixels that bars leave of a side

private:
  Bench& m_bench;
  Document& m_document;
};

} // namespace tromb
