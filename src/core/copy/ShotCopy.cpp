// SPDX-License-Identifier: GPL-3.0-or-later
#include "copy/ShotCopy.h"

#include "Printed.h"
#include "copy/CopyPackets.h"
#include "media/Av.h"
#include "media/CanvasFrame.h"
#include "media/read/CodecString.h"
#include "media/read/FileIndex.h"

#include <algorithm>
#include <cstring>
#include <numeric>

namespace tromb {
namespace {

std::string sizeWords(Size size) {
  return std::to_string(size.width) + "×" + std::to_string(size.height);
}

std::string rateWords(const FrameRate& rate) {
  return printed("%g", rate.toDouble());
}

/// What its file says of its pictures, against what is asked for; empty where that is the same.
Message otherFile(const Plan& plan, const VideoInfo& v) {
  const Encoding& e = plan.encoding();
  const PictureCodec& codec = e.info();
  if (v.codec != codec.found) return say("its codec is %1, and the deliverable's %2", v.codec, codec.found);
  const Profile* profile = codec.profile(e.profile);
  if (profile && profileFound(v) != profile->found)
    return say("its profile is '%1', and the deliverable's '%2'", profileFound(v), profile->found);
  if (v.stored != plan.canvas())
    return say("its picture has %1, and the canvas %2", sizeWords(v.stored), sizeWords(plan.canvas()));
  const Rational aspect = pictureOf(plan.deliverable()).pixelAspect;
  if (v.pixelAspect != aspect)
    return say("its pixel aspect is %1, and the deliverable's %2", v.pixelAspect.toString(), aspect.toString());
  const std::string samples = pixelFormatName(plan.format());
  if (v.pixelFormat != samples) return say("its samples are %1, and the deliverable's %2", v.pixelFormat, samples);
  if (v.colour != plan.format().colour) return say("its colour labels are not the deliverable's");
  if (v.clock.variable()) return say("its rate varies");
  if (v.clock.rate().value() != plan.rate().value())
    return say("its rate is %1, and the deliverable's %2", rateWords(v.clock.rate()), rateWords(plan.rate()));
  return {};
}

/// What is done with its pictures; empty where that is nothing.
Message changed(const Plan& plan, const PlanPiece& piece) {
  const Reading& reading = piece.reading;
  const VideoInfo& v = *reading.file.video;
  if (reading.scan != Scan::Progressive) return say("its pictures are of two fields each");
  if (reading.repeats) return say("its repeated pictures are left out");
  if (reading.colour && *reading.colour != v.colour) return say("its colours are read otherwise than its file says");
  if (!reading.bars.none()) return say("its bars are cut away");
  if (v.rotation != 0 || v.mirrored || reading.orientation != Orientation()) return say("its picture is turned");
  for (int64_t n = 0; n < piece.frameCount; ++n) {
    const ShownFrames shown = piece.shown(n);
    if (shown.nextShare > 0 || shown.frame != piece.shown(0).frame + n) return say("it is not shown frame for frame");
  }
  if (plan.hasElements(piece.firstFrame, piece.frameCount)) return say("words or pictures lie over it");
  const auto placements = piece.placements(0, plan.rate());
  const RectF whole{0, 0, piece.shape.picture().width, piece.shape.picture().height};
  const PixelRect all{0, 0, plan.canvas().width, plan.canvas().height};
  const bool is = !piece.moving && placements.size() == 1 && placements[0].kind == Placement::Kind::Picture &&
                  placements[0].window == whole && placements[0].canvas == all;
  return is ? Message() : say("its picture is not shown whole and still");
}

/// The names of the levels that a file and a deliverable have, where they differ.
std::optional<std::pair<std::string, std::string>> otherLevel(const Plan& plan, const VideoInfo& v) {
  const LevelTable* table = plan.encoding().info().levels;
  const Level* wanted = table ? table->byName(plan.encoding().level) : nullptr;
  if (!wanted || v.level <= 0 || v.level == wanted->idc) return {};
  const auto& levels = table->levels();
  const auto found = std::find_if(levels.begin(), levels.end(), [&](const Level& l) { return l.idc == v.level; });
  return std::pair(found == levels.end() ? std::to_string(v.level) : std::string(found->name),
                   std::string(wanted->name));
}

/// Gives the sources' parameter sets numbers that differ.
class JoinedSets {
public:
  explicit JoinedSets(bool highTier) : m_highTier(highTier) {}
  /// Why the sets of a source do not go with those of the ones before, or with the deliverable; empty where they do.
  Message add(const MediaInfo& media, const std::stop_token& stop, ShotCopies& copies) {
    const std::string& path = media.path;
    if (const auto at = m_known.find(path); at != m_known.end()) return at->second;
    return m_known[path] = added(media, stop, copies);
  }

private:
  Message added(const MediaInfo& media, const std::stop_token& stop, ShotCopies& copies) {
    const auto packets = CopyPackets::open(media, stop);
    if (!packets) return packets.error().message;
    const std::string& codec = media.video->codec;
    if (!packets->framing()) { // there are none
      copies.ahead = std::max<int64_t>(copies.ahead, packets->stream().codecpar->video_delay);
      return {};
    }
    if (const auto header = readStreamHeader(media); header && header->level >= 0 && header->highTier != m_highTier)
      return header->highTier ? say("its tier is high, and the deliverable's main")
                              : say("its tier is main, and the deliverable's high");
    const Message damaged = say("the headers of its pictures are damaged");
    const auto sets = setsIn(codec, packets->headers(), *packets->framing());
    const auto sequences = sequenceSets(codec, packets->headers(), *packets->framing());
    if (!sets || sets->empty() || sequences.empty()) return damaged;
    const Message others = say("its pictures lean on others otherwise than those of the shots before");
    for (const SequenceSet& each : sequences) {
      if (m_like && !alike(*m_like, each)) return others;
      m_like = m_like ? m_like : std::optional(each);
    }
    const auto same = m_numbers.find(*sets);
    if (same != m_numbers.end()) {
      if (same->second) copies.own[media.path] = *same->second;
    } else if (copies.headers.empty()) {
      m_numbers.emplace(*sets, std::nullopt);
      copies.headers = *sets;
    } else {
      const auto numbers = freeNumbers(codec, bytesIn(copies.headers), {});
      const auto own = numbers ? renumbered(codec, bytesIn(*sets), *numbers) : std::nullopt;
      const auto both = own ? withSets(codec, bytesIn(copies.headers), {}, bytesIn(*own)) : std::nullopt;
      if (!both) return say("the headers of its pictures cannot stand beside those of the shots before");
      m_numbers.emplace(*sets, *numbers);
      copies.own[media.path] = *numbers;
      copies.headers = *both;
    }
    copies.ahead = std::max<int64_t>(copies.ahead, packets->stream().codecpar->video_delay);
    return {};
  }

