// SPDX-License-Identifier: GPL-3.0-or-later
#include "media/read/Probe.h"

#include "geometry/LegalSize.h"
#include "media/Av.h"
#include "media/SoundFormat.h"
#include "media/read/BoxList.h"
#include "media/read/ChannelMix.h"
#include "media/read/ExifOrientation.h"
#include "media/read/FileIndex.h"
#include "media/read/Fingerprint.h"
#include "time/Ticks.h"

#include <algorithm>
#include <cmath>
#include <new>
#include <nlohmann/json.hpp>
#include <stdexcept>

namespace tromb {
namespace {

constexpr int kMostPacketsToFirst = 1000; ///< of all streams, until a decoder gives its first picture

/// How a display matrix (ISO/IEC 14496-12, 6.2.2) turns the stored picture, and then mirrors it.
struct Turned {
  int rotation = 0;
  bool mirrored = false;
};

Turned turnedBy(const int32_t* matrix) {
  // A point (x, y) is shown at (a·x + c·y, b·x + d·y). Mirroring comes last, so taking it back changes a and c.
  double a = matrix[0];
  double b = matrix[1];
  double c = matrix[3];
  const double d = matrix[4];
  const bool mirrored = a * d - b * c < 0;
  if (mirrored) a = -a;
  if (a == 0 && b == 0) return {};
  const int rotation = std::abs(a) >= std::abs(b) ? (a > 0 ? 0 : 180) : (b > 0 ? 90 : 270);
  return {rotation, mirrored};
}

Turned turnedBy(const AVStream& stream) {
  size_t bytes = 0;
  const uint8_t* matrix = av_stream_get_side_data(&stream, AV_PKT_DATA_DISPLAYMATRIX, &bytes);
  return matrix && bytes >= 9 * sizeof(int32_t) ? turnedBy(reinterpret_cast<const int32_t*>(matrix)) : Turned{};
}

Scan scanOf(AVFieldOrder order) {
  if (order == AV_FIELD_TT || order == AV_FIELD_TB) return Scan::TopFieldFirst;
  if (order == AV_FIELD_BB || order == AV_FIELD_BT) return Scan::BottomFieldFirst;
  return Scan::Progressive;
}

/// The container's own table of pictures, where it has one for all of them.
struct Table {
  std::vector<int64_t> times; ///< of decoding, in the stream's ticks, ascending; pictures that an edit leaves out too
  int64_t shown = 0;          ///< pictures that no edit leaves out
};

Result<std::optional<Table>> tableOf(const av::InputFile& file, AVStream& stream) {
  const bool mp4 = std::string_view(file.context().iformat->name).starts_with("mov");
  const int count = avformat_index_get_entries_count(&stream);
  if (!mp4 || count <= 0 || stream.nb_frames <= 0) return std::nullopt;
  // Recorded in fragments: the table grows while the file is read.
  const auto boxes = topBoxes(file.path());
  if (std::any_of(boxes.begin(), boxes.end(), [](const Box& box) { return box.is("moof"); })) return std::nullopt;
  Table table;
  for (int i = 0; i < count; ++i) {
    const AVIndexEntry* entry = avformat_index_get_entry(&stream, i);
    if (entry->pos + entry->size > file.sizeBytes())
      return fail(ErrorCode::Unreadable, say("the file is cut off: its index names data beyond its end"), file.path(),
                  say("Copy it again from where it was recorded"));
    table.times.push_back(entry->timestamp - (table.times.empty() ? 0 : table.times.front()));
    if (!(entry->flags & AVINDEX_DISCARD_FRAME)) ++table.shown;
  }
  table.times.front() = 0;
  if (!std::is_sorted(table.times.begin(), table.times.end())) return std::nullopt;
  return table;
}

/// True for a packet that holds an IDR picture of H.264, as MP4 stores them: each unit behind its length, for which the
/// codec's configuration record gives the number of bytes (ISO/IEC 14496-15). Pictures behind it in the file are shown
/// after it, since the order of pictures is counted from it (Rec. ITU-T H.264, 8.2.1).
bool holdsIdr(const AVPacket& packet, const AVCodecParameters& codec) {
  constexpr int kIdrSlice = 5;
  if (codec.codec_id != AV_CODEC_ID_H264 || codec.extradata_size < 7 || codec.extradata[0] != 1) return false;
  const int lengthBytes = (codec.extradata[4] & 3) + 1;
  for (int64_t at = 0; at + lengthBytes < packet.size;) {
    int64_t length = 0;
    for (int i = 0; i < lengthBytes; ++i) length = length << 8 | packet.data[at + i];
    const int kind = packet.data[at + lengthBytes] & 31;
    if (kind == kIdrSlice) return true;
    if (kind >= 1 && kind < kIdrSlice) return false; // a slice of another picture
    at += lengthBytes + length;
  }
  return false;
}

/// The stamp of the first picture that decoding gives; empty where it gives none soon, and where packets of pictures
/// that are reordered claim to be shown when they are decoded.
Result<std::optional<int64_t>> firstShown(av::InputFile& file, const AVStream& stream) {
  auto decoder = av::openDecoder(stream, file.path(), 1);
  if (!decoder) return tl::unexpected(decoder.error());
  const av::PacketPtr packet(av::allocated(av_packet_alloc()));
  const av::FramePtr frame(av::allocated(av_frame_alloc()));
  int packets = 0;
  bool reordered = false;
  for (int tries = 0; tries < kMostPacketsToFirst; ++tries) {
    const int native = avcodec_receive_frame(decoder->get(), frame.get());
    if (native == 0 && frame->pts != AV_NOPTS_VALUE && (reordered || packets < 2)) return std::optional(frame->pts);
    if (native == 0) return std::nullopt;
    if (native == AVERROR_EOF) return std::nullopt;
    if (native != AVERROR(EAGAIN)) continue;
    const auto got = file.read(*packet);
    if (!got) return tl::unexpected(got.error());
    if (!*got || packet->stream_index == stream.index) {
      if (*got) {
        ++packets;
        reordered = reordered || packet->pts != packet->dts;
        // Nothing can come before it, so nothing needs to be decoded: of some footage that takes a quarter of a second.
        const bool shown = packet->pts != AV_NOPTS_VALUE && !(packet->flags & AV_PKT_FLAG_DISCARD);
        if (packets == 1 && reordered && shown && holdsIdr(*packet, *stream.codecpar))
          return std::optional(packet->pts);
      }
      (void)avcodec_send_packet(decoder->get(), *got ? packet.get() : nullptr);
    }
    av_packet_unref(packet.get());
  }
  return std::nullopt;
}

/// The file's index: kept from another time, or made now.
Result<std::shared_ptr<const FileIndex>> indexOf(const std::string& path, int stream, const ProbeOptions& options) {
  const IndexStore store(options.indexFolder);
  const auto print = options.indexFolder.empty() ? Result<std::string>("") : fingerprintOf(path);
  if (!print) return tl::unexpected(print.error());
  if (auto kept = store.find(*print, stream)) return std::make_shared<const FileIndex>(std::move(*kept));
  auto made = buildIndex(path, stream, options.stop);
  if (!made) return tl::unexpected(made.error());
  store.keep(*print, *made);
  return std::make_shared<const FileIndex>(std::move(*made));
}

/// When the pictures are shown. Taken from the container's table where that tells it for sure, else from an index.
Status placeInTime(av::InputFile& file, AVStream& stream, const ProbeOptions& options, MediaInfo& info) {
  VideoInfo& video = *info.video;
  const Rational tick = av::rational(stream.time_base);
  auto table = tableOf(file, stream);
  if (!table) return tl::unexpected(table.error());
  if (*table && (*table)->shown > 0) {
    FrameClock clock = FrameClock::fromStamps((*table)->times, tick, av::declaredRates(stream));
    const bool reordered = stream.codecpar->video_delay > 0;
    video.firstStamp = av::sensible(stream.start_time, stream) ? stream.start_time : 0;
    // Where pictures are shown in the order in which they are coded, the table is one of showing, too. Else it tells
    // a constant rate, and whether the first picture leans on one that is not there must be seen.
    bool certain = !clock.variable() || ((*table)->shown == clock.frameCount() && !reordered);
    if (certain && reordered) {
      const auto first = firstShown(file, stream);
      if (!first) return tl::unexpected(first.error());
      certain = *first == video.firstStamp;
    }
    if (certain) {
      video.clock = clock.variable() ? clock : FrameClock(clock.rate(), (*table)->shown);
      return {};
    }
  }
  auto index = indexOf(info.path, stream.index, options);
  if (!index) return tl::unexpected(index.error());
  info.index = *index;
  video.clock = info.index->clock;
  video.firstStamp = info.index->firstStamp;
  return {};
}

Result<VideoInfo> videoInfo(AVFormatContext& input, AVStream& stream, bool still, const MediaInfo& info) {
  const AVCodecParameters& par = *stream.codecpar;
  const auto format = AVPixelFormat(par.format);
  const AVPixFmtDescriptor* pixels = av_pix_fmt_desc_get(format);
  if (par.width <= 0 || par.height <= 0 || !pixels)
    return fail(ErrorCode::Unreadable, say("the picture's size or pixel format cannot be told"), info.path,
                say("The file may be damaged"));
  if (par.width > kLargestSide || par.height > kLargestSide)
    return fail(ErrorCode::Unsupported, say("a picture of %1×%2 is too large", par.width, par.height), info.path,
                say("The largest side is %1 pixels", kLargestSide));
  VideoInfo video;
  video.stream = stream.index;
  video.codec = avcodec_get_name(par.codec_id);
  if (const char* profile = avcodec_profile_name(par.codec_id, par.profile)) video.profile = profile;
  if (const auto* light = reinterpret_cast<const AVContentLightMetadata*>(
          av_stream_get_side_data(&stream, AV_PKT_DATA_CONTENT_LIGHT_LEVEL, nullptr)))
    video.light = {int(std::min(light->MaxCLL, 10'000U)), int(std::min(light->MaxFALL, 10'000U))};
  video.level = par.level > 0 ? par.level : 0;
  video.stored = {par.width, par.height};
  const AVRational aspect = av_guess_sample_aspect_ratio(&input, &stream, nullptr);
  if (aspect.num > 0 && aspect.den > 0 && !still) video.pixelAspect = av::rational(aspect);
  if (video.pixelAspect > Rational(16) || video.pixelAspect < Rational(1, 16)) video.pixelAspect = Rational(1);
  const Turned turned = turnedBy(stream);
  video.rotation = turned.rotation;
  video.mirrored = turned.mirrored;
  video.scan = scanOf(par.field_order);
  video.pixelFormat = pixels->name;
  video.bitDepth = pixels->comp[0].depth;
  video.alpha = (pixels->flags & AV_PIX_FMT_FLAG_ALPHA) != 0 || av::saysTransparent(stream);
  video.colour = {par.color_primaries, par.color_trc, par.color_space,
                  par.color_range == AVCOL_RANGE_JPEG || std::string_view(pixels->name).starts_with("yuvj")};
  video.bitRate = par.bit_rate;
  return video;
}

AudioInfo audioInfo(const AVStream& stream) {
  const AVCodecParameters& par = *stream.codecpar;
  AudioInfo audio;
  audio.stream = stream.index;
  audio.preferred = (stream.disposition & AV_DISPOSITION_DEFAULT) != 0;
  for (const char* key : {"title", "language"})
    if (const AVDictionaryEntry* entry = av_dict_get(stream.metadata, key, nullptr, 0); entry && audio.title.empty())
      if (std::string_view(entry->value) != "und") audio.title = entry->value;
  audio.codec = avcodec_get_name(par.codec_id);
  if (const char* profile = avcodec_profile_name(par.codec_id, par.profile)) audio.profile = profile;
  audio.channels = par.ch_layout.nb_channels;
  std::string layout(64, '\0');
  av_channel_layout_describe(&par.ch_layout, layout.data(), layout.size());
  audio.layout = layout.c_str();
  audio.sampleRate = par.sample_rate;
  audio.bitRate = par.bit_rate;
  audio.downMixDb = ChannelMix(par.ch_layout, kStereo).loweredDb();
  return audio;
}

/// The stream whose pictures are shown: not the cover of a piece of music.
AVStream* pictureStream(AVFormatContext& input) {
  const auto shows = [](const AVStream& stream) {
    return stream.codecpar->codec_type == AVMEDIA_TYPE_VIDEO && !(stream.disposition & AV_DISPOSITION_ATTACHED_PIC);
  };
  const int best = av_find_best_stream(&input, AVMEDIA_TYPE_VIDEO, -1, -1, nullptr, 0);
  if (best >= 0 && shows(*input.streams[best])) return input.streams[best];
  for (unsigned i = 0; i < input.nb_streams; ++i)
    if (shows(*input.streams[i])) return input.streams[i];
  return nullptr;
}

/// What the file says the first picture's label is: of the picture's stream, one beside it, or of the whole.
std::optional<SourceTimecode> timecodeOf(const AVFormatContext& input, const AVStream& picture,
                                         const FrameClock& clock) {
  if (clock.variable()) return {};
  const auto said = [&](const AVDictionary* of) -> std::optional<SourceTimecode> {
    const AVDictionaryEntry* entry = av_dict_get(of, "timecode", nullptr, 0);
    return entry ? SourceTimecode::parse(entry->value, clock.rate()) : std::nullopt;
  };
  if (const auto own = said(picture.metadata)) return own;
  for (unsigned i = 0; i < input.nb_streams; ++i)
    if (const auto beside = said(input.streams[i]->metadata)) return beside;
  return said(input.metadata);
}

Result<MediaInfo> senseless(const std::string& path) {
  return fail(ErrorCode::Unreadable, say("its time stamps make no sense"), path,
              say("The file may be damaged: copy it again from where it was recorded"));
}

/// `probe`, but for times that are too large to reckon with.
Result<MediaInfo> factsOf(const std::string& path, const ProbeOptions& options) {
  auto opened = av::InputFile::open(path, options.stop);
  if (!opened) return tl::unexpected(opened.error());
  AVFormatContext& input = opened->context();
  MediaInfo info;
  info.path = path;
  const std::string_view names = input.iformat->name;
  info.container = names.substr(0, names.find(','));
  info.sizeBytes = opened->sizeBytes();
  info.parameters = opened->parameters();
  const bool still = names.ends_with("_pipe");

  for (unsigned i = 0; i < input.nb_chapters; ++i) {
    const AVChapter& mark = *input.chapters[i];
    const Rational tick = av::rational(mark.time_base);
    constexpr int64_t kMostStamp = INT64_MAX / 1'000'000; // beyond, it is damage
    if (std::abs(mark.start) > kMostStamp || std::abs(mark.end) > kMostStamp || tick <= Rational(0)) continue;
    const AVDictionaryEntry* title = av_dict_get(mark.metadata, "title", nullptr, 0);
    info.chapters.push_back({Rational(mark.start) * tick, Rational(mark.end) * tick, title ? title->value : ""});
  }
  for (unsigned i = 0; i < input.nb_streams; ++i) {
    AVStream& stream = *input.streams[i];
    if (stream.codecpar->codec_type == AVMEDIA_TYPE_AUDIO && stream.codecpar->sample_rate > 0)
      info.audio.push_back(audioInfo(stream));
  }
  if (AVStream* picture = pictureStream(input)) {
    auto video = videoInfo(input, *picture, still, info);
    if (!video) return tl::unexpected(video.error());
    info.video = *video;
    info.kind = still ? MediaKind::Still : MediaKind::Video;
    if (still) {
      info.video->clock = FrameClock(FrameRate(), 1);
      const StillOrientation upright = stillOrientation(path);
      info.video->rotation = upright.rotation;
      info.video->mirrored = upright.mirrored;
      return info;
    }
    if (const Status placed = placeInTime(*opened, *picture, options, info); !placed)
      return tl::unexpected(placed.error());
    info.video->timecode = timecodeOf(input, *picture, info.video->clock);
    info.duration = info.video->clock.duration();
    info.begin = Rational(info.video->firstStamp) * av::rational(picture->time_base);
    return info;
  }
  if (info.audio.empty()) return fail(ErrorCode::NotMedia, say("the file holds neither picture nor sound"), path);
  info.kind = MediaKind::Audio;
  const AVStream& first = *input.streams[info.audio[size_t(usualSound(info.audio).front())].stream];
  const Rational tick = av::rational(first.time_base);
  if (av::sensible(first.start_time, first)) info.begin = Rational(first.start_time) * tick;
  info.duration = Rational(std::max<int64_t>(0, input.duration), AV_TIME_BASE);
  if (input.duration <= 0 || input.duration_estimation_method == AVFMT_DURATION_FROM_BITRATE ||
      opened->clockMayJump()) {
    auto index = indexOf(path, -1, options); // what it says of its length is a guess
    if (!index) return tl::unexpected(index.error());
    info.index = *index;
    if (const FileIndex::Sound* sound = info.index->soundOf(first.index)) {
      info.begin = Rational(sound->first) * tick;
      info.duration = Rational(sound->end - sound->first) * tick;
    }
  }
  if (info.duration <= Rational(0)) return fail(ErrorCode::NotMedia, say("the sound has no length"), path);
  return info;
}

} // namespace

Result<MediaInfo> probe(const std::string& path, const ProbeOptions& options) {
  try {
    auto info = factsOf(path, options);
    return info && info->duration > kLongest ? senseless(path) : info;
  } catch (const std::overflow_error&) {
    return senseless(path);
  } catch (const std::bad_alloc&) {
    return av::memoryRefused(path);
  }
}

} // namespace tromb
