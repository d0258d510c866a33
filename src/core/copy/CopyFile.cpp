// SPDX-License-Identifier: GPL-3.0-or-later
#include "copy/CopyFile.h"

#include "copy/CopyPackets.h"
#include "copy/EdgeEncoder.h"
#include "copy/SoundCopy.h"
#include "io/Digest.h"
#include "io/PartFile.h"
#include "media/Av.h"
#include "media/read/VideoReader.h"
#include "media/write/Muxer.h"
#include "picture/Trace.h"
#include "time/Timecode.h"

#include <algorithm>
#include <array>
#include <cstdlib>
#include <cstring>
#include <filesystem>

namespace tromb {
namespace {

namespace fs = std::filesystem;

constexpr double kAboveKey = 1; ///< steps of quality by which edges are coarser than the key before them
constexpr double kFinestEdge = 8;
constexpr double kCoarsestEdge = 30;
constexpr double kUsualQuality = 18; ///< where a source does not tell how coarse it is
constexpr int64_t kReadBack = 3;     ///< frames at each end of what was encoded, and where copying begins
constexpr double kMostApart = 3;     ///< 8-bit steps, of a picture that was encoded anew
const Rational kSoundAhead{1, 2};    ///< seconds that sound is written before the picture, so that both lie near

Result<Container> containerFor(const std::string& target) {
  const std::string ending = fs::path(target).extension().string();
  std::string known;
  for (const ContainerInfo& each : containers()) {
    if (!each.picture || !each.sound) continue;
    if (ending == "." + std::string(each.word)) return each.container;
    known += (known.empty() ? "" : ", ") + std::string(each.word);
  }
  return fail(ErrorCode::InvalidArgument, say("'%1' is no ending of a container that is written", ending), target,
              say("Use one of: %1", known));
}

PictureTrace traceOf(const Frame& picture) {
  return PictureTrace::of(picture, PictureTrace::Shape({picture->width, picture->height}), 0);
}

/// How far the small copies of two pictures are apart in the mean, in 8-bit steps. Grain, of which encoding leaves
/// little, is not in them.
double apart(const PictureTrace& a, const PictureTrace& b) {
  int64_t sum = 0;
  for (size_t i = 0; i < a.cells.size(); ++i) sum += std::abs(int(a.cells[i]) - int(b.cells[i]));
  return double(sum) / double(std::max<size_t>(1, a.cells.size()));
}

/// Writes the parts of a plan, one after the other.
class CopyRun {
public:
  CopyRun(const CopyRequest& request, std::stop_token stop) : m_request(request), m_stop(std::move(stop)) {}

  Result<CopiedFile> run() {
    const CopyPlan& plan = m_request.plan;
    if (plan.encoded() > 0 && !plan.noEdges.empty()) return tl::unexpected(cannotBeFree());
    std::error_code none;
    if (!m_request.overwrite && fs::exists(m_request.target, none))
      return fail(ErrorCode::Exists, say("there is a file of this name already"), m_request.target,
                  say("Choose another name, or let it be replaced"));
    if (fs::equivalent(m_request.target, plan.media.path, none))
      return fail(ErrorCode::InvalidArgument, say("a file cannot be cut into itself"), m_request.target,
                  say("Choose another name"));
    const auto container = containerFor(m_request.target);
    if (!container) return tl::unexpected(container.error());
    auto part = PartFile::create(m_request.target, PartFile::Busy::Refuse, m_stop);
    if (!part) return tl::unexpected(part.error());
    if (const Status done = write(*part, *container); !done) return tl::unexpected(done.error());
    if (const Status right = readBack(part->path()); !right) return tl::unexpected(right.error());
    if (m_stop.stop_requested()) return fail(ErrorCode::Cancelled, say("the copying was stopped"));
    if (const Status named = part->takeFinalName(m_request.overwrite); !named) return tl::unexpected(named.error());
    return CopiedFile{m_request.target, plan.frames(), plan.encoded(), int64_t(fs::file_size(m_request.target, none))};
  }

private:
  /// Cuts that would have to be encoded, and the places near them that would not.
  Error cannotBeFree() const {
    const CopyPlan& plan = m_request.plan;
    const FrameClock& clock = plan.media.video->clock;
    for (const CopyPart& part : plan.parts) {
      if (part.encodedBefore() == 0 && part.encodedBehind() == 0) continue;
      const auto at = [&](int64_t frame) { return clockText(cutTime(clock, frame)); };
      const bool begins = part.encodedBefore() > 0;
      const int64_t frame = begins ? part.first : part.end;
      Message hint = say("Export it instead, which encodes it");
      if (begins && part.freeBefore && part.freeBehind)
        hint = say("It could begin at frame %1 or %2", *part.freeBefore, *part.freeBehind);
      else if (begins && part.freeBefore)
        hint = say("It could begin at frame %1", *part.freeBefore);
      else if (!begins)
        hint = say("It could end before frame %1", part.copiedEnd);
      return {ErrorCode::Unsupported,
              begins ? say("the part cannot begin at %1, frame %2: %3", at(frame), frame, plan.noEdges)
                     : say("the part cannot end at %1, frame %2: %3", at(frame), frame, plan.noEdges),
              plan.media.path,
              {},
              hint};
    }
    return {};
  }