  /// Decoders may drop what they have not shown yet where these change (Rec. ITU-T H.264, C.4.4; H.265, C.5.2.2).
  static bool alike(const SequenceSet& a, const SequenceSet& b) {
    return a.references == b.references && a.reordered == b.reordered && a.leastUnit == b.leastUnit &&
           a.largestUnit == b.largestUnit;
  }

  bool m_highTier;
  std::map<std::string, Message> m_known;                     ///< by path
  std::map<std::string, std::optional<SetNumbers>> m_numbers; ///< by the sets
  std::optional<SequenceSet> m_like;
};

/// Bits a second of a file's pictures: what it says, else what its sound leaves.
int64_t pictureBitRate(const MediaInfo& file) {
  if (file.video->bitRate > 0) return file.video->bitRate;
  if (file.duration <= Rational(0)) return 0;
  const auto sound = std::accumulate(file.audio.begin(), file.audio.end(), int64_t(0),
                                     [](int64_t sum, const AudioInfo& each) { return sum + each.bitRate; });
  return std::max(int64_t(0), (Rational(file.sizeBytes * 8) / file.duration).nearest() - sound);
}

} // namespace

WhyEncoded whyEncoded(const Plan& plan, const PlanPiece& piece) {
  const MediaInfo& file = piece.reading.file;
  if (file.kind != MediaKind::Video) return {say("it is a still"), {}};
  if (file.index && (!file.index->jumps.empty() || file.index->untimed()))
    return {say("its pictures tell no times, or its clock jumps"), {}};
  if (Message why = otherFile(plan, *file.video); !why.empty()) return {std::move(why), {}};
  if (Message why = changed(plan, piece); !why.empty()) return {std::move(why), {}};
  if (const auto levels = otherLevel(plan, *file.video))
    return {say("its level is %1, and the deliverable's %2", levels->first, levels->second), levels->first};
  return {};
}

Result<Plan> planWith(const Project& project, const Footage& footage, const Deliverable& deliverable,
                      const Region* region) {
  Project with = project;
  const auto same = std::find_if(with.deliverables.begin(), with.deliverables.end(),
                                 [&](const Deliverable& each) { return each.id == deliverable.id; });
  (same == with.deliverables.end() ? with.deliverables.emplace_back() : *same) = deliverable;
  return region ? Plan::build(with, footage, deliverable.id, *region) : Plan::build(with, footage, deliverable.id);
}

std::optional<int64_t> expectedBytes(const Plan& plan) {
  const Encoding& e = plan.encoding();
  const auto encoded = [&](int64_t frames) { return expectedBytes(e, plan.rate().timeOf(frames)); };
  if (!e.hasPicture() || !e.copies || !e.info().joins) return encoded(plan.frameCount());
  int64_t bytes = 0;
  int64_t rest = plan.frameCount();
  for (const PlanPiece& piece : plan.pieces()) {
    if (piece.frameCount == 0 || !whyEncoded(plan, piece).why.empty()) continue;
    bytes +=
        estimatedBytes(pictureBitRate(piece.reading.file), bitRateOf(e.sound), plan.rate().timeOf(piece.frameCount));
    rest -= piece.frameCount;
  }
  if (rest == 0) return bytes;
  const auto others = encoded(rest);
  return others ? std::optional(bytes + *others) : std::nullopt;
}

std::optional<int64_t> expectedBytes(const Project& project, const Footage& footage, const Deliverable& deliverable,
                                     const Rational& seconds, const Region* region) {
  if (deliverable.encoding.copies)
    if (const auto plan = planWith(project, footage, deliverable, region)) return expectedBytes(*plan);
  return expectedBytes(resolvedEncoding(deliverable), seconds);
}

int64_t ShotCopies::copied() const {
  return std::accumulate(stretches.begin(), stretches.end(), int64_t(0),
                         [](int64_t sum, const CopiedStretch& each) { return sum + each.end - each.first; });
}

ShotCopies planShotCopies(const Plan& plan, CopyMemory* memory, const std::stop_token& stop) {
  ShotCopies copies;
  const auto& pieces = plan.pieces();
  copies.shots.resize(pieces.size());
  JoinedSets sets(plan.encoding().highTier);
  for (size_t i = 0; i < pieces.size(); ++i) {
    if (pieces[i].frameCount == 0) continue;
    copies.shots[i].encoded = whyEncoded(plan, pieces[i]);
    if (copies.shots[i].encoded.why.empty())
      copies.shots[i].encoded.why = sets.add(pieces[i].reading.file, stop, copies);
  }
  CopyMemory own;
  CopyMemory& known = memory ? *memory : own;
  for (size_t i = 0; i < pieces.size(); ++i) {
    if (pieces[i].frameCount == 0 || !copies.shots[i].encoded.why.empty()) continue;
    const MediaInfo& file = pieces[i].reading.file;
    const int64_t first = pieces[i].sourceFrame(0);
    int64_t end = first + pieces[i].frameCount;
    size_t last = i;
    for (size_t next = i + 1; next < pieces.size(); ++next) {
      if (pieces[next].frameCount == 0) continue;
      if (!copies.shots[next].encoded.why.empty() || pieces[next].reading.file.path != file.path ||
          pieces[next].sourceFrame(0) != end)
        break;
      end += pieces[next].frameCount;
      last = next;
    }
    const auto key = std::tuple(file.path, file.sizeBytes, first, end);
    auto at = known.find(key);
    if (at == known.end()) {
      const auto parts = copyPartsOf(file, {{first, end}}, stop);
      if (parts) at = known.emplace(key, parts->front()).first;
      for (size_t each = i; !parts && each <= last; ++each) copies.shots[each].encoded.why = parts.error().message;
    }
    if (at != known.end()) {
      const CopyPart& part = at->second;
      if (part.copiedEnd > part.copied)
        copies.stretches.push_back({i, pieces[i].firstFrame + part.copied - first,
                                    pieces[i].firstFrame + part.copiedEnd - first, part.copied, part.open});
      copies.shots[i].encodedBefore = part.encodedBefore();
      copies.shots[i].freeBefore = part.freeBefore;
      copies.shots[i].freeBehind = part.freeBehind;
      copies.shots[last].encodedBehind = part.encodedBehind();
      if (part.encodedBehind() > 0) copies.shots[last].freeEnd = part.copiedEnd;
    }
    i = last;
  }
  return copies;
}

struct CopyStream::State {
  const Plan* plan;
  ShotCopies copies;
  std::stop_token stop;
  std::optional<CopyPackets> packets{};
  std::string path{};   ///< of the packets
  std::string sets{};   ///< their parameter sets
  size_t stretch = 0;   ///< that the next packet is of
  int64_t done = 0;     ///< packets of it
  bool entered = false; ///< its first one was found
  av::PacketPtr made{av::allocated(av_packet_alloc())};

