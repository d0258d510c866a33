// SPDX-License-Identifier: GPL-3.0-or-later
#include "copy/CopyPlan.h"

#include "copy/CopyPackets.h"
#include "copy/EdgeEncoder.h"
#include "media/Av.h"
#include "media/read/FileIndex.h"
#include "time/Timecode.h"

#include <algorithm>
#include <limits>
#include <numeric>

namespace tromb {
namespace {

using Packet = CopyPackets::Packet;

/// Packets in the order of decoding, from a key before a frame on, until enough is known of what is shown up to `last`.
Result<std::vector<Packet>> around(CopyPackets& packets, int64_t first, int64_t last) {
  if (const Status there = packets.goBefore(first); !there) return tl::unexpected(there.error());
  std::vector<Packet> found;
  for (int64_t beyond = 0; beyond <= CopyPackets::kReordered;) {
    const auto got = packets.next();
    if (!got) return tl::unexpected(got.error());
    if (!*got) return found;
    found.push_back(**got);
    beyond += found.back().frame > last || beyond > 0 ? 1 : 0;
  }
  return found;
}

/// Whether a part can begin at a packet: at a picture that leans on nothing, and either nothing that is decoded after
/// it is shown before it, or that can be left out (of H.265 alone, whose decoders then go on, Rec. ITU-T H.265, 8.1.3).
bool begins(const CopyPackets& packets, const std::vector<Packet>& found, size_t at) {
  const auto from = found.begin() + ptrdiff_t(at);
  if (from->entry == Entry::None) return false;
  if (from->entry == Entry::Open) return packets.leavesOutLeading();
  return std::all_of(from, found.end(), [&](const Packet& each) { return each.stamp >= from->stamp; });
}

/// The first frame at or behind `frame` at which a part can begin, before `limit`. Looks further and further on.
Result<std::optional<Packet>> entryFrom(CopyPackets& packets, int64_t frame, int64_t limit) {
  if (const Status there = packets.goBefore(frame); !there) return tl::unexpected(there.error());
  std::vector<Packet> window; // from the last candidate on
  const auto candidate = [frame](const Packet& p) { return p.entry != Entry::None && p.frame >= frame; };
  int64_t beyond = 0; // packets since the limit was seen
  for (;;) {
    const auto got = packets.next();
    if (!got) return tl::unexpected(got.error());
    const bool over = !*got;
    if (!over && (!window.empty() || candidate(**got))) window.push_back(**got);
    if (!over) beyond += beyond > 0 || (*got)->frame >= limit ? 1 : 0;
    if (window.empty()) {
      if (over || beyond > CopyPackets::kReordered) return std::optional<Packet>();
      continue;
    }
    if (!over && int64_t(window.size()) <= CopyPackets::kReordered) continue;
    if (window.front().frame >= limit) return std::optional<Packet>();
    if (begins(packets, window, 0)) return std::optional<Packet>(window.front());
    window.erase(window.begin(), std::find_if(window.begin() + 1, window.end(), candidate));
    if (over && window.empty()) return std::optional<Packet>();
  }
}

/// How much can be copied of what is entered at `entry`, up to `end`: the frame behind the last.
Result<int64_t> copiedUntil(CopyPackets& packets, const Packet& entry, int64_t end) {
  auto found = around(packets, std::max(entry.frame, end - 1), end);
  if (!found) return tl::unexpected(found.error());
  // What lies before the place of entry belongs to no part, nor do pictures behind it that are left out.
  const auto from = std::find_if(found->begin(), found->end(), [&](const Packet& p) { return p.stamp == entry.stamp; });
  if (from != found->end()) found->erase(found->begin(), from);
  found->erase(std::remove_if(found->begin(), found->end(), [&](const Packet& p) { return p.frame < entry.frame; }),
               found->end());
  std::vector<int64_t> least(found->size() + 1, std::numeric_limits<int64_t>::max()); // shown first of all from here on
  for (size_t i = found->size(); i > 0; --i) least[i - 1] = std::min(least[i], (*found)[i - 1].frame);
  int64_t most = -1;
  int64_t until = -1;
  for (size_t i = 0; i < found->size(); ++i) {
    most = std::max(most, (*found)[i].frame);
    if (most >= end) break;
    if (least[i + 1] > most) until = most + 1;
  }
  return until < 0 ? std::clamp(least.front(), entry.frame, end) : until;
}

/// The last frame before `frame` at which a part can begin.
Result<std::optional<int64_t>> entryBefore(CopyPackets& packets, int64_t frame) {
  const auto found = around(packets, frame, frame);
  if (!found) return tl::unexpected(found.error());
  std::optional<int64_t> last;
  for (size_t i = 0; i < found->size(); ++i)
    if ((*found)[i].frame <= frame && begins(packets, *found, i)) last = (*found)[i].frame;
  return last;
}

Message edgesWhy(const MediaInfo& media) {
  const VideoInfo& v = *media.video;
  const char* encoder = edgeEncoder(v.codec);
  if (!*encoder) return say("pictures of %1 cannot be encoded so that they fit those that are copied", v.codec);
  if (v.scan != Scan::Progressive) return say("its pictures are of two fields each, which are not encoded anew");
  if (!avcodec_find_encoder_by_name(encoder)) return say("this system's FFmpeg has no encoder for it");
  return {};
}

} // namespace

Rational cutTime(const FrameClock& clock, int64_t frame) {
  return frame < clock.frameCount() ? clock.timeOf(frame) : clock.duration();
}

int64_t CopyPlan::frames() const {
  return std::accumulate(parts.begin(), parts.end(), int64_t(0),
                         [](int64_t sum, const CopyPart& part) { return sum + part.frames(); });
}

int64_t CopyPlan::encoded() const {
  return std::accumulate(parts.begin(), parts.end(), int64_t(0), [](int64_t sum, const CopyPart& part) {
    return sum + part.encodedBefore() + part.encodedBehind();
  });
}

Result<std::vector<CopyPart>> copyPartsOf(const MediaInfo& media, const std::vector<std::pair<int64_t, int64_t>>& keep,
                                          std::stop_token stop) {
  if (media.index && (!media.index->jumps.empty() || media.index->untimed()))
    return fail(ErrorCode::Unsupported, say("its pictures tell no times, or its clock jumps"), media.path,
                say("Export it instead, which encodes it"));
  auto packets = CopyPackets::open(media, stop);
  if (!packets) return tl::unexpected(packets.error());
  std::vector<CopyPart> parts;
  for (const auto& [first, end] : keep) {
    CopyPart part;
    part.first = first;
    part.end = end;
    const auto entry = entryFrom(*packets, part.first, part.end);
    if (!entry) return tl::unexpected(entry.error());
    part.copied = part.copiedEnd = part.end;
    if (*entry) {
      const auto until = copiedUntil(*packets, **entry, part.end);
      if (!until) return tl::unexpected(until.error());
      part.copied = (*entry)->frame;
      part.copiedEnd = *until;
      part.open = (*entry)->entry == Entry::Open;
      if (part.copiedEnd <= part.copied) part.copied = part.copiedEnd = part.end;
    }
    if (part.encodedBefore() > 0) {
      const auto before = entryBefore(*packets, part.first);
      if (!before) return tl::unexpected(before.error());
      part.freeBefore = *before;
      if (*entry) part.freeBehind = (*entry)->frame;
    }
    parts.push_back(part);
  }
  return parts;
}

Result<CopyPlan> planCopy(const MediaInfo& media, const std::vector<std::pair<Rational, Rational>>& keep,
                          std::stop_token stop) {
  if (media.kind != MediaKind::Video)
    return fail(ErrorCode::NotMedia, say("the file holds no moving picture"), media.path);
  if (keep.empty()) return fail(ErrorCode::InvalidArgument, say("nothing is to be kept"));
  std::vector<std::pair<int64_t, int64_t>> frames;
  for (const auto& [from, to] : keep) {
    const auto& [first, end] = frames.emplace_back(media.video->clock.cutAt(from), media.video->clock.cutAt(to));
    if (end <= first)
      return fail(ErrorCode::InvalidArgument, say("there is no picture from %1 to %2", clockText(from), clockText(to)),
                  media.path, say("It lasts %1", clockText(media.video->clock.duration())));
  }
  auto parts = copyPartsOf(media, frames, stop);
  if (!parts) return tl::unexpected(parts.error());
  return CopyPlan{media, std::move(*parts), edgesWhy(media)};
}

} // namespace tromb
