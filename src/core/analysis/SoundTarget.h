// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "render/Plan.h"

#include <stop_token>

namespace tromb {

/// True peak that is kept free below a target's limit, since lossy coding raises peaks (common practice, no published
/// source for the figure).
inline constexpr double kCodingHeadroomDb = 0.5;

/// How much louder all sound of a plan's project must be made to meet its loudness target (Output::loudnessLufs),
/// in dB, with the channels that the plan's deliverable has; less where the true peak would pass its limit, so that
/// nothing is limited or clipped. Listens to the whole running order, so that a region sounds as it does in the whole.
/// 0 without a target, and for silence. Errors: those of SoundMix, Cancelled. Thread-safe.
[[nodiscard]] Result<double> soundGainDb(const Plan& plan, std::stop_token stop = {});

} // namespace tromb
