// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/bench/BenchCanvas.h"
#include "app/bench/BenchResults.h"
#include "app/bench/MoveCurves.h"
#include "app/bench/WaysPanel.h"
#include "model/SourceFeed.h"

class QComboBox;
class QDoubleSpinBox;
class QLabel;
class QToolButton;

namespace tromb {

/// One shot, large, framed for all shapes at once.
class BenchView : public QWidget {
  Q_OBJECT

public:
  explicit BenchView(Document& document, QWidget* parent = nullptr);
  [[nodiscard]] Bench& bench() { return m_bench; }
  [[nodiscard]] BenchCanvas& canvas() { return *m_canvas; }
  void showCell(int row, int column);
  [[nodiscard]] bool settled() const { return m_pictured && m_ways->settled(); }
  [[nodiscard]] const QList<QAction*>& commands() const { return m_commands; }

protected:
  void showEvent(QShowEvent* event) override;

private:
  QWidget* buildReadout();
  QWidget* buildMoveBar();
  QAction* command(const QString& text, const QString& iconName, const QKeySequence& keys,
                   const std::function<void()>& run);
  void feed();
  void refresh();
  void typed(const QDoubleSpinBox* field, double value);

  Document& m_document;
  Bench m_bench;
  SourceFeed m_feed;
  Poster m_poster;
  std::string m_fed; ///< the source that the feed is open on
  Source m_fedAs;    ///< and as what
  bool m_pictured = false;
  bool m_showing = false;
  QList<QAction*> m_commands;
  BenchCanvas* m_canvas;
  BenchResults* m_results;
  WaysPanel* m_ways;
  MoveCurves* m_curves;
  QLabel *m_head = nullptr, *m_read = nullptr, *m_time = nullptr;
  QDoubleSpinBox *m_x = nullptr, *m_y = nullptr, *m_zoom = nullptr;
  QToolButton *m_placeWindow = nullptr, *m_placeSubject = nullptr, *m_follow = nullptr;
  QComboBox *m_ease = nullptr, *m_wanted = nullptr;
};

} // namespace tromb
