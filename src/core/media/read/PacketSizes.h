// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "media/MediaInfo.h"

namespace tromb {

/// Bit rates of the picture stream as the file holds it.
struct BitRates {
  double average = 0;    ///< bits per second over the whole length
  double peakSecond = 0; ///< most bits in any window of one second, in decoding order
};

/// Reads every packet's size without decoding. Errors: those of probe.
[[nodiscard]] Result<BitRates> measureBitRates(const MediaInfo& media);

} // namespace tromb
