// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "media/Reading.h"

#include <stop_token>

namespace tromb {

/// What could matter in a stretch of a source.
struct FoundSubject {
  enum class Kind { Face, Motion, Detail }; ///< what it was found by
  Kind kind = Kind::Detail;
  double x = 0.5; ///< shares of the upright picture without its bars
  double y = 0.5;
  double confidence = 0; ///< 0 to 1: how much it stands out
};

/// Looks at a few frames of [first, end) for a subject: faces in front and half from the side, by
/// their edges (N. Dalal, B. Triggs, "Histograms of Oriented Gradients for Human Detection", CVPR 2005); where there
/// are none, what moves against the scene; and what stands out in it (X. Hou, L. Zhang, "Saliency Detection: A Spectral
/// Residual Approach", CVPR 2007). Errors: those of VideoReader, Cancelled. Thread-safe.
[[nodiscard]] Result<FoundSubject> findSubject(const Reading& reading, int64_t first, int64_t end,
                                               std::stop_token stop = {});

} // namespace tromb
