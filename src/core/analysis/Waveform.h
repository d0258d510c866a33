// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "media/Reading.h"

#include <stop_token>
#include <vector>

namespace tromb {

/// The loudest sample of each fiftieth of a second of a file's sound, both channels, 0 to 1 and above for overs.
inline constexpr int kPeaksASecond = 50;
/// Errors: those of AudioReader, Cancelled. Thread-safe.
[[nodiscard]] Result<std::vector<float>> readPeaks(const Reading& reading, std::stop_token stop = {});

} // namespace tromb
