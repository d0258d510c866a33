// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "io/CacheFolder.h"
#include "model/Document.h"
#include "model/Kept.h"

#include <QImage>
#include <QObject>

namespace tromb {

/// A shot's picture at falling sizes, each half of the one before, for drawing smaller without flicker.
struct Poster {
  std::vector<QImage> levels;
  /// The smallest level that is still at least `width` pixels wide, else the largest.
  [[nodiscard]] const QImage& atLeast(double width) const;
};

/// A poster of a picture that is there already.
[[nodiscard]] Poster posterOf(const QImage& picture);

/// Small source pictures for the sheet, decoded beside the window's thread and kept in a cache. `poster` answers at
/// once; what is not there yet arrives later with `ready`.
class PosterService : public QObject {
  Q_OBJECT

public:
  /// Pictures are kept for later in `folder`; if it is empty they are not kept.
  explicit PosterService(const Document& document, const QString& folder = {}, QObject* parent = nullptr);

  /// Returns the shot's picture from the middle of its length, upright, without bars. Returns null while it is not
  /// there yet.
  [[nodiscard]] const Poster* poster(int row);
  /// Returns the first picture of the source that lies under a cell's picture. Returns null while it is not there yet,
  /// and if no source lies there.
  [[nodiscard]] const Poster* under(const Cell& cell);
  [[nodiscard]] bool idle() const { return m_posters.idle(); }

signals:
  void ready();

private:
  [[nodiscard]] const Poster* picture(const Source& source, const MediaInfo& media, int64_t frame);

  const Document& m_document;
  CacheFolder m_folder;
  Kept<Poster> m_posters;
};

} // namespace tromb
