// SPDX-License-Identifier: GPL-3.0-or-later
// How channels become left and right. Included by .cpp files of media/ only, since it speaks FFmpeg's terms.
#pragma once

#include <vector>

struct AVChannelLayout;

namespace tromb {

/// The mix of a stream's channels to left and right. One channel is heard in both at its own level; two stay as they
/// are; more are mixed with the weights of Rec. ITU-R BS.775 (centre and surrounds 3 dB down), all lowered by the same
/// amount, so that channels in phase cannot clip. Value.
class DownMix {
public:
  explicit DownMix(const AVChannelLayout& from);
  /// Weights, a row for left and one for right, each with a number for every channel.
  [[nodiscard]] const std::vector<double>& weights() const { return m_weights; }
  [[nodiscard]] double loweredDb() const { return m_loweredDb; } ///< 0 or more

private:
  std::vector<double> m_weights;
  double m_loweredDb = 0;
};

} // namespace tromb
