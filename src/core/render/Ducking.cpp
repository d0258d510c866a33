// SPDX-License-Identifier: GPL-3.0-or-later
#include "render/Ducking.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace tromb {
namespace {

constexpr double kSpeechPower = 6.3e-5; ///< −42 dBFS
constexpr int kSpeechBlocks = 5;        ///< 0.1 s in a row
constexpr int64_t kHoldBlocks = 30;     ///< 0.6 s
constexpr double kDownStep = 12.0 / 10; ///< dB a block: down in 0.2 s
constexpr double kUpStep = 12.0 / 40;   ///< back in 0.8 s

/// Rec. ITU-R BS.775: centre 3 dB down in left and right each, surrounds in one of them.
std::vector<double> middleOf(int channels) {
  constexpr double kThreeDown = std::numbers::sqrt2 / 2;
  if (channels == kMono) return {1};
  if (channels == kStereo) return {0.5, 0.5};
  return {0.5, 0.5, kThreeDown, 0, kThreeDown / 2, kThreeDown / 2};
}

float attenuation(double downDb) {
  return float(std::pow(10, -downDb / 20));
}

} // namespace

Ducking::Ducking(int channels) : m_weights(middleOf(channels)) {}

double Ducking::Section::run(double x) {
  const double y = b0 * x + b1 * x1 + b2 * x2 - a1 * y1 - a2 * y2;
  x2 = x1;
  x1 = x;
  y2 = y1;
  y1 = y;
  return y;
}

Ducking::Section Ducking::section(bool highPass, double hertz) {
  const double w = 2 * std::numbers::pi * hertz / kSoundRate;
  const double alpha = std::sin(w) / std::numbers::sqrt2; // Q = 1/√2
  const double c = std::cos(w);
  const double a0 = 1 + alpha;
  const double side = (highPass ? 1 + c : 1 - c) / 2;
  return {side / a0, (highPass ? -2 : 2) * side / a0, side / a0, -2 * c / a0, (1 - alpha) / a0};
}

void Ducking::listen(const std::vector<float>& samples) {
  const size_t perBlock = size_t(kBlockSamples) * m_weights.size();
  for (size_t at = 0; at + perBlock <= samples.size(); at += perBlock) {
    double power = 0;
    for (size_t i = at; i < at + perBlock; i += m_weights.size()) {
      double middle = 0;
      for (size_t c = 0; c < m_weights.size(); ++c) middle += m_weights[c] * double(samples[i + c]);
      const double y = m_low.run(m_high.run(middle));
      power += y * y;
    }
    m_loudBlocks = power / double(kBlockSamples) > kSpeechPower ? m_loudBlocks + 1 : 0;
    m_speech.push_back(m_loudBlocks >= kSpeechBlocks);
    // It was speech from the first loud block on.
    if (m_loudBlocks == kSpeechBlocks)
      for (size_t back = 1; back < size_t(kSpeechBlocks) && back < m_speech.size(); ++back)
        m_speech[m_speech.size() - 1 - back] = true;
  }
}

Ducking::Gains Ducking::take(int64_t blocks) {
  Gains gains{attenuation(m_downDb)};
  for (int64_t i = 0; i < blocks; ++i) {
    // Soon or now; the pause is counted from the last block that was near speech.
    const auto end = m_speech.begin() + std::min<int64_t>(kAheadBlocks, int64_t(m_speech.size()));
    m_pause = std::find(m_speech.begin(), end, true) != end ? 0 : m_pause + 1;
    m_downDb = m_pause <= kHoldBlocks ? std::min(kDownDb, m_downDb + kDownStep) : std::max(0.0, m_downDb - kUpStep);
    gains.push_back(attenuation(m_downDb));
    if (!m_speech.empty()) m_speech.pop_front();
  }
  return gains;
}

} // namespace tromb
