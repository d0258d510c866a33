// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "preflight/SpecLine.h"

namespace tromb {

/// How many bits there are for what a codec usually needs, by the bit rate or the constant quality.
enum class Density { Blocky, Thin, Good, MoreThanSeen };
/// Nothing where nobody sets them: lossless and intra codecs, and sound alone.
[[nodiscard]] std::optional<Density> densityOf(const Deliverable& deliverable, const Encoding& resolved);
[[nodiscard]] Message densityWords(Density density); ///< "blocky in fast motion"
[[nodiscard]] std::string bitsAPixelText(const Deliverable& deliverable, const Encoding& resolved); ///< "0.103"
/// Back to the usual quality, or to the usual bit rate.
[[nodiscard]] Fix usualDensity(const Encoding& resolved);

} // namespace tromb
