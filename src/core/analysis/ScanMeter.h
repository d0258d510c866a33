// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "media/MediaInfo.h"
#include "picture/Frame.h"

#include <memory>
#include <optional>

namespace tromb {

/// Tells interlaced from progressive pictures by their content, with FFmpeg's idet filter at full height. Whatever
/// a file is labelled as, progressive pictures must not be de-interlaced. One thread at a time.
class ScanMeter {
public:
  ScanMeter();
  ~ScanMeter();

  /// The next picture of a stretch of neighbours.
  [[nodiscard]] Status add(const Frame& frame);
  /// What comes next does not follow what came before.
  void endStretch();
  /// Empty where too few pictures moved enough to tell.
  [[nodiscard]] std::optional<Scan> scan() const;

private:
  struct Graph;
  std::unique_ptr<Graph> m_graph; ///< of the running stretch
  double m_seen[3] = {};          ///< top first, bottom first, progressive: in all stretches
  double m_now[3] = {};           ///< in the running one
};

} // namespace tromb
