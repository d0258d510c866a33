// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/Document.h"
#include "model/Kept.h"

#include <QImage>
#include <QObject>

namespace tromb {

/// Thumbnails spread over the length of each source, decoded beside the window's thread and kept in a cache. `strip`
/// answers at once; what is not there yet arrives later with `ready`.
class StripService : public QObject {
  Q_OBJECT

public:
  static constexpr int kPictures = 10;
  using Strip = std::vector<QImage>;

  explicit StripService(const Document& document, QObject* parent = nullptr);

  /// Returns the source's pictures in order of time. Returns null while they are not there yet, and for sound.
  [[nodiscard]] const Strip* strip(const Source& source);
  [[nodiscard]] bool idle() const { return m_strips.idle(); }

signals:
  void ready(const QString& sourceId);

private:
  const Document& m_document;
  Kept<Strip> m_strips;
};

} // namespace tromb
