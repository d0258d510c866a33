// SPDX-License-Identifier: GPL-3.0-or-later
#include "media/read/FileIndex.h"

#include "media/Av.h"

#include <algorithm>
#include <map>

namespace tromb {
namespace {

constexpr int64_t kNone = FileIndex::kNoStamp;
static_assert(kNone == AV_NOPTS_VALUE);

constexpr double kMarkSeconds = 0.5;
constexpr int64_t kPicturesToJudge = 40;
/// A broadcast stream's clock has jumped where it goes back by more than the first or ahead by more than the second;
/// FFmpeg's tool takes the same measures. Seconds.
constexpr double kBackward = 0.1;
constexpr double kForward = 10;

struct Packet {
  int64_t stamp = kNone;
  int64_t decodes = kNone;
  int64_t position = -1; ///< or that of the packet before it which has one; −1 where the format does not tell
  bool key = false;
  bool picture = true; ///< one of its own, that is to be shown
};

/// Tells packets that hold no picture of their own: second fields, and pictures that are never shown.
class PacketMeter {
public:
  explicit PacketMeter(const AVStream& stream)
      : m_codec(stream.codecpar->codec_id), m_context(av::allocated(avcodec_alloc_context3(nullptr))) {
    const bool mayBeFields =
        m_codec == AV_CODEC_ID_H264 || m_codec == AV_CODEC_ID_MPEG2VIDEO || m_codec == AV_CODEC_ID_VC1;
    avcodec_parameters_to_context(m_context.get(), stream.codecpar);
    if (mayBeFields) m_parser.reset(av_parser_init(m_codec));
    if (m_parser) m_parser->flags |= PARSER_FLAG_COMPLETE_FRAMES;
  }

  [[nodiscard]] bool hasPicture(const AVPacket& packet) {
    if (packet.size <= 0 || (packet.flags & AV_PKT_FLAG_DISCARD)) return false;
    if (m_codec == AV_CODEC_ID_VP8) return (packet.data[0] & 0x10) != 0; // RFC 6386, 9.1: show_frame
    if (!m_parser) return true;
    uint8_t* data = nullptr;
    int size = 0;
    av_parser_parse2(m_parser.get(), m_context.get(), &data, &size, packet.data, packet.size, packet.pts, packet.dts,
                     packet.pos);
    const auto structure = m_parser->picture_structure;
    const bool field = structure == AV_PICTURE_STRUCTURE_TOP_FIELD || structure == AV_PICTURE_STRUCTURE_BOTTOM_FIELD;
    const bool second = field && m_first != AV_PICTURE_STRUCTURE_UNKNOWN && m_first != structure;
    m_first = field && !second ? structure : AV_PICTURE_STRUCTURE_UNKNOWN;
    return !second;
  }

  /// False where the last packet is marked as a key, and only begins to refresh the picture piece by piece.
  [[nodiscard]] bool mayBeEntered() const {
    return m_codec != AV_CODEC_ID_H264 || !m_parser || m_parser->pict_type == AV_PICTURE_TYPE_I ||
           m_parser->pict_type == AV_PICTURE_TYPE_NONE;
  }

private:
  struct ParserCloser {
    void operator()(AVCodecParserContext* p) const { av_parser_close(p); }
  };
  AVCodecID m_codec;
  av::CodecPtr m_context;
  std::unique_ptr<AVCodecParserContext, ParserCloser> m_parser;
  AVPictureStructure m_first = AV_PICTURE_STRUCTURE_UNKNOWN; ///< a first field that waits for its second
};

/// Makes an index: reads the packets, then what the pictures themselves have to tell.
class IndexBuilder {
public:
  IndexBuilder(const std::string& path, int pictureStream, std::stop_token stop)
      : m_path(path), m_stop(std::move(stop)) {
    m_index.pictureStream = pictureStream;
  }

