// SPDX-License-Identifier: GPL-3.0-or-later
#include "media/write/EncoderOptions.h"

#include "Printed.h"
#include "media/Av.h"
#include "media/CanvasFrame.h"
#include "media/CodedUnits.h"

extern "C" {
#include <libavutil/cpu.h>
}

#include <algorithm>
#include <climits>
#include <cmath>

namespace tromb {
namespace {

/// Options of a library behind an encoder, as "key=value:key=value".
class Parameters {
public:
  void set(const std::string& key, const std::string& value) {
    m_text += (m_text.empty() ? "" : ":") + key + "=" + value;
  }
  void set(const std::string& key, int64_t value) { set(key, std::to_string(value)); }
  void hand(AVCodecContext& c, const char* option) const {
    if (!m_text.empty()) av_opt_set(c.priv_data, option, m_text.c_str(), 0);
  }

private:
  std::string m_text;
};

void setOption(AVCodecContext& c, const char* key, const std::string& value) {
  av_opt_set(c.priv_data, key, value.c_str(), 0);
}

/// The options of a tune, handed to `take` one by one.
template <typename Take> void tuned(const Encoding& e, Take take) {
  const Tune* tune = byWord(e.info().tunes, e.tune);
  if (!tune) return;
  const std::string_view pair = tune->options;
  const size_t at = pair.find('=');
  take(std::string(pair.substr(0, at)), std::string(pair.substr(at + 1)));
}

int clamped(int64_t value) {
  return int(std::min<int64_t>(value, INT_MAX));
}

/// Rate control as FFmpeg has it in common; the scale of constant quality is the encoder's own.
void rateOf(AVCodecContext& c, const Encoding& e) {
  if (*e.rateControl == RateControl::ConstantQuality)
    av_opt_set_double(c.priv_data, "crf", *e.crf, 0);
  else
    c.bit_rate = e.bitRate;
  if (e.maxBitRate <= 0) return;
  c.rc_max_rate = e.maxBitRate;
  c.rc_buffer_size = clamped(e.bufferBits);
}

/// Reference frames that the speeds of x264 use (x264 common/base.c, param_apply_preset).
int usualReferences(const std::string& speed) {
  if (speed == "ultrafast" || speed == "superfast" || speed == "veryfast") return 1;
  if (speed == "faster" || speed == "fast") return 2;
  if (speed == "medium") return 3;
  return speed == "slow" ? 5 : speed == "slower" ? 8 : 16;
}

/// What x264 and x265 are told alike.
void commonOf(AVCodecContext& c, const Encoding& e) {
  setOption(c, "preset", e.speed);
  tuned(e, [&](const std::string& key, const std::string& value) { setOption(c, key.c_str(), value); });
  setOption(c, "profile", e.profile);
  rateOf(c, e);
  if (e.bPictures) c.max_b_frames = *e.bPictures;
  if (e.references > 0) c.refs = e.references;
}

std::string passesFile(const PassLog& log) {
  return log.folder + "/passes";
}

std::string lightText(const ContentLight& light) {
  return std::to_string(light.most) + "," + std::to_string(light.mostAverage);
}

void x264(AVCodecContext& c, const PictureStream& stream, const PassLog& log) {
  const Encoding& e = stream.encoding;
  commonOf(c, e);
  Parameters more;
  // With AVX-512, x264's macroblock trees depend on memory that was never filled: measured with that of Debian 12,
  // whose pictures then change from run to run, and are not made any faster by it.
  if (av_get_cpu_flags() & AV_CPU_FLAG_AVX512) more.set("asm", "AVX2,FMA3,BMI1,BMI2,LZCNT");
  // The fast presets leave out what tells High from Main, and Main from Baseline; asking for it makes the label true.
  if (e.profile.starts_with("high")) more.set("8x8dct", 1);
  if (e.profile == "main" && e.entropy != Entropy::Cavlc) more.set("cabac", 1);
  if (e.profile == "main" && e.entropy == Entropy::Cavlc) more.set("weightp", 1);
  if (e.openGroups) more.set("open-gop", 1);
  if (!e.keysAtCuts) more.set("scenecut", 0);
  if (stream.first > 0 && e.maxBitRate > 0) more.set("vbv-init", printed("%.6f", stream.bufferFull));
  if (e.entropy != Entropy::Usual) more.set("cabac", e.entropy == Entropy::Cabac ? 1 : 0);
  more.hand(c, "x264-params");
  if (*e.rateControl == RateControl::Constant) setOption(c, "nal-hrd", "cbr");
  if (const Level* level = h264Levels().byName(e.level)) {
    setOption(c, "level", std::string(level->name));
    // x264 takes the level as a label only; keep the buffer of references within it ourselves.
    const int most = h264Levels().maxReferences(*level, stream.picture.size);
    if (e.references <= 0 && most > 0 && usualReferences(e.speed) > most) c.refs = most;
  }
  if (log.pass == PassLog::Pass::Only) return;
  c.flags |= log.pass == PassLog::Pass::First ? AV_CODEC_FLAG_PASS1 : AV_CODEC_FLAG_PASS2;
  setOption(c, "stats", passesFile(log));
}

void x265(AVCodecContext& c, const PictureStream& stream, const PassLog& log) {
  const Encoding& e = stream.encoding;
  commonOf(c, e);
  Parameters more;
  more.set("log-level", "none");
  more.set("open-gop", e.openGroups ? 1 : 0);
  if (!e.keysAtCuts) more.set("scenecut", 0);
  if (stream.first > 0 && e.maxBitRate > 0) more.set("vbv-init", printed("%.6f", stream.bufferFull));
  more.set("level-idc", e.level);
  // Blocks as those of the pictures before: decoders may drop what they have not shown yet where the coded size
  // changes, which is in whole blocks (C.5.2.2).
  for (const SequenceSet& set : sequenceSets("hevc", bytesIn(stream.headersBefore), {}))
    if (set.leastUnit > 0) {
      more.set("min-cu-size", set.leastUnit);
      more.set("ctu", set.largestUnit);
    }
  more.set("high-tier", e.highTier ? 1 : 0);
  if (stream.light.most > 0) more.set("max-cll", lightText(stream.light));
  if (stream.threads == 1) {
    more.set("pools", 1);
    more.set("frame-threads", 1);
  }
  if (log.pass != PassLog::Pass::Only) {
    more.set("pass", log.pass == PassLog::Pass::First ? 1 : 2);
    more.set("stats", passesFile(log));
  }
  more.hand(c, "x265-params");
}

void vpx(AVCodecContext& c, const PictureStream& stream, const PassLog& log) {
  const Encoding& e = stream.encoding;
  setOption(c, "deadline", "good");
  setOption(c, "cpu-used", e.speed);
  setOption(c, "row-mt", "1");
  tuned(e, [&](const std::string& key, const std::string& value) { setOption(c, key.c_str(), value); });
  rateOf(c, e);
  // Columns of tiles are coded beside each other: one for each 512 pixels, as powers of two.
  int columns = 0;
  while (columns < 4 && stream.picture.size.width >> (columns + 10) > 0) ++columns;
  setOption(c, "tile-columns", std::to_string(columns));
  if (log.pass == PassLog::Pass::First) c.flags |= AV_CODEC_FLAG_PASS1;
  if (log.pass != PassLog::Pass::Second) return;
  c.flags |= AV_CODEC_FLAG_PASS2;
  c.stats_in = const_cast<char*>(log.stats.c_str()); // read only, and not freed by FFmpeg
}

void svtAv1(AVCodecContext& c, const PictureStream& stream, const PassLog& /*log*/) {
  const Encoding& e = stream.encoding;
  setOption(c, "preset", e.speed);
  if (*e.rateControl == RateControl::ConstantQuality)
    setOption(c, "crf", std::to_string(std::lround(*e.crf)));
  else
    c.bit_rate = e.bitRate;
  Parameters more;
  tuned(e, [&](const std::string& key, const std::string& value) { more.set(key, value); });
  if (stream.light.most > 0) more.set("content-light", lightText(stream.light));
  // As two digits; otherwise it finds one by size and rate alone.
  more.set("level", e.level.substr(0, 1) + e.level.substr(2, 1));
  if (stream.threads > 0) more.set("lp", stream.threads);
  more.hand(c, "svtav1-params");
}

void ffv1(AVCodecContext& c, const PictureStream& /*stream*/, const PassLog& /*log*/) {
  // Version 3 of RFC 9043: slices that are coded beside each other and checked one by one.
  c.level = 3;
  c.slices = 4;
  setOption(c, "slicecrc", "1");
  setOption(c, "coder", "range_tab");
}

void vc3(AVCodecContext& c, const PictureStream& stream, const PassLog& /*log*/) {
  const Profile* profile = stream.encoding.info().profile(stream.encoding.profile);
  setOption(c, "profile", std::string(profile->option));
}

void gif(AVCodecContext& /*c*/, const PictureStream& /*stream*/, const PassLog& /*log*/) {}

void webp(AVCodecContext& c, const PictureStream& stream, const PassLog& /*log*/) {
  av_opt_set_double(c.priv_data, "quality", *stream.encoding.crf, 0);
  c.compression_level = std::stoi(stream.encoding.speed);
}

/// A quality on the codec's own scale as a quantiser, which is what all hardware has; of VP9 on the finer scale of the
/// format itself (libvpx vp9_quantize.c, quantizer_to_qindex: four to one but for the last).
int quantiserOf(const Encoding& e) {
  constexpr int kMostIndex = 255;
  const auto quality = int(std::lround(*e.crf));
  return e.codec == Codec::Vp9 ? std::min(quality * 4, kMostIndex) : quality;
}

/// `baseline`: what the encoder calls that profile. Those of VP9 see both from the pictures.
void setProfileAndLevel(AVCodecContext& c, const Encoding& e, const char* baseline) {
  if (e.codec == Codec::Vp9) return;
  setOption(c, "profile", e.profile == "baseline" ? baseline : e.profile);
  setOption(c, "level", e.level);
}

void vaapi(AVCodecContext& c, const PictureStream& stream, const PassLog& /*log*/) {
  const Encoding& e = stream.encoding;
  setProfileAndLevel(c, e, "constrained_baseline");
  rateOf(c, e);
  const bool quality = *e.rateControl == RateControl::ConstantQuality;
  setOption(c, "rc_mode", quality ? "CQP" : "VBR");
  if (quality) c.global_quality = quantiserOf(e);
}

void nvenc(AVCodecContext& c, const PictureStream& stream, const PassLog& /*log*/) {
  const Encoding& e = stream.encoding;
  setProfileAndLevel(c, e, "baseline");
  rateOf(c, e);
  const bool quality = *e.rateControl == RateControl::ConstantQuality;
  setOption(c, "rc", quality ? "constqp" : "vbr");
  if (quality) setOption(c, "qp", std::to_string(quantiserOf(e)));
}

void qsv(AVCodecContext& c, const PictureStream& stream, const PassLog& /*log*/) {
  const Encoding& e = stream.encoding;
  if (e.codec != Codec::Vp9) {
    setOption(c, "profile", e.profile);
    constexpr double kTenths = 10; // 41 is level 4.1
    c.level = int(std::lround(std::stod(e.level) * kTenths));
  }
  rateOf(c, e);
  if (*e.rateControl != RateControl::ConstantQuality) return;
  c.flags |= AV_CODEC_FLAG_QSCALE;
  c.global_quality = quantiserOf(e) * FF_QP2LAMBDA;
}

using Adapter = void (*)(AVCodecContext&, const PictureStream&, const PassLog&);
/// In the order of Codec.
constexpr Adapter kAdapters[] = {x264, x265, vpx, svtAv1, ffv1, vc3, gif, webp};
/// In the order of HardwareInterface.
constexpr Adapter kHardwareAdapters[] = {vaapi, nvenc, qsv};

} // namespace

EncoderPictures encoderPictures(const PictureStream& stream, const PassLog& log) {
  const PictureCodec& info = stream.encoding.info();
  // Chroma of one pixel beside each other, which all hardware takes; no sample changes by it.
  if (stream.hardware)
    return stream.picture.format.depth > 8 ? EncoderPictures{"format=p010le", AV_PIX_FMT_P010LE}
                                           : EncoderPictures{"format=nv12", AV_PIX_FMT_NV12};
  if (!info.loop) return {{}, pixelFormatOf(stream.picture.format)};
  // Composed in the BT.709 matrix of limited range.
  const std::string rgb = "scale=in_color_matrix=bt709:in_range=tv:out_range=pc:flags=accurate_rnd+full_chroma_int,"
                          "format=bgra";
  if (!info.palette) return {rgb, AV_PIX_FMT_BGRA};
  if (log.pass == PassLog::Pass::First) return {rgb + ",palettegen", AV_PIX_FMT_PAL8};
  // What does not change is not dithered anew, so that it stays at rest.
  return {rgb + "[colours];[colours][beside]paletteuse=dither=sierra2_4a:diff_mode=rectangle", AV_PIX_FMT_PAL8};
}

void applyEncoding(AVCodecContext& context, const PictureStream& stream, const PassLog& log) {
  const Encoding& e = stream.encoding;
  const Rational distance = e.keySeconds * stream.picture.rate.value();
  context.gop_size = stream.everyPictureAlone || e.info().intra ? 1 : int(std::max<int64_t>(1, distance.nearest()));
  const Adapter adapter =
      stream.hardware ? kHardwareAdapters[size_t(stream.hardware->interface)] : kAdapters[size_t(e.codec)];
  adapter(context, stream, log);
}

} // namespace tromb
