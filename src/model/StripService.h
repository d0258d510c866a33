// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/Document.h"

#include <QCache>
#include <QImage>
#include <QObject>
#include <QSet>
#include <QThreadPool>
#include <stop_token>

namespace tromb {

/// Thumbnails spread over the length of each source, decoded beside the window's thread and kept in a cache. `strip`
/// answers at once; what is not there yet arrives later with `ready`.
class StripService : public QObject {
  Q_OBJECT

public:
  static constexpr int kPictures = 10;
  using Strip = std::vector<QImage>;

  explicit StripService(const Document& document, QObject* parent = nullptr);
  ~StripService() override;

  /// The source's pictures in order of time; null while they are not there yet, and for sound.
  [[nodiscard]] const Strip* strip(const Source& source);
  [[nodiscard]] bool idle() const { return m_underWay.isEmpty(); }

signals:
  void ready(const QString& sourceId);

private:
  const Document& m_document;
  QCache<QString, Strip> m_cache;
  QSet<QString> m_underWay;
  QSet<QString> m_failed;
  QThreadPool m_pool;
  std::stop_source m_stop;
};

} // namespace tromb
