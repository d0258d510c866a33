// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/BenchFollowing.h"
#include "model/BenchMoves.h"
#include "model/BenchPlacing.h"
#include "model/BenchSource.h"
#include "model/Session.h"

#include <QObject>
#include <QPointF>
#include <QRectF>
#include <algorithm>
#include <optional>

namespace tromb {

/// One shot being framed: the one under the playhead, at the playhead's moment, with the session's deliverable as the
/// active one. It says what is seen; its four parts change it. Places are in pixels of the upright picture without its
/// bars. Lives in the window's thread.
class Bench : public QObject {
  Q_OBJECT

public:
  explicit Bench(Session& session, QObject* parent = nullptr);

  [[nodiscard]] Session& session() const { return m_session; }
  [[nodiscard]] Document& document() const { return m_document; }
  [[nodiscard]] BenchPlacing& placing() { return m_placing; }
  [[nodiscard]] BenchMoves& moves() { return m_moves; }
  [[nodiscard]] BenchFollowing& following() { return m_following; }
  [[nodiscard]] BenchSource& source() { return m_source; }

  /// Returns the row of the shot. Returns −1 if there is none, or if the project has no deliverable, since nothing can
  /// be placed then.
  [[nodiscard]] int row() const;
  /// The deliverables that are framed, by place: those that have framings of their own.
  [[nodiscard]] std::vector<int> columns() const;
  /// The one that is framed: the current one, or its normal version.
  [[nodiscard]] int column() const;
  /// The framed one so many places behind it, around the end.
  [[nodiscard]] int columnAfter(int step) const;
  [[nodiscard]] int window() const { return m_window; } ///< The active window of the active deliverable's layout.
  [[nodiscard]] bool placesSubject() const { return m_subject; }
  void setWindow(int window);
  void setPlacesSubject(bool subject); ///< what keys belong to and what is placed

  // The moment. Frames are of the source; of a still, of the first deliverable.
  [[nodiscard]] int64_t frame() const;
  [[nodiscard]] int64_t firstFrame() const;
  [[nodiscard]] int64_t endFrame() const; ///< one past the last
  [[nodiscard]] Rational time() const;    ///< seconds of the source: when the frame begins
  [[nodiscard]] Rational timeOf(int64_t frame) const;
  [[nodiscard]] int64_t frameOf(double seconds) const;
  void goTo(int64_t frame); ///< moves the playhead; stops at the shot's ends

  [[nodiscard]] const Shot* shot() const;       ///< null where row() is −1
  [[nodiscard]] std::string shotId() const;     ///< empty for none
  [[nodiscard]] const MediaInfo* media() const; ///< null for none
  [[nodiscard]] SizeF picture() const;
  [[nodiscard]] QPointF middle() const; ///< The middle of the picture, where a subject begins.
  /// A deliverable's cell at the moment.
  [[nodiscard]] Cell cell(int column) const { return cellAt(column, time()); }
  [[nodiscard]] Cell cellAt(int column, const Rational& time) const;
  [[nodiscard]] QRectF windowRect(int column, int window) const;
  /// The part of the active canvas that the active window fills, in pixels.
  [[nodiscard]] SizeF share() const;
  /// Where the window's subject is at the playhead; empty if it has none.
  [[nodiscard]] std::optional<QPointF> subject() const;

  [[nodiscard]] static double inside(double share) { return std::clamp(share, 0.0, 1.0); }

signals:
  void changed(); ///< what is shown, or where
  void moved();   ///< another frame is looked at

private:
  [[nodiscard]] FrameRate stillRate() const;
  void lookAgain();

  Session& m_session;
  Document& m_document;
  BenchPlacing m_placing;
  BenchMoves m_moves;
  BenchFollowing m_following;
  BenchSource m_source;
  int m_window = 0;
  bool m_subject = false;
  // What was told last.
  std::string m_seenShot;
  int m_seenColumn = 0;
  int64_t m_seenFrame = 0;
};

} // namespace tromb
