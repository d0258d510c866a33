// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "media/MediaInfo.h"

#include <string>

namespace tromb {

/// What the header of a picture stream tells to players before anything is decoded.
struct StreamHeader {
  /// As the `codecs` parameter of RFC 6381 has it: "avc1.640028", "hvc1.1.6.L93.90", "av01.0.08M.08". Empty for codecs
  /// that have none, and where the container does not keep the header.
  std::string codecs;
  int level = -1; ///< as it is written in the stream; −1 where it is not
  bool highTier = false;
};

/// Reads it without decoding. Errors: those of probe.
[[nodiscard]] Result<StreamHeader> readStreamHeader(const MediaInfo& media);

/// The profile of a film, in the words of Profile::found. Empty when unknown.
[[nodiscard]] std::string profileFound(const VideoInfo& video);

} // namespace tromb
