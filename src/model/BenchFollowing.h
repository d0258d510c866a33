// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "analysis/SubjectTracker.h"
#include "model/Document.h"

#include <QCoreApplication>
#include <map>
#include <string>

namespace tromb {

class Bench;

/// The ways of subjects that were followed. A shot's track is kept while the window is open, so that it can be calmed
/// anew. Lives in the window's thread.
class BenchFollowing {
  Q_DECLARE_TR_FUNCTIONS(BenchFollowing)

public:
  explicit BenchFollowing(Bench& bench);

  /// Keeps the track and applies the calmed move, as one undo step.
  void takeTrack(const std::string& shot, const Track& track);
  /// Returns the track of the shot. Returns null if the shot was never tracked, or if its picture has changed since.
  [[nodiscard]] const Track* track() const;
  [[nodiscard]] double calming() const { return m_calming; } ///< 0 to 1
  void setCalming(double strength, int gesture);
  void forget() { m_tracks.clear(); }

private:
  /// A track, whose it is, and in what picture it was found.
  struct Followed {
    Track track;
    size_t subject = 0;
    std::string source;
    Bars bars;
    Orientation orientation;
  };
  void calm(const std::string& shot, int gesture);
  [[nodiscard]] const Followed* followed(const std::string& shot) const;

  Bench& m_bench;
  Document& m_document;
  std::map<std::string, Followed> m_tracks; ///< by Shot::id
  double m_calming = 0.6;
};

} // namespace tromb
