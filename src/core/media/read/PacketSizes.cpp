// SPDX-License-Identifier: GPL-3.0-or-later
#include "media/read/PacketSizes.h"

#include "media/Av.h"

#include <algorithm>
#include <deque>
#include <new>

namespace tromb {

Result<BitRates> measureBitRates(const MediaInfo& media) {
  auto input = av::InputFile::open(media.path, {}, media.parameters);
  if (!input) return tl::unexpected(input.error());
  const av::PacketPtr packet(av::allocated(av_packet_alloc()));
  const int stream = media.video->stream;
  // A window of one second holds as many packets as the rate says.
  const auto window = size_t(std::max<int64_t>(1, media.video->clock.rate().value().nearest()));
  std::deque<int64_t> recent;
  int64_t sum = 0;
  int64_t most = 0;
  int64_t total = 0;
  for (;;) {
    const auto got = input->read(*packet);
    if (!got) return tl::unexpected(got.error());
    if (!*got) break;
    if (packet->stream_index == stream) {
      recent.push_back(packet->size);
      sum += packet->size;
      total += packet->size;
      if (recent.size() > window) {
        sum -= recent.front();
        recent.pop_front();
      }
      most = std::max(most, sum);
    }
    av_packet_unref(packet.get());
  }
  const double seconds = std::max(1e-3, media.duration.toDouble());
  // A clip shorter than the window still takes its own time.
  return BitRates{double(total) * 8 / seconds, double(most) * 8 / std::min(1.0, seconds)};
}

} // namespace tromb
