// SPDX-License-Identifier: GPL-3.0-or-later
#include "media/read/DownMix.h"

#include "media/Av.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

namespace tromb {

DownMix::DownMix(const AVChannelLayout& from) {
  const auto channels = size_t(std::max(1, from.nb_channels));
  m_weights.assign(2 * channels, 0);
  if (channels <= 2) {
    m_weights.front() = 1;
    m_weights.back() = 1;
    return;
  }
  constexpr double kThreeDown = std::numbers::sqrt2 / 2;
  // The library writes a square of all channels that have names, whatever the layouts hold.
  constexpr size_t kNamed = 64;
  std::array<double, kNamed * kNamed> square{};
  AVChannelLayout layout = from;
  if (layout.order == AV_CHANNEL_ORDER_UNSPEC) av_channel_layout_default(&layout, from.nb_channels);
  const AVChannelLayout stereo = AV_CHANNEL_LAYOUT_STEREO;
  if (channels > kNamed || swr_build_matrix2(&layout, &stereo, kThreeDown, kThreeDown, 0, 1e6, 1, square.data(),
                                             ptrdiff_t(kNamed), AV_MATRIX_ENCODING_NONE, nullptr) < 0) {
    // Channels without a place in a room: the first two are left and right.
    m_weights[0] = m_weights[channels + 1] = 1;
    return;
  }
  for (size_t row = 0; row < 2; ++row) std::copy_n(&square[row * kNamed], channels, &m_weights[row * channels]);
  double most = 0;
  for (size_t row = 0; row < 2; ++row) {
    double sum = 0;
    for (size_t i = 0; i < channels; ++i) sum += std::abs(m_weights[row * channels + i]);
    most = std::max(most, sum);
  }
  if (most <= 1) return;
  for (double& weight : m_weights) weight /= most;
  m_loweredDb = 20 * std::log10(most);
}

} // namespace tromb
