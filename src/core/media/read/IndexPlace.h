// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <string>

namespace tromb {

/// Returns true if the index of a file lies before its media, so that playing can begin before all is loaded: `moov`
/// before `mdat` (ISO/IEC 14496-12), or Cues before the first Cluster (RFC 9559). False for other files.
/// Thread-safe.
[[nodiscard]] bool indexBeforeMedia(const std::string& path);

} // namespace tromb
