// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "media/MediaInfo.h"

#include <stop_token>

namespace tromb {

/// Loudness after ITU-R BS.1770 / EBU R 128, measured with libebur128 on the sound as it is delivered.
struct Loudness {
  double integratedLufs = 0; ///< −70 and below: silence
  double truePeakDbtp = 0;
  int64_t samples = 0; ///< length of the decoded sound at 48 kHz
};

/// Decodes all of a file's sound. Errors: those of AudioReader, Cancelled.
[[nodiscard]] Result<Loudness> measureLoudness(const MediaInfo& media, std::stop_token stop = {});

} // namespace tromb
