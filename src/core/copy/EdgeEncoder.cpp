// SPDX-License-Identifier: GPL-3.0-or-later
#include "copy/EdgeEncoder.h"

#include "Printed.h"
#include "media/Av.h"

#include <algorithm>

extern "C" {
#include <libavutil/cpu.h>
}

namespace tromb {
namespace {

/// x264's name of a profile, as FFmpeg numbers them; empty where it has none.
const char* profileName(int profile) {
  switch (profile & ~FF_PROFILE_H264_INTRA) {
  case FF_PROFILE_H264_BASELINE:
  case FF_PROFILE_H264_CONSTRAINED_BASELINE:
    return "baseline";
  case FF_PROFILE_H264_MAIN:
    return "main";
  case FF_PROFILE_H264_HIGH:
    return "high";
  case FF_PROFILE_H264_HIGH_10:
    return "high10";
  case FF_PROFILE_H264_HIGH_422:
    return "high422";
  case FF_PROFILE_H264_HIGH_444_PREDICTIVE:
    return "high444";
  default:
    return "";
  }
}

void setX264(AVCodecContext& c, int profileNumber, double crf) {
  const char* profile = profileName(profileNumber);
  if (*profile) av_opt_set(c.priv_data, "profile", profile, 0);
  av_opt_set(c.priv_data, "preset", "superfast", 0);
  av_opt_set(c.priv_data, "crf", printed("%.1f", crf).c_str(), 0);
  // Stitchable: headers do not depend on the pictures. The instructions: see EncoderOptions.cpp.
  std::string parameters = "stitchable=1:scenecut=0";
  if (std::string_view(profile).starts_with("high")) parameters += ":8x8dct=1";
  if (std::string_view(profile) == "main") parameters += ":cabac=1";
  if (av_get_cpu_flags() & AV_CPU_FLAG_AVX512) parameters += ":asm=AVX2,FMA3,BMI1,BMI2,LZCNT";
  av_opt_set(c.priv_data, "x264-params", parameters.c_str(), 0);
}

/// Levels are thirty times their number (Rec. ITU-T H.265, A.4.1), as x265 wants ten times it.
constexpr int kLevelTimes = 3;
void setX265(AVCodecContext& c, const AVCodecParameters& like, const SequenceSet& set, double crf) {
  av_opt_set(c.priv_data, "preset", "superfast", 0);
  av_opt_set(c.priv_data, "crf", printed("%.1f", crf).c_str(), 0);
  std::string parameters = "log-level=none:scenecut=0:info=0:open-gop=0:repeat-headers=0";
  if (like.level > 0) parameters += ":level-idc=" + std::to_string(like.level / kLevelTimes);
  // Blocks as they are: coded sides are multiples of the smallest, and decoders may drop what they have not shown yet
  // where these change (C.5.2.2). libde265 spoils the last picture before another size of the largest.
  if (set.leastUnit > 0)
    parameters += ":min-cu-size=" + std::to_string(set.leastUnit) + ":ctu=" + std::to_string(set.largestUnit);
  av_opt_set(c.priv_data, "x265-params", parameters.c_str(), 0);
}

void setVpx(AVCodecContext& c, double crf) {
  c.bit_rate = 0;
  av_opt_set(c.priv_data, "crf", printed("%.0f", crf).c_str(), 0);
  av_opt_set(c.priv_data, "deadline", "good", 0);
  av_opt_set(c.priv_data, "cpu-used", "3", 0);
  av_opt_set(c.priv_data, "auto-alt-ref", "0", 0); // a packet for each picture
  av_opt_set(c.priv_data, "lag-in-frames", "0", 0);
}

} // namespace

const char* edgeEncoder(std::string_view codec) {
  return codec == "h264" ? "libx264" : codec == "hevc" ? "libx265" : codec == "vp9" ? "libvpx-vp9" : "";
}

struct EdgeEncoder::State {
  av::CodecPtr context;
  std::string path;
  std::string codec;
  SetNumbers numbers;
  std::string headers; ///< as they are told
  av::PacketPtr packet{av::allocated(av_packet_alloc())};
  av::FramePtr frame{av::allocated(av_frame_alloc())};
  int64_t count = 0;

  [[nodiscard]] bool numbered() const { return unitFraming(codec, {}).has_value(); }

