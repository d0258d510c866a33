// SPDX-License-Identifier: GPL-3.0-or-later
#include "media/write/Available.h"

#include "media/Av.h"

namespace tromb {
namespace {

template <typename Info> Message whyNot(const Info& info) {
  if (avcodec_find_encoder_by_name(std::string(info.encoder).c_str())) return {};
  return say("this system's FFmpeg has no %1", info.encoder);
}

} // namespace

Message whyUnavailable(Codec codec) {
  return whyNot(infoOf(codec));
}

Message whyUnavailable(SoundCodec codec) {
  return whyNot(infoOf(codec));
}

} // namespace tromb
