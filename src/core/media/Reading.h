// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "media/MediaInfo.h"
#include "time/Repeats.h"

#include <vector>

namespace tromb {

/// A source as it is to be read: the facts of its file, and beside them what a project or a measurement makes of it.
/// What decodes pictures or sound for anybody to see or hear takes one of these. A project gives its own by
/// `readingOf`. Value.
struct Reading {
  MediaInfo file;
  Scan scan = Scan::Progressive; ///< how its pictures are scanned
  bool scanCertain = false;      ///< all of them are: somebody says it; else each is looked at and left alone if whole
  bool byFields = false;         ///< interlaced: pictures 2k and 2k + 1 are of the moments of the two fields of frame k
  std::optional<Repeats> repeats;   ///< each picture counts once, in place of every frame
  Bars bars;                        ///< burned into the picture, cut away
  Orientation orientation;          ///< how somebody wants it turned, mirrored and straightened
  std::optional<ColourTags> colour; ///< what somebody says of its colours, whatever its labels are
  std::vector<int> heard;           ///< places in `file.audio`: one stream, or two mono ones that are left and right

  /// The shape of its picture as it is seen. The file must have one.
  [[nodiscard]] PictureShape shape() const { return file.video->shape(bars, orientation); }
};

/// A file read as it says itself: for files that no project has an opinion of.
[[nodiscard]] Reading readAsStated(const MediaInfo& file);

} // namespace tromb