  [[nodiscard]] const CopiedStretch* at(int64_t frame) const {
    const auto& all = copies.stretches;
    const auto behind = std::upper_bound(all.begin(), all.end(), frame,
                                         [](int64_t f, const CopiedStretch& each) { return f < each.first; });
    if (behind == all.begin() || frame >= (behind - 1)->end) return nullptr;
    return &*(behind - 1);
  }

  [[nodiscard]] tl::unexpected<Error> broken(const Message& what) const {
    return fail(ErrorCode::Unsupported, what, path, say("Let the deliverable encode all of its pictures"));
  }

  Status enter(const CopiedStretch& s) {
    const MediaInfo& file = plan->pieces()[s.piece].reading.file;
    if (!packets || path != file.path) {
      path = file.path;
      auto opened = CopyPackets::open(file, stop);
      if (!opened) return tl::unexpected(opened.error());
      packets.emplace(std::move(*opened));
      if (packets->framing())
        sets = setsIn(file.video->codec, packets->headers(), *packets->framing()).value_or(std::string());
    }
    done = 0;
    entered = false;
    return packets->goBefore(s.source);
  }

  /// The packet that was read, as it stands in the deliverable.
  Status make(const CopiedStretch& s, const CopyPackets::Packet& packet) {
    if (s.open && done == 0) packets->breakLink();
    const AVPacket& read = packets->packet();
    std::string bytes;
    std::span<const uint8_t> all(read.data, size_t(read.size));
    if (packets->framing()) {
      // Parameter sets lie in the headers, once for all (ISO/IEC 14496-15, 5.3.3.1).
      auto units = unitsOf(all, *packets->framing());
      const std::string& codec = plan->pieces()[s.piece].reading.file.video->codec;
      const auto set = [&](const auto& unit) { return isParameterSet(codec, unit); };
      for (const auto& unit : units)
        if (set(unit) && sets.find(std::string(unit.begin(), unit.end())) == std::string::npos)
          return broken(say("its pictures are coded otherwise from a place on"));
      units.erase(std::remove_if(units.begin(), units.end(), set), units.end());
      bytes = framed(units, {});
      all = bytesIn(bytes);
      if (const auto numbers = copies.own.find(path); numbers != copies.own.end()) {
        auto other = renumbered(codec, all, numbers->second);
        if (!other) return broken(say("its pictures cannot stand beside those of other shots"));
        bytes = std::move(*other);
        all = bytesIn(bytes);
      }
    }
    av_packet_unref(made.get());
    if (av_new_packet(made.get(), int(all.size())) < 0) throw std::bad_alloc();
    std::memcpy(made->data, all.data(), all.size());
    made->flags = read.flags & AV_PKT_FLAG_KEY;
    made->pts = s.first + packet.frame - s.source;
    made->dts = s.first + done - copies.ahead;
    made->duration = 1;
    if (made->dts > made->pts) return broken(say("its pictures cannot be put in order at a cut"));
    ++done;
    return {};
  }
};

CopyStream::CopyStream(const Plan& plan, ShotCopies copies, std::stop_token stop)
    : m_state(new State{&plan, std::move(copies), std::move(stop)}) {}
CopyStream::CopyStream(CopyStream&&) noexcept = default;
CopyStream& CopyStream::operator=(CopyStream&&) noexcept = default;
CopyStream::~CopyStream() = default;

const ShotCopies& CopyStream::copies() const {
  return m_state->copies;
}

int64_t CopyStream::endOf(int64_t frame) const {
  const CopiedStretch* s = m_state->at(frame);
  return s ? s->end : frame;
}

Status CopyStream::next(int64_t frame, const std::function<Status(AVPacket& packet)>& sink) {
  State& state = *m_state;
  const CopiedStretch& s = *state.at(frame);
  if (frame == s.first)
    if (const Status there = state.enter(s); !there) return there;
  for (;;) {
    const auto got = state.packets->next();
    if (!got) return tl::unexpected(got.error());
    if (!*got || (state.entered && (*got)->frame >= s.source + s.end - s.first))
      return state.broken(say("pictures are missing that were there"));
    state.entered = state.entered || (*got)->frame == s.source;
    if (!state.entered || (*got)->frame < s.source) continue;
    if (const Status made = state.make(s, **got); !made) return made;
    return sink(*state.made);
  }
}

} // namespace tromb
