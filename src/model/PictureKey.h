// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "project/Project.h"

#include <QString>

namespace tromb {

/// What a source's pictures are known by in a cache: the file, and everything that changes how they look.
[[nodiscard]] inline QString pictureKey(const Source& source, const VideoInfo& video) {
  const Bars& b = source.bars;
  const Orientation& o = source.orientation;
  return QStringLiteral("%1|%2,%3,%4,%5|%6|%7,%8,%9")
      .arg(QString::fromStdString(source.path))
      .arg(b.left)
      .arg(b.top)
      .arg(b.right)
      .arg(b.bottom)
      .arg(int(scanOf(source, video)))
      .arg(o.turn)
      .arg(o.mirrored)
      .arg(o.straighten);
}

} // namespace tromb
