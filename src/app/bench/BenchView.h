// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/bench/BarsPanel.h"
#include "app/bench/BenchCanvas.h"
#include "app/bench/BenchResults.h"
#include "app/bench/LayoutPanel.h"
#include "app/bench/MoveCurves.h"
#include "app/bench/TrackBar.h"
#include "app/bench/WaysPanel.h"
#include "app/style/TimecodeField.h"
#include "model/FramingService.h"
#include "model/SourceFeed.h"
#include "model/Watch.h"

class QComboBox;
class QDoubleSpinBox;
class QLabel;
class QToolButton;

namespace tromb {

/// One shot, large, framed for all shapes at once.
class BenchView : public QWidget {
  Q_OBJECT

public:
  BenchView(Session& session, Actions& actions, PosterService& posters, QWidget* parent = nullptr);
  /// The results count what it finds; it must live as long.
  /// What was found in the shot can be laid over its picture.
  void setFound(FramingService& framing);
  void setPreflight(const PreflightService& preflight) { m_results->setPreflight(preflight); }
  /// What is played is shown here, too; it must live as long.
  [[nodiscard]] BenchResults& results() { return *m_results; }
  void setElements(ElementPictures& elements) { m_results->setElements(elements); } ///< it must live as long
  void setWatch(Watch& watch);
  [[nodiscard]] Bench& bench() { return m_bench; }
  [[nodiscard]] BenchCanvas& canvas() { return *m_canvas; }
  /// Null while windows are placed.
  [[nodiscard]] BarsPanel* bars() { return m_bars->isHidden() ? nullptr : m_bars; }
  [[nodiscard]] bool settled() const {
    return (m_pictured || !isVisible() || !m_bench.media()) && m_ways->settled() && m_track->settled();
  }
  [[nodiscard]] TrackBar& tracking() { return *m_track; }

protected:
  void showEvent(QShowEvent* event) override;
  void hideEvent(QHideEvent* event) override;

private:
  QWidget* buildNumbers();
  QWidget* buildMoveBar();
  void showBars(bool shown); ///< in place of the windows
  void showPicture(const QImage& picture);
  void cutWhole(); ///< what the bars leave of the whole picture, for the results
  QToolButton* menuButton(const QString& text, const QString& tip, const QList<const char*>& ids, QWidget* parent);
  void bindActions();
  void showSelected();
  void selectShown();
  void showTime();
  void feed();
  void askPlayed();
  [[nodiscard]] bool isPlayed() const; ///< pictures come from what is played
  void refresh();
  void typed(const QDoubleSpinBox* field, double value);

  Session& m_session;
  Document& m_document;
  Actions& m_actions;
  Bench m_bench;
  SourceFeed m_feed;
  Watch* m_watch = nullptr;
  Poster m_poster;
  std::string m_fed;        ///< the source that the feed is open on
  Source m_fedAs;           ///< The source as it was when its pictures were opened.
  bool m_allPixels = false; ///< the picture is fed at its own size
  bool m_fedAll = false;
  bool m_fedWhole = false; ///< with its bars
  QImage m_whole;
  std::optional<Bars> m_cutBy;
  bool m_pictured = false;
  bool m_showing = false;
  BenchCanvas* m_canvas;
  BarsPanel* m_bars;
  QWidget* m_placing; ///< the windows and what belongs to them
  BenchResults* m_results;
  WaysPanel* m_ways;
  LayoutPanel* m_layout;
  MoveCurves* m_curves;
  TrackBar* m_track = nullptr;
  FramingService* m_framing = nullptr;
  QLabel *m_read = nullptr, *m_said = nullptr;
  TimecodeField* m_time = nullptr;
  QDoubleSpinBox *m_x = nullptr, *m_y = nullptr, *m_width = nullptr, *m_zoom = nullptr, *m_straighten = nullptr;
  QToolButton *m_placeWindow = nullptr, *m_placeSubject = nullptr;
  QComboBox *m_ease = nullptr, *m_wanted = nullptr;
};

} // namespace tromb
