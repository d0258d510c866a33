// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/Bench.h"
#include "model/PosterService.h"

#include <QTimer>
#include <QWidget>

class QComboBox;
class QScrollArea;

namespace tromb {

/// The ways out for a cell that is soft, side by side, drawn from this shot. Each is applied by a click: to the cell,
/// or to what is chosen beside the head.
class WaysPanel : public QWidget {
  Q_OBJECT

public:
  WaysPanel(Bench& bench, PosterService& posters, QWidget* parent = nullptr);
  [[nodiscard]] bool settled() const { return !m_rest.isActive(); }
  void setPoster(const Poster* poster); ///< kept by the caller
  void refreshSoon() { m_rest.start(); }

signals:
  void offered(bool any); ///< the panel was filled anew

private:
  enum class Scope { Cell, SoftOfColumn, SoftOfAll, Column };
  void refresh();
  void apply(const WayToFill& way);
  /// To the cells of these columns, as one step; or only to soft ones, where it fills with more detail.
  void applyTo(int first, int end, const WayToFill& way, bool softOnly);
  Bench& m_bench;
  const Poster* m_poster = nullptr;
  PosterService& m_posters;
  QTimer m_rest;
  QComboBox* m_scope;
  QScrollArea* m_area;
};

} // namespace tromb
