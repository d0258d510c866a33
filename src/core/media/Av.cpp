// SPDX-License-Identifier: GPL-3.0-or-later
#include "media/Av.h"

#include <array>
#include <cstdlib>
#include <cstring>
#include <string_view>

namespace tromb::av {

std::string text(int native) {
  std::array<char, AV_ERROR_MAX_STRING_SIZE> buffer{};
  av_strerror(native, buffer.data(), buffer.size());
  return buffer.data();
}

tl::unexpected<Error> memoryRefused(const std::string& path, Message where) {
  return fail(ErrorCode::Unreadable, say("reading asks for more memory than there is"), path,
              say("The file may be damaged; if it is not, close other programs and try again"), std::move(where));
}

void tame() {
  static const bool once = [] {
    av_log_set_level(AV_LOG_QUIET);
    av_max_alloc(size_t(1) << 30);
    (void)::setenv("SVT_LOG", "0", 0); // the library of AV1 writes to standard error otherwise
    return true;
  }();
  (void)once;
}

namespace {

/// Numbers are looked at as bytes: one that is beyond its enumeration must not be read as one.
template <typename Enumeration> void dropUnlisted(Enumeration& value, int end, Enumeration unknown) {
  int number = 0;
  static_assert(sizeof number == sizeof value);
  std::memcpy(&number, &value, sizeof number);
  if (number < 0 || number >= end) value = unknown;
}

template <typename Tagged> void dropUnlistedOf(Tagged& of, AVColorSpace& matrix, AVChromaLocation& siting) {
  dropUnlisted(of.color_range, AVCOL_RANGE_NB, AVCOL_RANGE_UNSPECIFIED);
  dropUnlisted(of.color_primaries, AVCOL_PRI_NB, AVCOL_PRI_UNSPECIFIED);
  dropUnlisted(of.color_trc, AVCOL_TRC_NB, AVCOL_TRC_UNSPECIFIED);
  dropUnlisted(matrix, AVCOL_SPC_NB, AVCOL_SPC_UNSPECIFIED);
  dropUnlisted(siting, AVCHROMA_LOC_NB, AVCHROMA_LOC_UNSPECIFIED);
}

} // namespace

void dropUnlisted(AVCodecParameters& stream) {
  dropUnlistedOf(stream, stream.color_space, stream.chroma_location);
}

void dropUnlisted(AVFrame& picture) {
  dropUnlistedOf(picture, picture.colorspace, picture.chroma_location);
}

bool saysTransparent(const AVStream& stream) {
  const AVCodecID codec = stream.codecpar->codec_id;
  if (codec != AV_CODEC_ID_VP8 && codec != AV_CODEC_ID_VP9) return false;
  const AVDictionaryEntry* mode = av_dict_get(stream.metadata, "alpha_mode", nullptr, 0);
  return mode && std::string_view(mode->value) == "1";
}

Result<CodecPtr> openDecoder(const AVStream& stream, const std::string& path, int threads, int sideData) {
  const AVCodec* codec = avcodec_find_decoder(stream.codecpar->codec_id);
  // The usual decoders of these leave transparency out.
  const AVCodec* whole = !saysTransparent(stream)                       ? nullptr
                         : stream.codecpar->codec_id == AV_CODEC_ID_VP9 ? avcodec_find_decoder_by_name("libvpx-vp9")
                                                                        : avcodec_find_decoder_by_name("libvpx");
  if (whole) codec = whole;
  if (!codec)
    return fail(ErrorCode::Unsupported, say("there is no decoder for %1", avcodec_get_name(stream.codecpar->codec_id)),
                path, say("Convert the file to H.264 first"));
  CodecPtr context(allocated(avcodec_alloc_context3(codec)));
  int native = avcodec_parameters_to_context(context.get(), stream.codecpar);
  context->pkt_timebase = stream.time_base;
  context->thread_count = threads;
  context->thread_type = FF_THREAD_FRAME | FF_THREAD_SLICE;
  context->export_side_data |= sideData;
  context->err_recognition |= AV_EF_CRCCHECK; // damage is to be noticed
  if (native >= 0) native = avcodec_open2(context.get(), codec, nullptr);
  if (native < 0) return fail(ErrorCode::Decoder, say("the decoder does not start (%1)", text(native)), path);
  return context;
}

std::vector<FrameRate> declaredRates(const AVStream& stream) {
  std::vector<FrameRate> rates;
  for (const AVRational each : {stream.avg_frame_rate, stream.r_frame_rate})
    if (each.num > 0 && each.den > 0)
      if (const auto rate = FrameRate::near(rational(each))) rates.push_back(*rate);
  return rates;
}

} // namespace tromb::av