  Result<FileIndex> build() {
    if (const Status done = readPackets(); !done) return tl::unexpected(done.error());
    if (m_index.pictureStream < 0) return std::move(m_index);
    const bool timed =
        std::none_of(m_packets.begin(), m_packets.end(), [](const Packet& p) { return p.picture && p.stamp == kNone; });
    const auto truly = timed ? stampsAreTrue() : Result<bool>(false);
    if (!truly) return tl::unexpected(truly.error());
    const Status placed = *truly ? placeByStamps() : placeByDecoding();
    if (!placed) return tl::unexpected(placed.error());
    return std::move(m_index);
  }

private:
  // ---- packets
  Status readPackets() {
    auto file = av::InputFile::open(m_path, m_stop);
    if (!file) return tl::unexpected(file.error());
    const int pictures = m_index.pictureStream;
    const bool jumps = file->clockMayJump();
    if (pictures >= 0 && !jumps) file->keepOnly(pictures);
    std::optional<PacketMeter> meter;
    if (pictures >= 0) {
      meter.emplace(file->stream(pictures));
      m_tick = av::rational(file->stream(pictures).time_base);
      m_declared = av::declaredRates(file->stream(pictures));
      const AVCodecDescriptor* codec = avcodec_descriptor_get(file->stream(pictures).codecpar->codec_id);
      m_inOrder = codec && (codec->props & AV_CODEC_PROP_INTRA_ONLY);
      m_reordered = !m_inOrder && file->stream(pictures).codecpar->video_delay > 0;
    }
    const av::PacketPtr packet(av::allocated(av_packet_alloc()));
    for (;;) {
      const auto got = file->read(*packet);
      if (!got) return tl::unexpected(got.error());
      if (!*got) return {};
      const AVStream& stream = file->stream(packet->stream_index);
      const auto type = stream.codecpar->codec_type;
      if (packet->pos >= 0) m_followed[packet->stream_index].position = packet->pos;
      if (jumps && (type == AVMEDIA_TYPE_AUDIO || packet->stream_index == pictures)) watchClock(stream, *packet);
      if (packet->stream_index == pictures)
        takePicture(*packet, *meter);
      else if (type == AVMEDIA_TYPE_AUDIO && (jumps || pictures < 0)) // else only what was read while opening comes
        takeSound(stream, *packet);
      av_packet_unref(packet.get());
    }
  }

  void takePicture(const AVPacket& packet, PacketMeter& meter) {
    Packet p;
    p.stamp = packet.pts;
    p.decodes = packet.dts;
    if (p.stamp == kNone && m_inOrder) p.stamp = packet.dts;
    p.position = m_followed[packet.stream_index].position;
    p.key = (packet.flags & AV_PKT_FLAG_KEY) != 0;
    p.picture = meter.hasPicture(packet);
    p.key = p.key && meter.mayBeEntered();
    // Of pictures that came in one piece of a stream, its stamp is that of the first.
    if (!m_packets.empty() && p.stamp != kNone && p.stamp == m_lastStamp) p.stamp = p.decodes = kNone;
    if (packet.pts != kNone) m_lastStamp = packet.pts;
    const int64_t shift = m_index.shiftAt(p.position);
    if (p.decodes != kNone) {
      m_index.backward += m_lastDecode != kNone && p.decodes + shift < m_lastDecode;
      m_lastDecode = p.decodes + shift;
    }
    m_packets.push_back(p);
  }

  void takeSound(const AVStream& stream, const AVPacket& packet) {
    if (packet.pts == kNone) return;
    const int64_t stamp = packet.pts + m_index.shiftAt(m_followed[stream.index].position);
    auto at = std::find_if(m_index.sounds.begin(), m_index.sounds.end(),
                           [&](const FileIndex::Sound& s) { return s.stream == stream.index; });
    if (at == m_index.sounds.end()) at = m_index.sounds.insert(at, {stream.index, stamp, stamp, {}});
    at->end = std::max(at->end, stamp + std::max<int64_t>(0, packet.duration));
    const double since =
        at->marks.empty() ? kMarkSeconds : double(stamp - at->marks.back().stamp) * av_q2d(stream.time_base);
    if (packet.pos >= 0 && since >= kMarkSeconds) at->marks.push_back({stamp, packet.pos});
  }

