// SPDX-License-Identifier: GPL-3.0-or-later
#include "media/read/PacketFacts.h"

#include "media/Av.h"

#include <algorithm>
#include <deque>
#include <new>

namespace tromb {
namespace {

constexpr size_t kMostSeconds = 1'000'000;

} // namespace

Result<PacketFacts> readPackets(const MediaInfo& media, const DecoderBuffer& buffer) {
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
  PacketFacts facts;
  const double rate = media.video->clock.rate().toDouble();
  double full = 0.9 * double(buffer.bits);
  int64_t count = 0;
  int64_t sinceKey = 0;
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
      if (const auto second = size_t(double(count) / rate); second < kMostSeconds) {
        facts.bitsBySecond.resize(std::max(facts.bitsBySecond.size(), second + 1));
        facts.bitsBySecond[second] += float(8 * packet->size);
      }
      if ((packet->flags & AV_PKT_FLAG_KEY) && count > 0) {
        facts.keyDistance = std::max(facts.keyDistance, sinceKey);
        sinceKey = 0;
      }
      ++sinceKey;
      if (buffer.rate > 0) {
        full -= 8.0 * packet->size;
        if (full < 0 && facts.shortBits <= 0) facts.shortAt = double(count) / rate;
        facts.shortBits = std::max(facts.shortBits, -full);
        full += double(buffer.rate) / rate;
        facts.overflowBits = std::max(facts.overflowBits, full - double(buffer.bits));
        full = std::min(full, double(buffer.bits));
      }
      ++count;
    }
    av_packet_unref(packet.get());
  }
  const double seconds = std::max(1e-3, media.duration.toDouble());
  // A clip shorter than the window still takes its own time.
  facts.average = double(total) * 8 / seconds;
  facts.peakSecond = double(most) * 8 / std::min(1.0, seconds);
  facts.keyDistance = std::max(facts.keyDistance, sinceKey);
  if (!facts.bitsBySecond.empty()) {
    const double last = double(count) / rate - double(facts.bitsBySecond.size() - 1);
    if (last > 0) facts.bitsBySecond.back() /= float(std::min(1.0, last));
  }
  return facts;
}

} // namespace tromb
