// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/SoundTarget.h"

#include "analysis/Loudness.h"
#include "render/SoundMix.h"

#include <algorithm>

namespace tromb {

Result<double> soundGainDb(const Plan& plan, std::stop_token stop) {
  const Output& output = plan.output();
  if (!output.loudnessLufs) return 0;
  SoundMix mix(plan, {}, stop);
  LoudnessMeter meter(mix.channels());
  for (int64_t done = 0; done < mix.samples(); done += SoundMix::kChunkSamples) {
    if (stop.stop_requested()) return fail(ErrorCode::Cancelled, say("measuring the loudness was stopped"));
    const auto chunk = mix.next(0);
    if (!chunk) return tl::unexpected(chunk.error());
    meter.add((*chunk)->data(), std::min(SoundMix::kChunkSamples, mix.samples() - done));
  }
  const Loudness found = meter.loudness();
  if (found.integratedLufs <= kSilentLufs) return 0;
  return std::min(*output.loudnessLufs - found.integratedLufs,
                  output.mostPeakDbtp - kCodingHeadroomDb - found.truePeakDbtp);
}

} // namespace tromb
