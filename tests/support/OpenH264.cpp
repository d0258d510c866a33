// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/OpenH264.h"

#include "support/TestMedia.h"

#include <QFile>
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

QByteArray decodedByFfmpeg(const QString& film, const QString& folder) {
  const QString raw = folder + "/ffmpeg.yuv";
  (void)run(QStringLiteral("ffmpeg"), {"-v", "error", "-y", "-i", film, "-an", "-vsync", "passthrough", "-pix_fmt",
                                       "yuv420p", "-f", "rawvideo", raw});
  return contents(raw);
}

QByteArray decodedByOpenH264(const QString& film, const QString& folder) {
  const QString stream = folder + "/open.264";
  (void)run(QStringLiteral("ffmpeg"), {"-v", "error", "-y", "-i", film, "-c:v", "copy", "-an", "-bsf:v",
                                       "h264_mp4toannexb", "-f", "h264", stream});
  const QByteArray bytes = contents(stream);
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

} // namespace tromb::test
