// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "media/MediaInfo.h"
#include "media/read/VideoReader.h"

#include <memory>

namespace tromb {

/// Makes whole pictures of interlaced ones with FFmpeg's bwdif filter: one of each, which shows the moment of its first
/// field, or two, one for each field. A picture needs its neighbours on both sides, so it comes out after the next has
/// gone in, and the first after a beginning is without the one before it. Where it is not certain that every picture is
/// interlaced, each is looked at together with those near it (fieldEvidence), and only those that show it are filtered;
/// the others come out as they are. One thread at a time.
class Deinterlacer {
public:
  /// `scan` tells which field is first; Progressive is not taken. With `byFields` the pictures that come out are
  /// counted in fields: 2k and 2k + 1 for frame k, and 2k alone for one that is left as it is.
  Deinterlacer(Scan scan, bool certain, bool byFields);
  ~Deinterlacer();

  /// Pictures that must be pushed before a wanted one, so that it comes out the same as in a run from the beginning.
  [[nodiscard]] int64_t lead() const { return m_certain ? 1 : kNear + 1; }

  /// Errors: Unsupported, for formats that cannot be de-interlaced.
  [[nodiscard]] Status push(NumberedFrame picture);
  /// There is no next picture: the last ones come out.
  [[nodiscard]] Status end();
  /// The next whole picture; without a frame when one must be pushed first.
  [[nodiscard]] NumberedFrame pull();
  /// What comes next does not follow what came before.
  void restart();

private:
  static constexpr int kNear = 3; ///< pictures to each side that are asked where one does not tell by itself

  struct State;
  [[nodiscard]] Status release();
  [[nodiscard]] Status filter(const NumberedFrame& picture, bool interlaced);
  Scan m_scan;
  bool m_certain;
  bool m_byFields;
  std::unique_ptr<State> m_state; ///< What the stretch that is being read needs.
};

} // namespace tromb
