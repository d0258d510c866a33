// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/Loudness.h"

#include "media/read/AudioReader.h"

#include <algorithm>
#include <cmath>
#include <ebur128.h>
#include <new>
#include <utility>
#include <vector>

namespace tromb {
namespace {

constexpr double kSilence = -120;
constexpr float kFullScale = 0.999F; ///< of 1; re-sampling and coding leave a little less
constexpr int kClippedRun = 4;       ///< samples in a row at full scale (common practice, no published source)

struct MeterCloser {
  void operator()(ebur128_state* meter) const { ebur128_destroy(&meter); }
};

/// The library takes six channels as those of 5.1 in their order.
std::unique_ptr<ebur128_state, MeterCloser> newMeter(int channels, int modes) {
  std::unique_ptr<ebur128_state, MeterCloser> meter(ebur128_init(unsigned(channels), kSoundRate, modes));
  if (!meter) throw std::bad_alloc();
  return meter;
}

} // namespace

struct LoudnessMeter::State {
  std::unique_ptr<ebur128_state, MeterCloser> meter;
  int64_t samples = 0;
};

LoudnessMeter::LoudnessMeter(int channels)
    : m_state(new State{newMeter(channels, EBUR128_MODE_I | EBUR128_MODE_S | EBUR128_MODE_TRUE_PEAK)}) {}
LoudnessMeter::~LoudnessMeter() = default;

void LoudnessMeter::add(const float* samples, int64_t count) {
  ebur128_add_frames_float(m_state->meter.get(), samples, size_t(count));
  m_state->samples += count;
}

Loudness LoudnessMeter::loudness() const {
  Loudness result;
  result.samples = m_state->samples;
  double loudness = 0;
  ebur128_loudness_global(m_state->meter.get(), &loudness);
  result.integratedLufs = std::isfinite(loudness) ? loudness : kSilence;
  double peak = 0;
  for (unsigned channel = 0; channel < m_state->meter->channels; ++channel) {
    double value = 0;
    ebur128_true_peak(m_state->meter.get(), channel, &value);
    peak = std::max(peak, value);
  }
  result.truePeakDbtp = peak > 0 ? std::max(kSilence, 20 * std::log10(peak)) : kSilence;
  return result;
}

double LoudnessMeter::shortTermLufs() const {
  double loudness = 0;
  ebur128_loudness_shortterm(m_state->meter.get(), &loudness);
  return std::isfinite(loudness) ? std::max(kSilence, loudness) : kSilence;
}

struct LevelMeter::State {
  std::unique_ptr<ebur128_state, MeterCloser> meter;
  std::array<float, kStereo> peaks{};
};

LevelMeter::LevelMeter() : m_state(new State{newMeter(kStereo, EBUR128_MODE_M)}) {}
LevelMeter::~LevelMeter() = default;

void LevelMeter::add(const float* samples, int64_t count) {
  ebur128_add_frames_float(m_state->meter.get(), samples, size_t(count));
  for (int64_t i = 0; i < count * kStereo; ++i) {
    float& peak = m_state->peaks[size_t(i % kStereo)];
    peak = std::max(peak, std::abs(samples[i]));
  }
}

SoundLevel LevelMeter::take() {
  SoundLevel level;
  double momentary = 0;
  ebur128_loudness_momentary(m_state->meter.get(), &momentary);
  if (std::isfinite(momentary)) level.momentaryLufs = std::max(SoundLevel::kNoPeakDb, float(momentary));
  for (size_t c = 0; c < kStereo; ++c) {
    const float peak = std::exchange(m_state->peaks[c], 0.0F);
    if (peak > 0) level.peakDb[c] = std::max(SoundLevel::kNoPeakDb, 20 * std::log10(peak));
  }
  return level;
}

void PeakMeter::add(const float* samples, int64_t count) {
  constexpr int64_t kTenth = kSoundRate / kTenthsASecond;
  for (int64_t done = 0; done < count;) {
    const int64_t within = m_samples % kTenth;
    if (within == 0) m_tenths.emplace_back();
    const int64_t part = std::min(count - done, kTenth - within);
    SoundTenth& tenth = m_tenths.back();
    float peak = 0;
    for (int64_t i = done; i < done + part; ++i)
      for (size_t c = 0; c < kStereo; ++c) {
        const float level = std::abs(samples[i * kStereo + int64_t(c)]);
        peak = std::max(peak, level);
        m_atFullScale[c] = level >= kFullScale ? m_atFullScale[c] + 1 : 0;
        tenth.clipped = tenth.clipped || m_atFullScale[c] >= kClippedRun;
      }
    if (peak > 0) tenth.peak = int16_t(std::max<double>(tenth.peak, std::round(200 * std::log10(double(peak)))));
    m_samples += part;
    done += part;
  }
}

Result<Heard> measureSound(const Reading& reading, std::stop_token stop) {
  auto reader = AudioReader::open(reading);
  if (!reader) return tl::unexpected(reader.error());
  LoudnessMeter meter;
  PeakMeter peaks;
  std::vector<float> buffer(size_t(kSoundRate) * kStereo);
  for (;;) {
    if (stop.stop_requested()) return fail(ErrorCode::Cancelled, say("measuring was stopped"), reading.file.path);
    const auto got = reader->read(buffer.data(), kSoundRate);
    if (!got) return tl::unexpected(got.error());
    meter.add(buffer.data(), *got);
    peaks.add(buffer.data(), *got);
    if (*got < kSoundRate) return Heard{meter.loudness(), peaks.tenths()};
  }
}

} // namespace tromb
