// SPDX-License-Identifier: GPL-3.0-or-later
#include "render/PictureFile.h"

#include "io/AtomicFile.h"
#include "media/Av.h"
#include "picture/Scaler.h"

#include <filesystem>

namespace tromb {
namespace {

struct Row {
  PictureKind kind;
  const char *word, *ending, *encoder;
};
constexpr Row kRows[] = {{PictureKind::Png, "png", "png", "png"},
                         {PictureKind::Jpeg, "jpeg", "jpg", "mjpeg"},
                         {PictureKind::Webp, "webp", "webp", "libwebp"}};

Result<Frame> converted(const Frame& canvas, const CanvasFormat& format) {
  const Size size{canvas->width, canvas->height};
  auto scaler = Scaler::build(canvas, {0, 0, double(size.width), double(size.height)}, size, format);
  if (!scaler) return tl::unexpected(scaler.error());
  return scaler->run(canvas);
}

/// Planar red, green and blue to pixels side by side; 16 bits are written with the higher byte first, as PNG has them.
Frame packed(const AVFrame& gbr, bool deep, AVPixelFormat format, int bytesAPixel) {
  const auto target = newFrame({gbr.width, gbr.height}, format);
  const int planes[] = {2, 0, 1}; // R, G, B
  const bool blueFirst = format == AV_PIX_FMT_BGRA;
  for (int y = 0; y < gbr.height; ++y)
    for (int x = 0; x < gbr.width; ++x) {
      uint8_t* out = target->data[0] + ptrdiff_t(y) * target->linesize[0] + ptrdiff_t(x) * bytesAPixel;
      for (int c = 0; c < 3; ++c) {
        const int plane = planes[blueFirst ? 2 - c : c];
        const uint8_t* in = gbr.data[plane] + ptrdiff_t(y) * gbr.linesize[plane];
        if (deep) *out++ = uint8_t(reinterpret_cast<const uint16_t*>(in)[x] >> 8);
        *out++ = deep ? uint8_t(reinterpret_cast<const uint16_t*>(in)[x]) : in[x];
      }
      if (blueFirst) *out = 255;
    }
  return target;
}

/// The canvas as an encoder of pictures takes it.
Result<Frame> prepared(const Frame& canvas, PictureKind kind) {
  if (kind == PictureKind::Jpeg) {
    // JFIF: the matrix of BT.601, full range; without subsampling, so that chroma need not be centred.
    constexpr int kMatrix601 = 6;
    auto yuv = converted(canvas, {8, Chroma::C444, {kPrimaries709, kTransfer709, kMatrix601, true}});
    if (!yuv) return yuv;
    std::shared_ptr<AVFrame> full(av::allocated(av_frame_clone(yuv->get())), av::Closer());
    full->format = AV_PIX_FMT_YUVJ444P;
    return Frame(full);
  }
  const bool deep = kind == PictureKind::Png && av_pix_fmt_desc_get(AVPixelFormat(canvas->format))->comp[0].depth > 8;
  const auto gbr = converted(canvas, rgbFormat(deep ? 16 : 8));
  if (!gbr) return gbr;
  if (kind == PictureKind::Webp) return packed(**gbr, false, AV_PIX_FMT_BGRA, 4);
  return packed(**gbr, deep, deep ? AV_PIX_FMT_RGB48BE : AV_PIX_FMT_RGB24, deep ? 6 : 3);
}

} // namespace

const char* pictureWord(PictureKind kind) {
  return kRows[size_t(kind)].word;
}

const char* pictureEnding(PictureKind kind) {
  return kRows[size_t(kind)].ending;
}

bool pictureByWord(std::string_view word, PictureKind& kind) {
  for (const Row& row : kRows)
    if (word == row.word) {
      kind = row.kind;
      return true;
    }
  return false;
}

Status writePicture(const Frame& canvas, const std::string& path, PictureKind kind, bool overwrite,
                    const Rational& pixelAspect) {
  std::error_code ignored;
  if (!overwrite && std::filesystem::exists(path, ignored))
    return fail(ErrorCode::Exists, say("the file is there already"), path, say("Remove it or overwrite it"));
  const AVCodec* codec = avcodec_find_encoder_by_name(kRows[size_t(kind)].encoder);
  if (!codec)
    return fail(ErrorCode::Encoder, say("this system's FFmpeg has no %1", kRows[size_t(kind)].encoder), path,
                say("Choose another kind of picture"));
  const auto picture = prepared(canvas, kind);
  if (!picture) return tl::unexpected(picture.error());
  const av::CodecPtr encoder(av::allocated(avcodec_alloc_context3(codec)));
  AVCodecContext& c = *encoder;
  c.width = (*picture)->width;
  c.height = (*picture)->height;
  c.pix_fmt = AVPixelFormat((*picture)->format);
  c.color_range = AVCOL_RANGE_JPEG;
  c.time_base = {1, 1};
  c.sample_aspect_ratio = av::rational(pixelAspect);
  constexpr int kBestQuantiser = 2; // of JPEG, where the eye sees no difference (common practice, no published source)
  if (kind == PictureKind::Jpeg) {
    c.flags |= AV_CODEC_FLAG_QSCALE;
    c.global_quality = kBestQuantiser * FF_QP2LAMBDA;
    c.qmin = 1;
  }
  if (kind == PictureKind::Webp) av_opt_set_double(c.priv_data, "quality", 95, 0);
  const std::shared_ptr<AVFrame> frame(av::allocated(av_frame_clone(picture->get())), av::Closer());
  frame->pts = 0;
  frame->quality = c.global_quality;
  const av::PacketPtr packet(av::allocated(av_packet_alloc()));
  int native = avcodec_open2(&c, codec, nullptr);
  if (native >= 0) native = avcodec_send_frame(&c, frame.get());
  if (native >= 0) native = avcodec_send_frame(&c, nullptr);
  if (native >= 0) native = avcodec_receive_packet(&c, packet.get());
  if (native < 0) return fail(ErrorCode::Encoder, say("the picture cannot be encoded (%1)", av::text(native)), path);
  return writeFileAtomically(path, std::string(reinterpret_cast<const char*>(packet->data), size_t(packet->size)));
}

} // namespace tromb
