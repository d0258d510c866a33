// SPDX-License-Identifier: GPL-3.0-or-later
#include "media/read/CodecString.h"

#include "Printed.h"
#include "media/Av.h"

#include <cctype>
#include <span>

namespace tromb {
namespace {

using Header = std::span<const uint8_t>;

/// AVCDecoderConfigurationRecord (ISO/IEC 14496-15, 5.3.3.1).
StreamHeader avc(Header b) {
  if (b.size() < 4 || b[0] != 1) return {};
  return {printed("avc1.%02X%02X%02X", b[1], b[2], b[3]), b[3], false};
}

/// HEVCDecoderConfigurationRecord (ISO/IEC 14496-15, 8.3.3.1), as annex E.3 of that standard writes it.
StreamHeader hevc(Header b, bool parametersApart) {
  if (b.size() < 13 || b[0] != 1) return {};
  const int space = b[1] >> 6;
  const bool high = (b[1] & 0x20) != 0;
  uint32_t compatible = 0;
  for (int bit = 0; bit < 32; ++bit) // the other way round
    if (b[size_t(2 + bit / 8)] >> (7 - bit % 8) & 1) compatible |= uint32_t(1) << bit;
  std::string text = parametersApart ? "hvc1." : "hev1.";
  if (space > 0) text += char('A' + space - 1);
  text += printed("%d.%X.%c%d", b[1] & 0x1F, compatible, high ? 'H' : 'L', b[12]);
  size_t last = 11;
  while (last > 6 && b[last] == 0) --last;
  for (size_t i = 6; i <= last && (i > 6 || b[6] != 0); ++i) text += printed(".%X", b[i]);
  return {text, b[12], high};
}

/// AV1CodecConfigurationRecord (AV1 Codec ISO Media File Format Binding, 2.3.3 and 5).
StreamHeader av1(Header b) {
  if (b.size() < 4 || b[0] != 0x81) return {};
  const int profile = b[1] >> 5;
  const int level = b[1] & 0x1F;
  const bool high = (b[2] & 0x80) != 0;
  const int depth = (b[2] & 0x40) == 0 ? 8 : (b[2] & 0x20) != 0 ? 12 : 10;
  return {printed("av01.%d.%02d%c.%02d", profile, level, high ? 'H' : 'M', depth), level, high};
}

} // namespace

Result<StreamHeader> readStreamHeader(const MediaInfo& media) {
  auto input = av::InputFile::open(media.path, {}, media.parameters);
  if (!input) return tl::unexpected(input.error());
  const AVCodecParameters& par = *input->stream(media.video->stream).codecpar;
  const Header bytes(par.extradata, size_t(std::max(0, par.extradata_size)));
  switch (par.codec_id) {
  case AV_CODEC_ID_H264:
    return avc(bytes);
  case AV_CODEC_ID_HEVC:
    return hevc(bytes, par.codec_tag != MKTAG('h', 'e', 'v', '1'));
  case AV_CODEC_ID_AV1:
    return av1(bytes);
  default:
    return StreamHeader{};
  }
}

std::string profileFound(const VideoInfo& video) {
  std::string text = video.profile;
  for (char& c : text) c = char(std::tolower(static_cast<unsigned char>(c)));
  return text;
}

} // namespace tromb
