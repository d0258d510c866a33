// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "media/Frame.h"
#include "media/Reading.h"

#include <functional>
#include <memory>
#include <stop_token>
#include <vector>

namespace tromb {

/// How one picture of a stretch differs from those round it; all in percent of full range, means over a small
/// copy of the picture (64×36 luma, 32×18 for each chroma plane), so that noise and small motion count little.
struct CutSample {
  int64_t frame = 0;
  float change = 0;   ///< from the picture before
  float back = 0;     ///< least difference between the picture before and one of the next three: small for a flash
  float dissolve = 0; ///< between two pictures that this one is the even mixture of; 0 where it is of none
  int reach = 0;      ///< half the distance of those two, in pictures
};

/// A place where the picture changes.
struct FoundCut {
  int64_t frame = 0; ///< first picture of the new shot; for a dissolve its middle
  int64_t from = 0;  ///< a dissolve's first and last picture; for a hard cut the pictures on both sides
  int64_t to = 0;
  bool dissolve = false; ///< doubtful: no single picture is the cut
  double strength = 0;   ///< percent of full range
  friend bool operator==(const FoundCut&, const FoundCut&) = default;
};

inline constexpr double kUsualCutThreshold = 4; ///< percent

/// Measures pictures that somebody else reads, one after the other. Not thread-safe.
class CutSampler {
public:
  CutSampler();
  ~CutSampler();
  /// The next picture of the source. Errors: Decoder, where it cannot be made smaller.
  [[nodiscard]] Status add(int64_t number, const Frame& picture);
  /// What was measured, one for each picture; nothing can be added afterwards.
  [[nodiscard]] std::vector<CutSample> end();

private:
  struct State;
  std::unique_ptr<State> m_state;
};

/// Reads frames [first, end) of a source and measures each; the threshold is chosen afterwards. `onFraction` is told
/// how far it is, 0 to 1. Errors: those of PictureSource, Cancelled. Thread-safe.
[[nodiscard]] Result<std::vector<CutSample>> readCutSamples(const Reading& reading, int64_t first, int64_t end,
                                                            std::stop_token stop = {},
                                                            const std::function<void(double)>& onFraction = {});

/// The hard cuts and dissolves (of 10 to about 40 pictures) whose change is at least `threshold` percent, in order. A
/// hard cut stands out of its neighbours twice over, so that fast motion is none, and does not return, so that a flash
/// is none.
[[nodiscard]] std::vector<FoundCut> findCuts(const std::vector<CutSample>& samples,
                                             double threshold = kUsualCutThreshold);

} // namespace tromb
