// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "media/Frame.h"
#include "media/MediaInfo.h"

#include <optional>

namespace tromb {

/// Tells interlaced from progressive pictures by their content (fieldEvidence). Whatever a file is labelled as,
/// progressive pictures must not be de-interlaced, so nothing is said on doubt. One thread at a time.
class ScanMeter {
public:
  /// The next picture of a stretch of neighbours.
  void add(const Frame& frame);
  /// What comes next does not follow what came before.
  void endStretch() { m_last = {}; }
  /// Interlaced where at least a tenth of what could be told apart is, with one order of fields; empty where too few
  /// pictures moved enough to tell.
  [[nodiscard]] std::optional<Scan> scan() const;

private:
  Frame m_last;
  int m_seen[4] = {}; ///< by FieldEvidence
};

} // namespace tromb
