// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "project/Project.h"

#include <QString>

namespace tromb {

/// What a file is known by in a cache: its fingerprint, or where there is none yet its path, and its size.
[[nodiscard]] inline QString fileKey(const Source& source, const MediaInfo& media) {
  return QStringLiteral("%1|%2")
      .arg(QString::fromStdString(source.fingerprint.empty() ? media.path : source.fingerprint))
      .arg(media.sizeBytes);
}

/// What a source's pictures are known by in a cache: the file, and everything that changes how they look.
[[nodiscard]] inline QString pictureKey(const Source& source, const MediaInfo& media) {
  const Bars& b = source.bars;
  const Orientation& o = source.orientation;
  const ColourTags c = colourOf(source, *media.video);
  const QString colour =
      source.colour
          ? QStringLiteral("|%1/%2/%3/%4").arg(c.primaries).arg(c.transfer).arg(c.matrix).arg(int(c.fullRange))
          : QString();
  return QStringLiteral("%1|%2,%3,%4,%5|%6|%7,%8,%9")
             .arg(fileKey(source, media))
             .arg(b.left)
             .arg(b.top)
             .arg(b.right)
             .arg(b.bottom)
             .arg(int(scanOf(source, *media.video)))
             .arg(o.turn)
             .arg(o.mirrored)
             .arg(o.straighten) +
         colour;
}

/// What a source's sound is known by in a cache: the file, and the streams that are heard.
[[nodiscard]] inline QString soundKey(const Source& source, const Reading& reading) {
  QString key = fileKey(source, reading.file);
  for (const int stream : reading.heard) key += QStringLiteral("|%1").arg(stream);
  return key;
}

} // namespace tromb
