// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "media/Frame.h"
#include "render/Plan.h"
#include "sample/SampleChoice.h"

#include <functional>
#include <optional>
#include <stop_token>
#include <vector>

namespace tromb {

/// What a sample of a plan came to with one encoding.
struct SampleRung {
  Encoding encoding;     ///< resolved
  int64_t fileBytes = 0; ///< that the whole file will take, with its sound
  double ssim = 1;       ///< where the plan is hardest; the mean of the pictures
  double psnr = 0;       ///< where the plan is hardest, in decibels; infinite where nothing is lost
  Frame picture;         ///< one of the hardest, as a viewer gets it
};

/// A sample of a plan, encoded with several encodings.
struct SampleReport {
  std::vector<SampleStretch> stretches;
  int64_t pictureFrame = 0;      ///< the frame of the plan that the pictures show
  Frame picture;                 ///< the same before it was encoded
  std::vector<SampleRung> rungs; ///< smallest files first, by what they are set to
};

/// The encoding itself and what lies round it: two steps up and two down, of a constant quality or of an average bit
/// rate, within the codec's limits; smallest files first. Where the codec settles it all, the encoding alone.
[[nodiscard]] std::vector<Encoding> rungsRound(const Encoding& resolved, const EncodedPicture& picture);

struct SampleRequest {
  Plan plan;
  std::vector<Encoding> rungs;                 ///< resolved; the plan's own encoding where there is none
  const HardwareEncoder* hardware = nullptr;   ///< the encoder in graphics hardware, if it is one
  std::function<void(double)> onFraction = {}; ///< told how far it is, 0 to 1, by the calling thread
};

/// Encodes the seconds of a plan that are hardest, and some that are typical, with each encoding; decodes them and
/// compares them with the plan's own pictures. Their size is that of the whole file, from what the typical ones take.
/// A loop, whose pictures lean on one palette or come out as one whole, is encoded whole. The pictures wait on disk,
/// two gigabytes at most. Errors: Unsupported for sound alone, and for loops of more pictures than that; CannotWrite;
/// Encoder; Decoder; those of the sources; Cancelled. Thread-safe.
[[nodiscard]] Result<SampleReport> encodeSample(const SampleRequest& request, std::stop_token stop = {});

/// What a setting comes to: between two rungs as far as it lies between them.
struct SamplePoint {
  int64_t fileBytes = 0;
  double ssim = 1;
  double psnr = 0;
};
/// Nothing beyond the first and the last rung, and for another way of sharing out the bits than theirs.
[[nodiscard]] std::optional<SamplePoint> pointAt(const std::vector<SampleRung>& rungs, const Encoding& resolved);

/// What a sample depends on: the shots of its project and how their sources are read, and what its deliverable is set
/// to, but for a bit rate or constant quality. Two samples of the same texts have the same curve. Long; to be digested
/// for a name.
[[nodiscard]] std::string sampledShots(const Project& project, const Footage& footage);
[[nodiscard]] std::string sampledSettings(const Deliverable& deliverable);

/// Adds the rungs of another report of the same key, which win.
void addRungs(std::vector<SampleRung>& rungs, const std::vector<SampleRung>& more);

/// Where the curve of size and quality bends: the setting from which on twice the bits would bring less than
/// `kKneeGain` of structural similarity. On the codec's own scale of constant quality, or bits a second; between the
/// rungs it is interpolated. `within` is false where it lies beyond the first or the last rung, which is then given.
struct Knee {
  double setting = 0;
  int64_t fileBytes = 0;
  double ssim = 0;
  bool within = false;
  friend bool operator==(const Knee&, const Knee&) = default;
};
inline constexpr double kKneeGain = 0.004; ///< common practice, no published source
/// Nothing where there are fewer than three rungs.
[[nodiscard]] std::optional<Knee> kneeOf(const std::vector<SampleRung>& rungs);

} // namespace tromb
