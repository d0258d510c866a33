// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "media/MediaInfo.h"
#include "media/read/VideoReader.h"

#include <memory>

namespace tromb {

/// Makes whole pictures of interlaced ones, one of each, with FFmpeg's bwdif filter: each shows the moment of its
/// first field. A picture needs its neighbours on both sides, so it comes out after the next has gone in, and the
/// first after a beginning is without the one before it. One thread at a time.
class Deinterlacer {
public:
  /// `scan` tells which field is first; Progressive is not taken.
  explicit Deinterlacer(Scan scan);
  ~Deinterlacer();

  /// Errors: Unsupported, for formats that cannot be de-interlaced.
  [[nodiscard]] Status push(const NumberedFrame& picture);
  /// There is no next picture: the last comes out.
  [[nodiscard]] Status end();
  /// The next whole picture; without a frame when one must be pushed first.
  [[nodiscard]] NumberedFrame pull();
  /// What comes next does not follow what came before.
  void restart();

private:
  struct Graph;
  Scan m_scan;
  std::unique_ptr<Graph> m_graph; ///< of the running stretch
};

} // namespace tromb
