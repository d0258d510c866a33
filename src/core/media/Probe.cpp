// SPDX-License-Identifier: GPL-3.0-or-later
#include "geometry/LegalSize.h"
#include "media/Av.h"
#include "media/MediaInfo.h"

#include <algorithm>
#include <cmath>
#include <filesystem>
#include <nlohmann/json.hpp>

namespace tromb {
namespace {

constexpr int kPacketsToJudge = 1500; ///< enough to tell a variable rate where the file has no complete index

int rotationOf(const AVStream& stream) {
  const auto* matrix =
      reinterpret_cast<const int32_t*>(av_stream_get_side_data(&stream, AV_PKT_DATA_DISPLAYMATRIX, nullptr));
  if (!matrix) return 0;
  // FFmpeg counts counter-clockwise.
  const double turn = -av_display_rotation_get(matrix);
  return std::isnan(turn) ? 0 : ((int(std::lround(turn / 90)) % 4 + 4) % 4) * 90;
}

Scan scanOf(AVFieldOrder order) {
  if (order == AV_FIELD_TT || order == AV_FIELD_TB) return Scan::TopFieldFirst;
  if (order == AV_FIELD_BB || order == AV_FIELD_BT) return Scan::BottomFieldFirst;
  return Scan::Progressive;
}

/// The exact rate that a measured one means: a named rate within 0.04 %, else the fraction itself.
Result<FrameRate> exactRate(const AVStream& stream, const std::string& path) {
  for (const AVRational guess : {stream.avg_frame_rate, stream.r_frame_rate}) {
    if (guess.num <= 0 || guess.den <= 0) continue;
    const double rate = av_q2d(guess);
    for (const FrameRate& named : FrameRate::offered())
      if (std::abs(named.toDouble() / rate - 1) < 0.0004) return named;
    if (rate <= 1000) return FrameRate(av::rational(guess));
  }
  return fail(ErrorCode::Unreadable, "the frame rate cannot be told", path, "The file may be damaged");
}

/// True when the times keep to the rate, give or take the rounding of the file's clock.
bool keepsRate(const std::vector<int64_t>& times, const Rational& tick, const FrameRate& rate) {
  const double frame = rate.frameDuration().toDouble() / tick.toDouble();
  const double slack = std::max(1.01, frame * 0.02);
  for (size_t i = 0; i < times.size(); ++i)
    if (std::abs(double(times[i] - times[0]) - double(i) * frame) > slack) return false;
  return true;
}

/// The container's own table of shown frames, in decoding order; empty where it keeps none for every frame.
Result<std::vector<int64_t>> indexedTimes(AVStream& stream, int64_t fileSize, const std::string& path) {
  std::vector<int64_t> times;
  const int count = avformat_index_get_entries_count(&stream);
  for (int i = 0; i < count; ++i) {
    const AVIndexEntry* entry = avformat_index_get_entry(&stream, i);
    if (entry->pos + entry->size > fileSize)
      return fail(ErrorCode::Unreadable, "the file is cut off: its index names data beyond its end", path,
                  "Copy it again from where it was recorded");
    if (!(entry->flags & AVINDEX_DISCARD_FRAME)) times.push_back(entry->timestamp);
  }
  return times;
}

/// Presentation times of the stream's packets from the start, ascending; at most `most` of them.
std::vector<int64_t> scannedTimes(AVFormatContext& input, const AVStream& stream, size_t most) {
  std::vector<int64_t> times;
  const av::PacketPtr packet(av_packet_alloc());
  avformat_seek_file(&input, stream.index, INT64_MIN, INT64_MIN, INT64_MAX, AVSEEK_FLAG_BACKWARD);
  while (times.size() < most && av_read_frame(&input, packet.get()) >= 0) {
    if (packet->stream_index == stream.index && packet->pts != AV_NOPTS_VALUE && !(packet->flags & AV_PKT_FLAG_DISCARD))
      times.push_back(packet->pts);
    av_packet_unref(packet.get());
  }
  std::sort(times.begin(), times.end());
  times.erase(std::unique(times.begin(), times.end()), times.end());
  return times;
}

Result<FrameClock> clockOf(AVFormatContext& input, AVStream& stream, int64_t fileSize, const std::string& path) {
  const auto rate = exactRate(stream, path);
  if (!rate) return tl::unexpected(rate.error());
  const Rational tick = av::rational(stream.time_base);
  const bool wholeIndex = std::string_view(input.iformat->name).starts_with("mov");
  bool constant = false;
  int64_t count = stream.nb_frames;
  if (wholeIndex) {
    const auto times = indexedTimes(stream, fileSize, path);
    if (!times) return tl::unexpected(times.error());
    constant = keepsRate(*times, tick, *rate);
    count = int64_t(times->size());
  } else {
    auto times = scannedTimes(input, stream, kPacketsToJudge);
    // Cut off in the middle of reordered pictures, the last few may have holes.
    if (times.size() >= kPacketsToJudge)
      times.resize(times.size() - 32);
    else
      count = int64_t(times.size());
    constant = keepsRate(times, tick, *rate);
  }
  if (count <= 0 && input.duration > 0) count = (Rational(input.duration, AV_TIME_BASE) * rate->value()).nearest();
  if (count <= 0) return fail(ErrorCode::NotMedia, "the picture stream holds no frames", path);
  if (constant) return FrameClock(*rate, count);

  auto ticks = scannedTimes(input, stream, SIZE_MAX);
  if (ticks.empty()) return fail(ErrorCode::NotMedia, "the picture stream holds no frames", path);
  const int64_t first = ticks.front();
  for (int64_t& t : ticks) t -= first;
  return FrameClock(std::move(ticks), tick, *rate);
}

Result<VideoInfo> videoInfo(AVFormatContext& input, AVStream& stream, bool still, const MediaInfo& info) {
  const AVCodecParameters& par = *stream.codecpar;
  const auto format = AVPixelFormat(par.format);
  const AVPixFmtDescriptor* pixels = av_pix_fmt_desc_get(format);
  if (par.width <= 0 || par.height <= 0 || !pixels)
    return fail(ErrorCode::Unreadable, "the picture's size or pixel format cannot be told", info.path,
                "The file may be damaged");
  if (par.width > kLargestSide || par.height > kLargestSide)
    return fail(ErrorCode::Unsupported,
                "a picture of " + std::to_string(par.width) + "×" + std::to_string(par.height) + " is too large",
                info.path, "The largest side is " + std::to_string(kLargestSide) + " pixels");
  VideoInfo video;
  video.stream = stream.index;
  video.codec = avcodec_get_name(par.codec_id);
  if (const char* profile = avcodec_profile_name(par.codec_id, par.profile)) video.profile = profile;
  video.level = par.level > 0 ? par.level : 0;
  video.stored = {par.width, par.height};
  const AVRational aspect = av_guess_sample_aspect_ratio(&input, &stream, nullptr);
  if (aspect.num > 0 && aspect.den > 0 && !still) video.pixelAspect = av::rational(aspect);
  if (video.pixelAspect > Rational(16) || video.pixelAspect < Rational(1, 16)) video.pixelAspect = Rational(1);
  video.rotation = rotationOf(stream);
  video.scan = scanOf(par.field_order);
  video.pixelFormat = pixels->name;
  video.bitDepth = pixels->comp[0].depth;
  video.alpha = (pixels->flags & AV_PIX_FMT_FLAG_ALPHA) != 0;
  video.colour = {par.color_primaries, par.color_trc, par.color_space,
                  par.color_range == AVCOL_RANGE_JPEG || std::string_view(pixels->name).starts_with("yuvj")};
  video.bitRate = par.bit_rate;
  if (still) {
    video.clock = FrameClock(FrameRate(), 1);
    return video;
  }
  auto clock = clockOf(input, stream, info.sizeBytes, info.path);
  if (!clock) return tl::unexpected(clock.error());
  video.clock = *clock;
  return video;
}

AudioInfo audioInfo(const AVStream& stream) {
  const AVCodecParameters& par = *stream.codecpar;
  AudioInfo audio;
  audio.stream = stream.index;
  audio.codec = avcodec_get_name(par.codec_id);
  if (const char* profile = avcodec_profile_name(par.codec_id, par.profile)) audio.profile = profile;
  audio.channels = par.ch_layout.nb_channels;
  std::string layout(64, '\0');
  av_channel_layout_describe(&par.ch_layout, layout.data(), layout.size());
  audio.layout = layout.c_str();
  audio.sampleRate = par.sample_rate;
  audio.bitRate = par.bit_rate;
  return audio;
}

std::string wordOr(const char* name) {
  return name ? name : "unknown";
}

} // namespace

Result<MediaInfo> probe(const std::string& path) {
  auto opened = av::openInput(path);
  if (!opened) return tl::unexpected(opened.error());
  AVFormatContext& input = **opened;
  MediaInfo info;
  info.path = path;
  const std::string_view names = input.iformat->name;
  info.container = names.substr(0, names.find(','));
  std::error_code ignored;
  info.sizeBytes = int64_t(std::filesystem::file_size(path, ignored));
  const bool still = names.ends_with("_pipe") || names == "image2";

  for (unsigned i = 0; i < input.nb_streams; ++i) {
    AVStream& stream = *input.streams[i];
    if (stream.codecpar->codec_type == AVMEDIA_TYPE_AUDIO && stream.codecpar->sample_rate > 0)
      info.audio.push_back(audioInfo(stream));
  }
  const int best = av_find_best_stream(&input, AVMEDIA_TYPE_VIDEO, -1, -1, nullptr, 0);
  if (best >= 0 && !(input.streams[best]->disposition & AV_DISPOSITION_ATTACHED_PIC)) {
    auto video = videoInfo(input, *input.streams[best], still, info);
    if (!video) return tl::unexpected(video.error());
    info.video = *video;
  }
  if (!info.video && info.audio.empty())
    return fail(ErrorCode::NotMedia, "the file holds neither picture nor sound", path);
  info.kind = !info.video ? MediaKind::Audio : still ? MediaKind::Still : MediaKind::Video;
  if (info.kind == MediaKind::Video) {
    const FrameClock& clock = info.video->clock;
    info.duration = clock.timeOf(clock.frameCount() - 1) + clock.rate().frameDuration();
  } else if (info.kind == MediaKind::Audio) {
    if (input.duration <= 0) return fail(ErrorCode::NotMedia, "the sound has no length", path);
    info.duration = Rational(input.duration, AV_TIME_BASE);
  }
  return info;
}

const char* scanWord(Scan scan) {
  return scan == Scan::Progressive ? "progressive" : scan == Scan::TopFieldFirst ? "tff" : "bff";
}

nlohmann::ordered_json toJson(const MediaInfo& info) {
  using json = nlohmann::ordered_json;
  static const char* const kKinds[] = {"video", "still", "audio"};
  json object{{"path", info.path},
              {"kind", kKinds[int(info.kind)]},
              {"container", info.container},
              {"durationSeconds", info.duration.toDouble()},
              {"sizeBytes", info.sizeBytes}};
  if (info.video) {
    const VideoInfo& v = *info.video;
    const SizeF upright = v.shape().uprightWithBars();
    object["video"] = {{"codec", v.codec},
                       {"profile", v.profile},
                       {"level", v.level},
                       {"width", v.stored.width},
                       {"height", v.stored.height},
                       {"displayWidth", int(std::lround(upright.width))},
                       {"displayHeight", int(std::lround(upright.height))},
                       {"pixelAspect", v.pixelAspect.toString()},
                       {"rotation", v.rotation},
                       {"frameRate", v.clock.rate().value().toString()},
                       {"variableFrameRate", v.clock.variable()},
                       {"frameCount", v.clock.frameCount()},
                       {"scan", scanWord(v.scan)},
                       {"pixelFormat", v.pixelFormat},
                       {"bitDepth", v.bitDepth},
                       {"colour",
                        {{"primaries", wordOr(av_color_primaries_name(AVColorPrimaries(v.colour.primaries)))},
                         {"transfer", wordOr(av_color_transfer_name(AVColorTransferCharacteristic(v.colour.transfer)))},
                         {"matrix", wordOr(av_color_space_name(AVColorSpace(v.colour.matrix)))},
                         {"range", v.colour.fullRange ? "full" : "limited"}}},
                       {"hdr", v.hdr()},
                       {"bitRate", v.bitRate}};
  }
  object["audio"] = json::array();
  for (const AudioInfo& a : info.audio)
    object["audio"].push_back({{"codec", a.codec},
                               {"channels", a.channels},
                               {"layout", a.layout},
                               {"sampleRate", a.sampleRate},
                               {"bitRate", a.bitRate}});
  return object;
}

} // namespace tromb