  Status hand(std::span<const uint8_t> made, const Sink& sink) const {
    if (!numbered()) return sink(made);
    const auto units = renumbered(codec, made, numbers);
    if (!units) return fail(ErrorCode::Encoder, say("pictures at a cut cannot be joined to the others"), path);
    return sink(bytesIn(*units));
  }

  Status send(const AVFrame* picture, const Sink& sink) {
    int native = avcodec_send_frame(context.get(), picture);
    while (native >= 0) {
      native = avcodec_receive_packet(context.get(), packet.get());
      if (native == AVERROR(EAGAIN) || native == AVERROR_EOF) return {};
      if (native < 0) break;
      const Status taken = hand({packet->data, size_t(packet->size)}, sink);
      av_packet_unref(packet.get());
      if (!taken) return taken;
    }
    return fail(ErrorCode::Encoder, say("pictures at a cut cannot be encoded (%1)", av::text(native)), path);
  }
};

EdgeEncoder::EdgeEncoder(std::unique_ptr<State> state) : m_state(std::move(state)) {}
EdgeEncoder::EdgeEncoder(EdgeEncoder&&) noexcept = default;
EdgeEncoder& EdgeEncoder::operator=(EdgeEncoder&&) noexcept = default;
EdgeEncoder::~EdgeEncoder() = default;

Result<EdgeEncoder> EdgeEncoder::open(const AVStream& like, const VideoInfo& video, int pixelFormat,
                                      const SequenceSet& set, const SetNumbers& numbers, double crf,
                                      const std::string& path) {
  const AVCodec* codec = avcodec_find_encoder_by_name(edgeEncoder(video.codec));
  if (!codec) return fail(ErrorCode::Encoder, say("this system's FFmpeg has no encoder for it"), path);
  av::CodecPtr c(av::allocated(avcodec_alloc_context3(codec)));
  const AVCodecParameters& p = *like.codecpar;
  c->width = p.width;
  c->height = p.height;
  c->pix_fmt = AVPixelFormat(pixelFormat);
  c->sample_aspect_ratio = p.sample_aspect_ratio;
  c->color_range = p.color_range;
  c->color_primaries = p.color_primaries;
  c->color_trc = p.color_trc;
  c->colorspace = p.color_space;
  c->chroma_sample_location = p.chroma_location;
  c->framerate = av::rational(video.clock.rate().value());
  c->time_base = av_inv_q(c->framerate);
  c->max_b_frames = 0;                   // what is decoded is shown: the stamps go on as those of the others do
  c->refs = std::max(1, set.references); // decoders may drop what they have not shown yet where this changes (C.4.4)
  c->gop_size = INT32_MAX;
  c->thread_count = 0; // as many as there are processors
  c->flags |= AV_CODEC_FLAG_GLOBAL_HEADER;
  if (video.codec == "h264" && p.level > 0) c->level = p.level;
  if (video.codec == "h264")
    setX264(*c, p.profile, crf);
  else if (video.codec == "hevc")
    setX265(*c, p, set, crf);
  else
    setVpx(*c, crf);
  const int native = avcodec_open2(c.get(), codec, nullptr);
  if (native < 0)
    return fail(ErrorCode::Encoder, say("pictures at a cut cannot be encoded (%1)", av::text(native)), path);
  auto state = std::make_unique<State>();
  state->path = path;
  state->codec = video.codec;
  state->numbers = numbers;
  if (state->numbered()) {
    const auto headers = renumbered(video.codec, {c->extradata, size_t(c->extradata_size)}, numbers);
    if (!headers) return fail(ErrorCode::Encoder, say("pictures at a cut cannot be joined to the others"), path);
    state->headers = *headers;
  }
  state->context = std::move(c);
  return EdgeEncoder(std::move(state));
}

const std::string& EdgeEncoder::headers() const {
  return m_state->headers;
}

Status EdgeEncoder::add(const Frame& picture, const Sink& sink) {
  AVFrame& frame = *m_state->frame;
  av_frame_unref(&frame);
  if (av_frame_ref(&frame, &*picture) < 0) throw std::bad_alloc();
  frame.pts = m_state->count++;
  frame.pict_type = AV_PICTURE_TYPE_NONE;
  return m_state->send(&frame, sink);
}

Status EdgeEncoder::finish(const Sink& sink) {
  return m_state->send(nullptr, sink);
}

} // namespace tromb