  Status write(const PartFile& file, Container container) {
    const CopyPlan& plan = m_request.plan;
    auto packets = CopyPackets::open(plan.media, m_stop);
    if (!packets) return tl::unexpected(packets.error());
    auto muxer = Muxer::create(file.file(), m_request.target, container);
    if (!muxer) return tl::unexpected(muxer.error());
    std::string headers;
    auto reader = VideoReader::open(plan.media, {.stop = m_stop});
    if (!reader) return tl::unexpected(reader.error());
    m_reader.emplace(std::move(*reader));
    if (plan.encoded() > 0) {
      auto joined = joinedHeaders(*packets);
      if (!joined) return tl::unexpected(joined.error());
      headers = std::move(*joined);
    }
    m_picture = muxer->addCopy(packets->stream(), headers);
    std::vector<SoundCopy> sounds;
    for (const AudioInfo& audio : plan.media.audio) {
      auto sound = SoundCopy::open(plan.media, audio.stream, m_stop);
      if (!sound) return tl::unexpected(sound.error());
      sound->into(muxer->addCopy(sound->stream()), infoOf(container).boxes);
      sounds.push_back(std::move(*sound));
    }
    if (const Status begun = muxer->begin({}); !begun) return begun;
    m_delay = packets->stampOf(packets->stream().codecpar->video_delay) - packets->stampOf(0);
    const Rational tick = av::rational(packets->stream().time_base);
    for (size_t i = 0; i < plan.parts.size(); ++i) {
      const CopyPart& part = plan.parts[i];
      const int64_t from = packets->stampOf(part.first);
      m_shift = m_at - from;
      m_at += packets->stampOf(part.end) - from;
      const Rational heard = tick * Rational(from - packets->stampOf(0));
      for (SoundCopy& sound : sounds)
        if (const Status begun =
                sound.begin(heard, tick * Rational(from + m_shift), tick * Rational(m_at), i + 1 == plan.parts.size());
            !begun)
          return begun;
      const auto written = [&](AVPacket& packet) -> Status {
        const Rational time = tick * Rational(packet.dts);
        for (SoundCopy& sound : sounds)
          if (const Status done = sound.writeUntil(time + kSoundAhead, *muxer); !done) return done;
        if (const Status done = muxer->write(m_picture, packet); !done) return done;
        ++m_done;
        if (m_request.onFraction) m_request.onFraction(double(m_done) / double(std::max<int64_t>(1, plan.frames())));
        return {};
      };
      const int64_t begin = m_done;
      if (const Status done = edge(*packets, part.first, part.copied, written); !done) return done;
      if (const Status done = expectCopied(part, begin); !done) return done;
      if (const Status done = copy(*packets, part, written); !done) return done;
      if (const Status done = edge(*packets, part.copiedEnd, part.end, written); !done) return done;
      for (SoundCopy& sound : sounds)
        if (const Status done = sound.writeUntil(tick * Rational(m_at), *muxer); !done) return done;
    }
    return muxer->finish();
  }

  /// The file's own headers and those of what is encoded at the edges.
  Result<std::string> joinedHeaders(const CopyPackets& packets) {
    const auto first = m_reader->frameAt(m_request.plan.parts.front().first);
    if (!first) return tl::unexpected(first.error());
    m_format = (*first)->format;
    if (!packets.framing()) return std::string(); // nothing to be joined
    const std::string& codec = m_request.plan.media.video->codec;
    const auto damaged = [this] {
      return fail(ErrorCode::Unreadable, say("the headers of its pictures are damaged"), m_request.plan.media.path,
                  say("Export it instead, which encodes it"));
    };
    for (const SequenceSet& each : sequenceSets(codec, packets.headers(), *packets.framing()))
      if (each.references >= m_set.references) m_set = each;
    const auto numbers = freeNumbers(codec, packets.headers(), *packets.framing());
    if (!numbers) return damaged();
    m_numbers = *numbers;
    const auto encoder = encoderAt(packets, kUsualQuality);
    if (!encoder) return tl::unexpected(encoder.error());
    m_edgeHeaders = encoder->headers();
    auto joined = withSets(codec, packets.headers(), *packets.framing(), bytesIn(m_edgeHeaders));
    if (!joined) return damaged();
    return std::move(*joined);
  }

