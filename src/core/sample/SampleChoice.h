// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "analysis/InformationMeter.h"
#include "render/Plan.h"

#include <functional>
#include <stop_token>
#include <vector>

namespace tromb {

/// A place of a plan that was looked at.
struct Probe {
  int64_t frame = 0;
  PictureInformation information; ///< of this frame, and its change from the one before
  /// That a picture there takes in a quick encode, key frames counted in; of a loop only the more the harder it is.
  double bytes = 0;
  /// How hard it is to encode: more edges and more change cost more bits.
  [[nodiscard]] double hardness() const { return information.spatial * (1 + information.temporal); }
};

/// Pictures of a plan from one that is new to the encoder to the next, in the mean of all: key frames and cuts.
[[nodiscard]] double keyDistance(const Plan& plan, const Encoding& encoding);

/// Measures the pictures of a plan at places that are spread evenly over all of it: twice a second, and at no more than
/// 60 places. `onFraction` is told how far it is, 0 to 1. Errors: those of PlanPictures, Cancelled. Thread-safe.
[[nodiscard]] Result<std::vector<Probe>> probePlan(const Plan& plan, std::stop_token stop = {},
                                                   const std::function<void(double)>& onFraction = {});

/// Frames of a plan that are encoded as a sample of it.
struct SampleStretch {
  /// Frames before the first that are encoded, too, so that the encoder is at its pace, and not counted.
  int64_t lead = 0;
  int64_t first = 0;
  int64_t count = 0;
  double share = 0;  ///< of the plan's frames that it stands for; 0 to 1, the sum of all is 1
  double factor = 1; ///< by which a picture of these takes more bytes than one of the stretch, by the quick encode
  bool hardest = false;
  friend bool operator==(const SampleStretch&, const SampleStretch&) = default;
};

/// The stretches to encode, in the plan's order, apart from each other: the two seconds that are hardest, and up to
/// five of 1.2 seconds, each with a lead of up to 0.7 seconds, that are typical of the places that take few bytes,
/// more, and most, so that each of the five counts for about as many bytes of the file. Every place is then stood for
/// by the stretch that is most like it. A plan of up to `kWholeSampleSeconds` is taken whole. About `mostFrames` at
/// most, but for a frame of each stretch at least.
[[nodiscard]] std::vector<SampleStretch> chooseSample(const std::vector<Probe>& probes, int64_t frames,
                                                      const FrameRate& rate, int64_t mostFrames);
inline constexpr int kWholeSampleSeconds = 8;

} // namespace tromb
