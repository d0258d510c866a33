// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/Loudness.h"

#include "media/read/AudioReader.h"

#include <algorithm>
#include <cmath>
#include <ebur128.h>
#include <new>
#include <vector>

namespace tromb {
namespace {

constexpr double kSilence = -120;

} // namespace

struct LoudnessMeter::State {
  ebur128_state* meter;
  int64_t samples = 0;
  // The library takes six channels as those of 5.1 in their order.
  explicit State(int channels)
      : meter(ebur128_init(unsigned(channels), kSoundRate, EBUR128_MODE_I | EBUR128_MODE_TRUE_PEAK)) {
    if (!meter) throw std::bad_alloc();
  }
  State(const State&) = delete;
  State& operator=(const State&) = delete;
  ~State() { ebur128_destroy(&meter); }
};

LoudnessMeter::LoudnessMeter(int channels) : m_state(std::make_unique<State>(channels)) {}
LoudnessMeter::~LoudnessMeter() = default;

void LoudnessMeter::add(const float* samples, int64_t count) {
  ebur128_add_frames_float(m_state->meter, samples, size_t(count));
  m_state->samples += count;
}

Loudness LoudnessMeter::loudness() const {
  Loudness result;
  result.samples = m_state->samples;
  double loudness = 0;
  ebur128_loudness_global(m_state->meter, &loudness);
  result.integratedLufs = std::isfinite(loudness) ? loudness : kSilence;
  double peak = 0;
  for (unsigned channel = 0; channel < m_state->meter->channels; ++channel) {
    double value = 0;
    ebur128_true_peak(m_state->meter, channel, &value);
    peak = std::max(peak, value);
  }
  result.truePeakDbtp = peak > 0 ? std::max(kSilence, 20 * std::log10(peak)) : kSilence;
  return result;
}

Result<Loudness> measureLoudness(const Reading& reading, std::stop_token stop) {
  auto reader = AudioReader::open(reading);
  if (!reader) return tl::unexpected(reader.error());
  LoudnessMeter meter;
  std::vector<float> buffer(size_t(kSoundRate) * kStereo);
  for (;;) {
    if (stop.stop_requested()) return fail(ErrorCode::Cancelled, say("measuring was stopped"), reading.file.path);
    const auto got = reader->read(buffer.data(), kSoundRate);
    if (!got) return tl::unexpected(got.error());
    meter.add(buffer.data(), *got);
    if (*got < kSoundRate) return meter.loudness();
  }
}

} // namespace tromb
