// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "media/MediaInfo.h"

#include <vector>

namespace tromb {

/// What the packets of the picture stream tell without being decoded.
struct PacketFacts {
  double average = 0;      ///< bits per second over the whole length
  double peakSecond = 0;   ///< most bits in any window of one second, in decoding order
  double shortBits = 0;    ///< by how much the decoder's buffer is too empty at worst; 0 where it always holds enough
  double shortAt = 0;      ///< seconds, of the first time
  double overflowBits = 0; ///< bits that find no room in the buffer at worst
  std::vector<float> bitsBySecond; ///< bits of each second in decoding order; what the last is short of is made up for
  int64_t keyDistance = 0;         ///< most pictures from one key picture to the next, or to the end
};

/// A decoder's buffer (Rec. ITU-T H.264, annex C): filled at `rate` bits a second, up to `bits`.
struct DecoderBuffer {
  int64_t rate = 0;
  int64_t bits = 0;
};

/// Reads every packet's size. The buffer, if its rate is not 0, is nine tenths full at the beginning, as x264 and x265
/// have it. Errors: those of probe.
[[nodiscard]] Result<PacketFacts> readPackets(const MediaInfo& media, const DecoderBuffer& buffer = {});

} // namespace tromb
