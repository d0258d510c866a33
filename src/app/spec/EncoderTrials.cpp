// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/spec/EncoderTrials.h"

#include "app/style/Folders.h"

namespace tromb {

const HardwareEncoder* EncoderTrials::working(Codec codec, const Samples& samples) {
  const auto [at, fresh] = m_trials.try_emplace({codec, samples.depth});
  if (fresh && infoOf(codec).hardware.empty()) at->second.emplace();
  if (fresh && !at->second) {
    const auto take = [this, key = at->first](std::vector<HardwareTrial> trials) {
      m_trials[key] = std::move(trials);
      emit tried();
    };
    m_trying.add(
        [codec, samples, folder = cacheFolder("encoders").toStdString(), take](const Task& task) {
          task.tell([take, trials = hardwareTrials(codec, samples, folder)] { take(trials); });
        },
        [](const Error&) {}); // then none is offered
  }
  if (!at->second) return nullptr;
  for (const HardwareTrial& trial : *at->second)
    if (trial.reason.empty()) return trial.encoder;
  return nullptr;
}

} // namespace tromb
