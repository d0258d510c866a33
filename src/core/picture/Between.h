// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "Error.h"
#include "media/Frame.h"
#include "time/FrameMap.h"

#include <memory>

namespace tromb {

/// Makes the pictures between two neighbours of a source, mixed or by their motion. One thread at a time; cheap to
/// move.
///
/// By motion: where each point goes is found in both directions (dense inverse search: T. Kroeger and others, Fast
/// Optical Flow using Dense Inverse Search, 2016, as OpenCV has it), carried to the moment between, and the pictures
/// are moved on by it; what only one of them shows is taken from that one (S. Baker and others, A Database and
/// Evaluation Methodology for Optical Flow, 2011, section 3.3.2). Across a cut nothing is made: the nearer picture is
/// shown, the first of two that are equally near.
class Between {
public:
  Between();
  Between(Between&&) noexcept;
  Between& operator=(Between&&) noexcept;
  ~Between();

  /// The picture at `shown.nextShare` of the way from the first to the second, as `shown` says how; the first itself
  /// where that is 0. Of one kind, in whole code values, with the labels of the first. Quick for several moments
  /// between the same two. Errors: Unsupported, where they are of different kinds or sizes, or of one whose samples are
  /// no plain numbers.
  [[nodiscard]] Result<Frame> picture(const Frame& first, const Frame& second, const ShownFrames& shown);

private:
  struct Motion;
  std::unique_ptr<Motion> m_motion; ///< between the two that were asked for last
};

} // namespace tromb
