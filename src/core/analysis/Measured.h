// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "analysis/Loudness.h"
#include "geometry/PictureShape.h"
#include "media/MediaInfo.h"
#include "project/Project.h"

#include <functional>
#include <optional>
#include <stop_token>
#include <string>

namespace tromb {

/// What reading a source's pictures and sound showed, beyond what its file says of itself. Value.
struct Measured {
  /// How much moves at some moment.
  struct Motion {
    double seconds = 0; ///< of the source
    double change = 0;  ///< the temporal information of a short stretch there (Rec. ITU-T P.910)
    friend bool operator==(const Motion&, const Motion&) = default;
  };
  Bars bars;                        ///< burned in; see measureBars
  std::optional<Scan> scan;         ///< empty: stills, sound, and too little motion to tell
  std::optional<Loudness> loudness; ///< The loudness of what is heard; empty if there is no sound.
  std::vector<SoundTenth> tenths;   ///< Of what is heard, from the beginning of the sound.
  std::vector<Motion> motion;       ///< in the order of their times; empty where there is none to measure
  std::optional<Repeats> repeats;   ///< empty: pictures are repeated in no cycle
  double repeated = 0;              ///< share of pictures, where something moves, that are the one before
  std::vector<int> heard;           ///< Like Reading::heard. Set if the usual streams are silent and others are not.

  /// The liveliest motion between two moments of the source, in seconds; where none was measured between them, that
  /// which was measured nearest to their middle. 0 where there is none.
  [[nodiscard]] double motionIn(double from, double to) const;
};

/// Measures bars, scan, motion and repeated pictures in one pass over a source's pictures: stretches spread over its
/// length. Nothing is measured of stills and sound. `onFraction` is told how far it is, 0 to 1. Errors: those of the
/// reader, Cancelled. Thread-safe.
[[nodiscard]] Result<Measured> measurePictures(const MediaInfo& media, std::stop_token stop = {},
                                               const std::function<void(double)>& onFraction = {});

/// `measurePictures`, and the loudness of the sound. Where the streams that are usually heard are silent, the others
/// are listened to.
[[nodiscard]] Result<Measured> measure(const MediaInfo& media, std::stop_token stop = {},
                                       const std::function<void(double)>& onFraction = {});

/// Gives a source what was measured, unless somebody has set it otherwise. Returns true if its pictures change by it.
bool takeIn(Source& source, const Measured& measured);

/// Keeps what was measured, by the files' fingerprints, in a folder of its own. What it holds is a cache: it may be
/// emptied at any time, and damaged entries count as absent. Thread-safe for different fingerprints.
class MeasuredStore {
public:
  explicit MeasuredStore(std::string folder) : m_folder(std::move(folder)) {}
  [[nodiscard]] std::optional<Measured> find(const std::string& fingerprint) const;
  /// Best effort: a full disk only means measuring again.
  void keep(const std::string& fingerprint, const Measured& measured) const;

private:
  [[nodiscard]] std::string pathOf(const std::string& fingerprint) const;
  std::string m_folder;
};

} // namespace tromb