  Result<EdgeEncoder> encoderAt(const CopyPackets& packets, double quality) const {
    return EdgeEncoder::open(packets.stream(), *m_request.plan.media.video, m_format, m_set, m_numbers, quality,
                             m_request.plan.media.path);
  }

  /// As fine as the key picture before a frame is coded.
  [[nodiscard]] double qualityAt(int64_t frame) const {
    auto reader = VideoReader::open(m_request.plan.media, {.quantisers = true, .stop = m_stop});
    if (!reader || !reader->goNear(frame)) return kUsualQuality;
    const auto key = reader->read();
    const double quantiser = key && key->frame ? meanQuantiser(key->frame) : -1;
    return quantiser < 0 ? kUsualQuality : std::clamp(quantiser + kAboveKey, kFinestEdge, kCoarsestEdge);
  }

  /// The stamps of a packet in the new file. Decoding goes on in order whatever is joined.
  Status stamp(AVPacket& packet, int64_t shown, int64_t decodes) {
    packet.pts = shown + m_shift;
    packet.dts = std::min(packet.pts, std::max(decodes + m_shift, m_lastDecode + 1));
    packet.pos = -1;
    if (packet.dts <= m_lastDecode)
      return fail(ErrorCode::Unsupported, say("its pictures cannot be put in order at a cut"),
                  m_request.plan.media.path, say("Export it instead, which encodes it"));
    m_lastDecode = packet.dts;
    return {};
  }

  /// Encodes the frames [first, end).
  template <typename Write> Status edge(const CopyPackets& packets, int64_t first, int64_t end, const Write& write) {
    if (first >= end) return {};
    std::optional<EdgeEncoder> encoder;
    int64_t next = first;
    const av::PacketPtr made(av::allocated(av_packet_alloc()));
    const auto sink = [&](std::span<const uint8_t> packet) -> Status {
      const std::string bytes = packets.framing() ? framed(unitsOf(packet, {}), *packets.framing())
                                                  : std::string(packet.begin(), packet.end());
      av_packet_unref(made.get());
      if (av_new_packet(made.get(), int(bytes.size())) < 0) throw std::bad_alloc();
      std::memcpy(made->data, bytes.data(), bytes.size());
      if (next == first) made->flags |= AV_PKT_FLAG_KEY;
      const int64_t shown = packets.stampOf(next);
      made->duration = packets.stampOf(next + 1) - shown;
      ++next;
      if (const Status stamped = stamp(*made, shown, shown - m_delay); !stamped) return stamped;
      return write(*made);
    };
    const int64_t begin = m_done;
    const double quality = packets.framing() ? qualityAt(first) : kUsualQuality;
    if (const Status there = m_reader->goTo(first); !there) return there;
    for (int64_t frame = first; frame < end; ++frame) {
      const auto picture = m_reader->read();
      if (!picture) return tl::unexpected(picture.error());
      if (!picture->frame || picture->number != frame)
        return fail(ErrorCode::Decoder, say("frame %1 cannot be decoded", frame), m_request.plan.media.path,
                    say("Cut elsewhere"));
      if (frame < first + kReadBack || frame >= end - kReadBack) expect(begin + frame - first, picture->frame, false);
      if (!encoder) {
        auto opened = encoderAt(packets, quality);
        if (!opened) return tl::unexpected(opened.error());
        encoder.emplace(std::move(*opened));
        if (encoder->headers() != m_edgeHeaders)
          return fail(ErrorCode::Encoder, say("the encoder does not go on as it began"), m_request.plan.media.path);
      }
      if (const Status added = encoder->add(picture->frame, sink); !added) return added;
    }
    return encoder->finish(sink);
  }