  /// Notices where a broadcast stream's clock begins anew.
  void watchClock(const AVStream& stream, const AVPacket& packet) {
    Followed& seen = m_followed[stream.index];
    if (packet.dts == kNone) return;
    const double tick = av_q2d(stream.time_base);
    const auto off = [&](int64_t shift) { return double(packet.dts + shift - seen.next) * tick; };
    const auto jumped = [&](double seconds) { return seconds < -kBackward || seconds > kForward; };
    auto& jumps = m_index.jumps;
    // Pictures go on evenly where a clock begins anew; sound, which seldom ends with them, has its gap then.
    if (stream.index == m_index.pictureStream && !jumps.empty() && seen.position >= jumps.back().position) {
      if (seen.begun && seen.jumps < jumps.size() && !jumped(off(jumps.back().shift)))
        jumps.back().shift = seen.next - packet.dts;
      seen.jumps = jumps.size();
    }
    int64_t shift = m_index.shiftAt(seen.position);
    if (seen.begun && jumped(off(shift))) {
      const int64_t position = packet.pos >= 0 ? packet.pos : seen.position + 1;
      const auto later = std::find_if(jumps.begin(), jumps.end(), [&](const FileIndex::Jump& j) {
        return j.position > position && !jumped(off(j.shift));
      });
      if (later != jumps.end()) { // another stream has noticed it, a little further on in the file
        shift = later->shift;
        later->position = position;
      } else {
        shift += seen.next - (packet.dts + shift);
        const auto at = std::upper_bound(jumps.begin(), jumps.end(), position,
                                         [](int64_t p, const FileIndex::Jump& j) { return p < j.position; });
        jumps.insert(at, {position, shift});
        if (stream.index == m_index.pictureStream) seen.jumps = jumps.size();
      }
    }
    seen.begun = true;
    seen.next = packet.dts + shift + std::max<int64_t>(0, packet.duration);
  }

  // ---- pictures
  [[nodiscard]] int64_t placed(const Packet& p) const { return p.stamp + m_index.shiftAt(p.position); }

  /// False where packets of reordered pictures claim to be shown when they are decoded; their stamps are forgotten
  /// then.
  Result<bool> stampsAreTrue() {
    if (!m_reordered ||
        std::any_of(m_packets.begin(), m_packets.end(), [](const Packet& p) { return p.stamp != p.decodes; }))
      return true;
    const auto order = decode(kPicturesToJudge);
    if (!order) return tl::unexpected(order.error());
    if (std::is_sorted(order->begin(), order->end())) return true;
    for (Packet& p : m_packets) p.stamp = kNone;
    return false;
  }

  /// Presentation times stand in the packets.
  Status placeByStamps() {
    std::vector<int64_t> stamps;
    for (const Packet& p : m_packets)
      if (p.picture) stamps.push_back(placed(p));
    if (stamps.empty()) return nothing();
    std::sort(stamps.begin(), stamps.end());
    const auto first = decode(1);
    if (!first) return tl::unexpected(first.error());
    if (first->empty()) return nothing();
    // Pictures that lean on some before the file's beginning are shown by nobody. A key picture leans on none: if it
    // cannot be decoded it is damaged, and that is to be told.
    const auto key = std::find_if(m_packets.begin(), m_packets.end(),
                                  [](const Packet& p) { return p.key && p.picture && p.stamp != kNone; });
    int64_t begin = placed(m_packets[size_t(first->front())]);
    if (key != m_packets.end()) begin = std::min(begin, placed(*key));
    stamps.erase(stamps.begin(), std::lower_bound(stamps.begin(), stamps.end(), begin));
    for (size_t i = 0; i < m_packets.size(); ++i) {
      const Packet& p = m_packets[i];
      if (!p.key || p.stamp == kNone || placed(p) < stamps.front()) continue;
      const auto number = std::lower_bound(stamps.begin(), stamps.end(), placed(p)) - stamps.begin();
      m_index.keys.push_back({number, int64_t(i), p.stamp, p.decodes, p.position});
    }
    finish(std::move(stamps));
    return {};
  }

