// SPDX-License-Identifier: GPL-3.0-or-later
#include "media/read/ChannelMix.h"

#include "media/Av.h"
#include "media/SoundFormat.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

namespace tromb {

ChannelMix::ChannelMix(const AVChannelLayout& from, int to) {
  const auto channels = size_t(std::max(1, from.nb_channels));
  const auto rows = size_t(to);
  m_weights.assign(rows * channels, 0);
  // Left, and right, of one channel or of the first two.
  const auto takeFirst = [&] {
    const size_t right = channels > 1 ? 1 : 0;
    m_weights[0] = 1;
    if (rows > 1)
      m_weights[channels + right] = 1;
    else if (channels > 1)
      m_weights[0] = m_weights[1] = 0.5; // 3 dB down, and 3 dB more so that it cannot clip
  };
  if (channels <= 2) {
    takeFirst();
    return;
  }
  constexpr double kThreeDown = std::numbers::sqrt2 / 2;
  // The library writes a square of all channels that have names, whatever the layouts hold.
  constexpr size_t kNamed = 64;
  std::array<double, kNamed * kNamed> square{};
  AVChannelLayout layout = from;
  if (layout.order == AV_CHANNEL_ORDER_UNSPEC) av_channel_layout_default(&layout, from.nb_channels);
  const AVChannelLayout wanted = av::layoutOf(to);
  if (channels > kNamed || swr_build_matrix2(&layout, &wanted, kThreeDown, kThreeDown, 0, 1e6, 1, square.data(),
                                             ptrdiff_t(kNamed), AV_MATRIX_ENCODING_NONE, nullptr) < 0) {
    takeFirst(); // channels without a place in a room
    return;
  }
  double most = 0;
  for (size_t row = 0; row < rows; ++row) {
    std::copy_n(&square[row * kNamed], channels, &m_weights[row * channels]);
    double sum = 0;
    for (size_t i = 0; i < channels; ++i) sum += std::abs(m_weights[row * channels + i]);
    most = std::max(most, sum);
  }
  if (most <= 1) return;
  for (double& weight : m_weights) weight /= most;
  m_loweredDb = 20 * std::log10(most);
}

} // namespace tromb
