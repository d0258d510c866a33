// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/bench/BarsPanel.h"
#include "app/bench/BenchCanvas.h"
#include "app/bench/BenchResults.h"
#include "app/bench/LayoutPanel.h"
#include "app/bench/MoveCurves.h"
#include "app/bench/WaysPanel.h"
#include "model/SourceFeed.h"
#include "model/SubjectSearch.h"

class QComboBox;
class QDoubleSpinBox;
class QLabel;
class QProgressBar;
class QScrollArea;
class QSlider;
class QToolButton;

namespace tromb {

/// One shot, large, framed for all shapes at once.
class BenchView : public QWidget {
  Q_OBJECT

public:
  BenchView(Session& session, PosterService& posters, QWidget* parent = nullptr);
  [[nodiscard]] Bench& bench() { return m_bench; }
  [[nodiscard]] BenchCanvas& canvas() { return *m_canvas; }
  /// Null while windows are placed.
  [[nodiscard]] BarsPanel* bars() { return m_bars->isHidden() ? nullptr : m_bars; }
  [[nodiscard]] bool settled() const {
    return (m_pictured || !isVisible() || !m_bench.media()) && m_ways->settled() && !m_search.running();
  }
  /// Looks for subjects in all shots that have none.
  void suggestSubjects();
  [[nodiscard]] const QList<QAction*>& commands() const { return m_commands; }
  /// What people think of when they look for a command.
  enum class Menu { Framing, Subject, Moving, Picture };
  [[nodiscard]] QList<QAction*> commands(Menu menu) const;

protected:
  void showEvent(QShowEvent* event) override;
  void hideEvent(QHideEvent* event) override;
  void resizeEvent(QResizeEvent* event) override;

private:
  QWidget* buildReadout();
  QWidget* buildMoveBar();
  void showBars(bool shown); ///< in place of the windows
  void showPicture(const QImage& picture);
  void cutWhole(); ///< what the bars leave of the whole picture, for the results
  void addFollowing(QWidget* bar, QLayout& row);
  [[nodiscard]] std::optional<SubjectSearch::Stretch> stretchOf(const Shot& shot) const;
  void followBox(const QRectF& box);
  void takeTrack(const std::string& shot, const Track& track);
  void takeFound();
  void refreshFollow();
  void refreshCommands();
  void say(const QString& words);
  QAction* command(Menu menu, const QString& text, const QString& iconName, const QKeySequence& keys,
                   const std::function<void()>& run);
  void fitWays(); ///< as high as they are, as long as the results keep their room
  void showSelected();
  void selectShown();
  void feed();
  void refresh();
  void typed(const QDoubleSpinBox* field, double value);

  Session& m_session;
  Document& m_document;
  Bench m_bench;
  SourceFeed m_feed;
  Poster m_poster;
  SubjectSearch m_search;
  std::vector<std::pair<std::string, FoundSubject>> m_found; ///< by Shot::id, while they are looked for
  std::string m_fed;                                         ///< the source that the feed is open on
  Source m_fedAs;                                            ///< and as what
  bool m_allPixels = false;                                  ///< the picture is fed at its own size
  bool m_fedAll = false;
  bool m_fedWhole = false; ///< with its bars
  QImage m_whole;
  std::optional<Bars> m_cutBy;
  bool m_pictured = false;
  bool m_showing = false;
  QList<QAction*> m_commands;
  BenchCanvas* m_canvas;
  BarsPanel* m_bars;
  QWidget* m_placing; ///< the windows and what belongs to them
  BenchResults* m_results;
  WaysPanel* m_ways;
  QScrollArea* m_waysArea = nullptr;
  LayoutPanel* m_layout;
  MoveCurves* m_curves;
  QLabel *m_head = nullptr, *m_read = nullptr, *m_time = nullptr;
  QDoubleSpinBox *m_x = nullptr, *m_y = nullptr, *m_width = nullptr, *m_zoom = nullptr, *m_straighten = nullptr;
  QAction* m_mirror = nullptr;
  QToolButton *m_placeWindow = nullptr, *m_placeSubject = nullptr, *m_follow = nullptr;
  QComboBox *m_ease = nullptr, *m_wanted = nullptr;
  QToolButton *m_track = nullptr, *m_stop = nullptr;
  QSlider* m_calm = nullptr;
  QProgressBar* m_searched = nullptr;
  QLabel *m_calmWords = nullptr, *m_searchWords = nullptr;
  QString m_said; ///< of the last search
};

} // namespace tromb