  /// Packets tell no presentation time, or not all do: the decoder tells their order.
  Status placeByDecoding() {
    const auto order = decode(INT64_MAX);
    if (!order) return tl::unexpected(order.error());
    if (order->empty()) return nothing();
    std::vector<int64_t> decodes; // of the packets that gave pictures
    for (const int64_t packet : *order) decodes.push_back(m_packets[size_t(packet)].decodes);
    std::sort(decodes.begin(), decodes.end());
    const bool ordered = decodes.front() != kNone; // kNone is the least of all
    std::vector<int64_t> stamps(order->size(), kNone);
    for (size_t i = 0; i < stamps.size(); ++i)
      if (const Packet& p = m_packets[size_t((*order)[i])]; p.stamp != kNone) stamps[i] = placed(p);
    if (!fillEvenly(stamps, !ordered)) fillBetween(stamps, ordered ? decodes : std::vector<int64_t>());
    for (size_t i = 1; i < stamps.size(); ++i) stamps[i] = std::max(stamps[i], stamps[i - 1]);
    m_index.pictureOfPacket.assign(m_packets.size(), -1);
    for (size_t i = 0; i < order->size(); ++i) m_index.pictureOfPacket[size_t((*order)[i])] = int32_t(i);
    for (size_t i = 0; i < m_packets.size(); ++i) {
      const Packet& p = m_packets[i];
      const int32_t number = m_index.pictureOfPacket[i];
      if (p.key && number >= 0) m_index.keys.push_back({number, int64_t(i), p.stamp, p.decodes, p.position});
    }
    m_index.stampOfPicture = stamps;
    finish(std::move(stamps));
    return {};
  }

  /// A frame's length by what the file says, in ticks.
  [[nodiscard]] double usualLength() const {
    return m_declared.empty() ? 1 : 1 / m_declared.front().toDouble() / m_tick.toDouble();
  }

  /// Where most of the pictures that tell their time lie evenly, all do: in such files a stamp may well belong to a
  /// neighbour. So it is, too, where few tell any (`fewTell`: nor when they are decoded). False where it is otherwise.
  [[nodiscard]] bool fillEvenly(std::vector<int64_t>& stamps, bool fewTell) const {
    const double frame = usualLength();
    std::vector<double> begins; // what each says of picture 0
    for (size_t i = 0; i < stamps.size(); ++i)
      if (stamps[i] != kNone) begins.push_back(double(stamps[i]) - double(i) * frame);
    if (begins.empty() || begins.size() == stamps.size() || m_declared.empty()) return false;
    double begin = begins.front();
    if (!fewTell || begins.size() * 2 > stamps.size()) {
      const auto middle = begins.begin() + ptrdiff_t(begins.size() / 2);
      std::nth_element(begins.begin(), middle, begins.end());
      begin = *middle;
    }
    const auto even = std::count_if(begins.begin(), begins.end(),
                                    [&](double each) { return std::abs(each - begin) < std::max(1.01, frame / 8); });
    if (even * 3 < ptrdiff_t(begins.size()) * 2 && !(fewTell && begins.size() * 2 <= stamps.size())) return false;
    for (size_t i = 0; i < stamps.size(); ++i) stamps[i] = std::llround(begin + double(i) * frame);
    return true;
  }

  /// Between pictures that tell their time it goes on as it does in decoding (`decodes`, ascending, may be empty), else
  /// evenly.
  void fillBetween(std::vector<int64_t>& stamps, const std::vector<int64_t>& decodes) const {
    const double frame = usualLength();
    std::vector<size_t> known;
    for (size_t i = 0; i < stamps.size(); ++i)
      if (stamps[i] != kNone) known.push_back(i);
    for (size_t i = 0; i < stamps.size(); ++i) {
      if (stamps[i] != kNone) continue;
      if (known.empty()) {
        stamps[i] = decodes.empty() ? std::llround(double(i) * frame) : decodes[i];
        continue;
      }
      const auto after = std::upper_bound(known.begin(), known.end(), i);
      const size_t left = after == known.begin() ? known.front() : *(after - 1);
      const size_t right = after == known.end() ? known.back() : *after;
      if (!decodes.empty() && m_index.jumps.empty())
        stamps[i] = stamps[left] + decodes[i] - decodes[left];
      else if (left < i && right > i)
        stamps[i] = stamps[left] + (stamps[right] - stamps[left]) * int64_t(i - left) / int64_t(right - left);
      else
        stamps[i] = stamps[left] + std::llround((double(i) - double(left)) * frame);
    }
  }