  template <typename Write> Status copy(CopyPackets& packets, const CopyPart& part, const Write& write) {
    if (part.copied >= part.copiedEnd) return {};
    if (const Status there = packets.goBefore(part.copied); !there) return there;
    bool entered = false;
    for (int64_t next = part.copied; next < part.copiedEnd;) {
      const auto got = packets.next();
      if (!got) return tl::unexpected(got.error());
      if (!*got) break; // frames that the file lacks at its end
      entered = entered || (*got)->frame == part.copied;
      if (!entered || (*got)->frame < part.copied) continue;
      if ((*got)->frame >= part.copiedEnd) break;
      const int64_t decodes = (*got)->decodes != AV_NOPTS_VALUE ? (*got)->decodes : packets.stampOf(next) - m_delay;
      if (part.open && next == part.copied) packets.breakLink();
      ++next;
      if (const Status stamped = stamp(packets.packet(), (*got)->stamp, decodes); !stamped) return stamped;
      if (const Status done = write(packets.packet()); !done) return done;
    }
    return {};
  }

  /// Notes what a frame of the new file has to show.
  void expect(int64_t frame, const Frame& picture, bool copied) {
    Expected each{frame, copied, {}, {}};
    if (copied)
      each.digest = digestOf(picture);
    else
      each.trace = traceOf(picture);
    m_expected.push_back(std::move(each));
  }

  static std::string digestOf(const Frame& picture) {
    const AVPixFmtDescriptor& d = *av_pix_fmt_desc_get(AVPixelFormat(picture->format));
    Digest digest;
    for (int p = 0; p < av_pix_fmt_count_planes(AVPixelFormat(picture->format)); ++p) {
      const int lines = p == 1 || p == 2 ? AV_CEIL_RSHIFT(picture->height, d.log2_chroma_h) : picture->height;
      const int bytes = av_image_get_linesize(AVPixelFormat(picture->format), picture->width, p);
      for (int y = 0; y < lines; ++y) digest.add(picture->data[p] + ptrdiff_t(y) * picture->linesize[p], size_t(bytes));
    }
    return digest.hex();
  }

  /// The first pictures that are copied, as the source shows them.
  Status expectCopied(const CopyPart& part, int64_t begin) {
    if (part.copied >= part.copiedEnd) return {};
    if (const Status there = m_reader->goTo(part.copied); !there) return there;
    for (int64_t frame = part.copied; frame < std::min(part.copied + kReadBack, part.copiedEnd); ++frame) {
      const auto picture = m_reader->read();
      if (!picture) return tl::unexpected(picture.error());
      if (!picture->frame || picture->number != frame) return {}; // the file lacks it
      expect(begin + frame - part.first, picture->frame, true);
    }
    return {};
  }

  /// Reads pictures at every cut back: those that were copied have to be the source's, to the bit.
  Status readBack(const std::string& path) {
    const auto made = probe(path, {.stop = m_stop, .indexFolder = {}});
    if (!made) return tl::unexpected(made.error());
    const auto wrong = [&](int64_t frame) {
      return fail(ErrorCode::Encoder, say("the new file does not show the right picture at frame %1", frame),
                  m_request.target, say("Export it instead, which encodes it"));
    };
    auto mine = VideoReader::open(*made, {.stop = m_stop});
    if (!mine) return tl::unexpected(mine.error());
    for (const Expected& each : m_expected) {
      const auto seen = mine->shown(each.frame);
      if (!seen) return tl::unexpected(seen.error());
      const Frame& picture = seen->frame;
      if (each.copied ? digestOf(picture) != each.digest : apart(traceOf(picture), each.trace) > kMostApart)
        return wrong(each.frame);
    }
    if (made->video->clock.frameCount() != m_request.plan.frames()) return wrong(made->video->clock.frameCount());
    return {};
  }

  struct Expected {
    int64_t frame; ///< of the new file
    bool copied;
    std::string digest; ///< of its samples, where it is copied
    PictureTrace trace; ///< where it is encoded
  };

  const CopyRequest& m_request;
  std::stop_token m_stop;
  std::vector<Expected> m_expected;
  std::optional<VideoReader> m_reader; ///< for the edges, and for what is read back
  int m_format = 0;                    ///< of the pictures at the edges, an AVPixelFormat
  SequenceSet m_set;                   ///< that the edges' is to be like
  SetNumbers m_numbers;                ///< of the edges' sets
  std::string m_edgeHeaders;
  int m_picture = 0;
  int64_t m_delay = 0; ///< ticks from decoding to presentation
  int64_t m_shift = 0; ///< from the file's stamps to those of the new one
  int64_t m_at = 0;    ///< where the part under way ends in the new file, in ticks
  int64_t m_lastDecode = INT64_MIN / 2;
  int64_t m_done = 0;
};

} // namespace

Result<CopiedFile> copyParts(const CopyRequest& request, std::stop_token stop) {
  return CopyRun(request, std::move(stop)).run();
}

} // namespace tromb
