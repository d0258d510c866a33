// SPDX-License-Identifier: GPL-3.0-or-later
// How the channels of a stream become those that are wanted. Included by .cpp files of media/ only, since it speaks
// FFmpeg's terms.
#pragma once

#include <vector>

struct AVChannelLayout;

namespace tromb {

/// The mix of a stream's channels to others. One channel is heard in left and right at its own level, two are left and
/// right, also where there are more. Fewer are mixed with the weights of Rec. ITU-R BS.775 (to stereo, centre and
/// surrounds 3 dB down; to mono, left and right 3 dB down and surrounds 6 dB), all lowered by the same amount, so that
/// channels in phase cannot clip. Value.
class ChannelMix {
public:
  /// `to` is kMono, kStereo or kSurround.
  ChannelMix(const AVChannelLayout& from, int to);
  /// Weights, a row for each channel that is wanted, each with a number for every channel there is.
  [[nodiscard]] const std::vector<double>& weights() const { return m_weights; }
  [[nodiscard]] double loweredDb() const { return m_loweredDb; } ///< 0 or more

private:
  std::vector<double> m_weights;
  double m_loweredDb = 0;
};

} // namespace tromb