  void finish(std::vector<int64_t> stamps) {
    std::stable_sort(m_index.keys.begin(), m_index.keys.end(),
                     [](const FileIndex::Key& a, const FileIndex::Key& b) { return a.number < b.number; });
    m_index.firstStamp = stamps.front();
    for (int64_t& stamp : stamps) stamp -= m_index.firstStamp;
    m_index.clock = FrameClock::fromStamps(std::move(stamps), m_tick, m_declared);
  }

  /// Decodes up to `most` pictures from the file's beginning and tells, in order of presentation, which packet each
  /// came from.
  Result<std::vector<int64_t>> decode(int64_t most) {
    auto file = av::InputFile::open(m_path, m_stop);
    if (!file) return tl::unexpected(file.error());
    file->keepOnly(m_index.pictureStream);
    auto decoder = av::openDecoder(file->stream(m_index.pictureStream), m_path, most == 1 ? 1 : 0);
    if (!decoder) return tl::unexpected(decoder.error());
    decoder->get()->skip_loop_filter = AVDISCARD_ALL; // only their order counts
    std::vector<int64_t> order;
    const av::PacketPtr packet(av::allocated(av_packet_alloc()));
    const av::FramePtr frame(av::allocated(av_frame_alloc()));
    int64_t next = 0;
    for (bool ended = false; int64_t(order.size()) < most;) {
      const int native = avcodec_receive_frame(decoder->get(), frame.get());
      if (native == 0) {
        if (frame->pts >= 0 && frame->pts < int64_t(m_packets.size())) order.push_back(frame->pts);
        continue;
      }
      if (native == AVERROR_EOF) break;
      if (native != AVERROR(EAGAIN)) {
        if (ended) break;
        continue; // a damaged packet loses its own picture
      }
      const auto got = file->read(*packet);
      if (!got) return tl::unexpected(got.error());
      if (!*got) {
        avcodec_send_packet(decoder->get(), nullptr);
        ended = true;
        continue;
      }
      if (packet->stream_index == m_index.pictureStream) {
        packet->pts = next++; // comes out with the picture
        if (packet->size > 0) (void)avcodec_send_packet(decoder->get(), packet.get());
      }
      av_packet_unref(packet.get());
    }
    return order;
  }

  [[nodiscard]] tl::unexpected<Error> nothing() const {
    return fail(ErrorCode::NotMedia, say("no picture of the file can be decoded"), m_path,
                say("The file may be damaged"));
  }

  struct Followed {
    int64_t position = -1; ///< of its last packet that has one
    bool begun = false;
    int64_t next = 0; ///< stamp that the stream's next packet should have, jumps taken in
    size_t jumps = 0; ///< that its packets have passed
  };
  std::string m_path;
  std::stop_token m_stop;
  FileIndex m_index;
  int64_t m_lastDecode = kNone; ///< with its jump's shift
  Rational m_tick{1};
  std::vector<FrameRate> m_declared;
  bool m_inOrder = false;   ///< the codec shows pictures in the order in which it codes them
  bool m_reordered = false; ///< this stream does not
  std::vector<Packet> m_packets;
  int64_t m_lastStamp = kNone;
  std::map<int, Followed> m_followed;
};

} // namespace

int64_t FileIndex::shiftAt(int64_t position) const {
  if (jumps.empty()) return 0;
  const auto later =
      std::upper_bound(jumps.begin(), jumps.end(), position, [](int64_t p, const Jump& j) { return p < j.position; });
  return later == jumps.begin() ? 0 : (later - 1)->shift;
}

const FileIndex::Key* FileIndex::keyBefore(int64_t number) const {
  const auto later =
      std::upper_bound(keys.begin(), keys.end(), number, [](int64_t n, const Key& key) { return n < key.number; });
  return later == keys.begin() ? nullptr : &*(later - 1);
}

const FileIndex::Sound* FileIndex::soundOf(int stream) const {
  const auto at = std::find_if(sounds.begin(), sounds.end(), [stream](const Sound& s) { return s.stream == stream; });
  return at == sounds.end() ? nullptr : &*at;
}

Result<FileIndex> buildIndex(const std::string& path, int pictureStream, std::stop_token stop) {
  return IndexBuilder(path, pictureStream, std::move(stop)).build();
}

} // namespace tromb
