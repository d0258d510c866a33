// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "analysis/ShotFraming.h"
#include "model/Document.h"
#include "model/MeasureService.h"
#include "model/Worker.h"

#include <QObject>
#include <QTimer>
#include <map>
#include <memory>
#include <set>

namespace tromb {

/// Looks at shots beside the window's thread and frames them by what is found, in one undoable step for all that were
/// waiting. Only what nobody has framed is framed: shots without subjects or with suggested ones, and in them cells
/// without a framing or with a suggested one. While it is on, that happens by itself to shots that are new or have
/// another in or out; what is undone stays undone. Shots are framed once the bars of all of them are known, so that
/// what is brought in together is framed together. Signals arrive in the window's thread.
class FramingService : public QObject {
  Q_OBJECT

public:
  FramingService(Document& document, const MeasureService& measuring, QObject* parent = nullptr);

  /// For what is framed from now on.
  void setRules(const FramingRules& rules);
  void setOn(bool on);
  [[nodiscard]] bool on() const { return m_on; }
  /// Frames all shots that nobody has framed, also those that were opened with the project.
  void frameAll();
  /// Looks at one shot without framing it, and reckons its alternatives; `looked` tells when they are there.
  void ask(const std::string& shotId);
  [[nodiscard]] bool busy() const { return !m_pending.empty() || m_reckoning > 0 || m_soon.isActive(); }
  [[nodiscard]] int left() const { return int(m_pending.size()); }

  struct Found {
    ShotLook look;
    Course course;
  };
  /// What was found in a shot as it is now; null while nobody has looked.
  [[nodiscard]] std::shared_ptr<const Found> found(const Shot& shot) const;
  /// Whether somebody has looked at a shot as it is now, or it cannot be looked at.
  [[nodiscard]] bool knows(const Shot& shot) const;
  /// Where what was found in a shot lies, all along it; empty while nobody has looked.
  [[nodiscard]] std::vector<SeenBox> matters(const Shot& shot) const;
  /// Rows of shots whose suggested subject is in doubt.
  [[nodiscard]] std::vector<int> unsure() const;
  [[nodiscard]] int narrowest(int row) const; ///< column of the deliverable that shows least of a shot, −1 for none
  struct Alternative {
    enum class Of { Face, Motion, Detail, Two, Middle, Whole };
    Of of = Of::Middle;
    FramedShot framed;
  };
  /// What a shot could be framed by, the likeliest first, two or three that look different in the narrowest canvas:
  /// the course that was found, what else was, the middle, and the whole picture over a backdrop. Empty while nobody
  /// has asked for them.
  [[nodiscard]] std::vector<Alternative> alternatives(int row) const;
  /// Frames a shot by one of its alternatives; it is no suggestion any more.
  void take(int row, size_t alternative);
  /// Puts right in other shots what somebody has put right in `row`, as one step: in those of the same source the
  /// subject lies at the same place, in others as far beside the same face; these are reckoned beside the window.
  void carry(int row, const std::vector<int>& to);

signals:
  /// Somebody has put the subject of a shot elsewhere than it was suggested, and rests; these others, of the same
  /// source or with the same face, are still framed by what was found.
  void corrected(int row, const std::vector<int>& others);
  void progress(int left);
  /// So many shots were framed, of which so many are in doubt.
  void framed(int shots, int unsure);
  void looked(const QString& shotId);
  void failed(const QString& reason);

private:
  struct Wanted {
    Reading reading;
    int64_t first = 0;
    int64_t end = 1;
    std::string key; ///< of the pictures that are looked at
  };
  /// A shot that is to be framed, and what it will have been framed for.
  struct Waiting {
    std::string shot; ///< Shot::id
    Wanted wanted;
    std::string laid;
  };
  [[nodiscard]] std::optional<Wanted> wantedOf(const Shot& shot) const;
  [[nodiscard]] std::string shapesKey() const;
  [[nodiscard]] bool isToBeFramed(const Shot& shot) const;
  [[nodiscard]] bool awaitsMeasures() const;
  [[nodiscard]] std::vector<Waiting> waiting() const;
  void refresh();
  void look(const std::string& shotId, const Wanted& wanted);
  void end(const std::string& key, const Result<std::shared_ptr<const Found>>& found);
  void frame(const std::vector<Waiting>& shots);
  void put(std::vector<Document::Framed> framed, const std::vector<Waiting>& shots);
  void reckonAlternatives(const std::string& shotId);
  void lay(const std::vector<Document::Framed>& framed, const QString& text);
  void notice(int row);
  void offer();
  void tellCorrected(const std::string& shotId, const std::set<std::string>& others);
  [[nodiscard]] std::optional<Correction> correctionIn(const Shot& shot) const;

  Document& m_document;
  const MeasureService& m_measuring;
  FramingRules m_rules;
  bool m_on = false;
  std::map<std::string, std::shared_ptr<const Found>> m_found; ///< by Wanted::key
  std::set<std::string> m_pending;                             ///< the same, of what waits or is looked at
  std::set<std::string> m_refused;                             ///< the same, of what cannot be looked at
  std::map<std::string, std::string> m_laid;                   ///< by Shot::id: what it was framed for last
  std::map<std::string, std::pair<Rational, Rational>> m_old;  ///< in and out of shots that came with the project
  std::set<std::string> m_asked;                               ///< shots that are framed whether they are new or not
  std::map<std::string, bool> m_open; ///< by Shot::id: the subject was suggested, when it was last looked at
  std::map<std::string, std::vector<Alternative>> m_alternatives; ///< by what they were reckoned for
  std::set<std::string> m_asking;                                 ///< Shot::id, of those that are wanted
  int m_reckoning = 0;                                            ///< jobs that reckon framings
  bool m_laying = false;
  std::string m_noticed; ///< Shot::id of the shot that somebody puts right just now
  QTimer m_soon;
  QTimer m_rested; ///< a drag is many changes
  Worker m_worker;
};

} // namespace tromb
