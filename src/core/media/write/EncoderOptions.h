// SPDX-License-Identifier: GPL-3.0-or-later
// How each encoder is told what an encoding asks for. For .cpp files of this folder.
#pragma once

#include "media/write/PictureEncoder.h"

#include <string>

struct AVCodecContext;

namespace tromb {

/// Tells an encoder everything of an encoding that no two encoders are told alike: rate control, groups, profile,
/// level, speed and passes. Size, rate, colour and threads are set already. `log` must outlive the encoder.
void applyEncoding(AVCodecContext& context, const PictureStream& stream, const PassLog& log);

/// How an encoder gets its pictures where it does not take them as they were composed.
struct EncoderPictures {
  std::string filters; ///< of FFmpeg, to build an av::FilterGraph from; empty: as composed
  int pixelFormat;     ///< an AVPixelFormat: what comes out of them
};
[[nodiscard]] EncoderPictures encoderPictures(const PictureStream& stream, const PassLog& log);

} // namespace tromb
