// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/SecondDecoder.h"

#include "support/TestMedia.h"

#include <QFile>
#include <libde265/de265.h>
#include <memory>
#include <stdexcept>
#include <wels/codec_api.h>

namespace tromb::test {
namespace {

QByteArray contents(const QString& path) {
  QFile file(path);
  if (!file.open(QIODevice::ReadOnly)) throw std::runtime_error("a file cannot be read");
  return file.readAll();
}

} // namespace

QByteArray decodedByFfmpeg(const QString& film, const QString& folder, const QString& decoder) {
  const QString raw = folder + "/ffmpeg.yuv";
  const QStringList how = decoder.isEmpty() ? QStringList() : QStringList{"-c:v", decoder};
  (void)run(QStringLiteral("ffmpeg"),
            QStringList{"-v", "error", "-y"} + how +
                QStringList{"-i", film, "-an", "-vsync", "passthrough", "-pix_fmt", "yuv420p", "-f", "rawvideo", raw});
  return contents(raw);
}

namespace {

/// The coded pictures of a film behind start codes.
QByteArray streamOf(const QString& film, const QString& folder, const QString& codec) {
  const QString stream = folder + "/stream." + codec;
  (void)run(QStringLiteral("ffmpeg"), {"-v", "error", "-y", "-i", film, "-c:v", "copy", "-an", "-bsf:v",
                                       codec + "_mp4toannexb", "-f", codec, stream});
  return contents(stream);
}

QByteArray byDe265(const QByteArray& bytes) {
  struct Free {
    void operator()(de265_decoder_context* c) const { de265_free_decoder(c); }
  };
  const std::unique_ptr<de265_decoder_context, Free> decoder(de265_new_decoder());
  if (!decoder || de265_push_data(decoder.get(), bytes.constData(), int(bytes.size()), 0, nullptr) != DE265_OK ||
      de265_flush_data(decoder.get()) != DE265_OK)
    throw std::runtime_error("libde265 cannot be set up");
  QByteArray got;
  const auto keep = [&] {
    while (const de265_image* image = de265_get_next_picture(decoder.get()))
      for (int p = 0; p < 3; ++p) {
        int stride = 0;
        const uint8_t* plane = de265_get_image_plane(image, p, &stride);
        for (int y = 0; y < de265_get_image_height(image, p); ++y)
          got.append(reinterpret_cast<const char*>(plane + ptrdiff_t(y) * stride), de265_get_image_width(image, p));
      }
  };
  for (int more = 1; more != 0;) {
    const de265_error status = de265_decode(decoder.get(), &more);
    if (status != DE265_OK && status != DE265_ERROR_WAITING_FOR_INPUT_DATA) break;
    keep();
  }
  keep();
  return got;
}

QByteArray byOpenH264(const QByteArray& bytes) {
  ISVCDecoder* decoder = nullptr;
  SDecodingParam parameters{};
  parameters.sVideoProperty.eVideoBsType = VIDEO_BITSTREAM_AVC;
  int quiet = WELS_LOG_QUIET;
  if (WelsCreateDecoder(&decoder) != 0 || decoder->SetOption(DECODER_OPTION_TRACE_LEVEL, &quiet) != 0 ||
      decoder->Initialize(&parameters) != 0)
    throw std::runtime_error("openh264 cannot be set up");
  QByteArray got;
  const auto keep = [&](uint8_t** planes, const SBufferInfo& info) {
    if (info.iBufferStatus != 1) return;
    const auto& b = info.UsrData.sSystemBuffer;
    for (int p = 0; p < 3; ++p)
      for (int y = 0; y < (p == 0 ? b.iHeight : b.iHeight / 2); ++y)
        got.append(reinterpret_cast<const char*>(planes[p] + y * b.iStride[p == 0 ? 0 : 1]),
                   p == 0 ? b.iWidth : b.iWidth / 2);
  };
  // One unit after the other, each behind its start code.
  const QByteArray start("\0\0\1", 3);
  for (qsizetype at = bytes.indexOf(start); at >= 0;) {
    const qsizetype next = bytes.indexOf(start, at + 3);
    uint8_t* planes[3] = {};
    SBufferInfo info{};
    const QByteArray unit = bytes.mid(at, next < 0 ? -1 : next - at);
    decoder->DecodeFrameNoDelay(reinterpret_cast<const unsigned char*>(unit.constData()), int(unit.size()), planes,
                                &info);
    keep(planes, info);
    at = next;
  }
  for (int flushed = 0; flushed < 16; ++flushed) {
    uint8_t* planes[3] = {};
    SBufferInfo info{};
    decoder->FlushFrame(planes, &info);
    keep(planes, info);
  }
  decoder->Uninitialize();
  WelsDestroyDecoder(decoder);
  return got;
}

} // namespace

QByteArray decodedBySecond(const QString& film, const QString& folder) {
  const QString codec = run(QStringLiteral("ffprobe"), {"-v", "error", "-select_streams", "v:0", "-show_entries",
                                                        "stream=codec_name", "-of", "csv=p=0", film})
                            .section('\n', 0, 0);
  if (codec == "h264") return byOpenH264(streamOf(film, folder, codec));
  if (codec == "hevc") return byDe265(streamOf(film, folder, codec));
  if (codec == "vp9") return decodedByFfmpeg(film, folder, "libvpx-vp9");
  if (codec == "av1") return decodedByFfmpeg(film, folder, "libaom-av1");
  throw std::runtime_error("there is no second decoder for it");
}

} // namespace tromb::test
