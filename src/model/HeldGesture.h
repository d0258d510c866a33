// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/Document.h"

#include <QElapsedTimer>
#include <QString>
#include <QTimer>

namespace tromb {

/// One gesture for what is done again and again with hardly a pause: the presses of a held key, the turns of a wheel.
/// So they are one step of undo. A pause counts from when the window has dealt with the last one and waits for more, so
/// that a busy machine does not part what was done in one go. For the window's thread.
class HeldGesture {
public:
  explicit HeldGesture(Document& document) : m_document(document) {
    m_free.setSingleShot(true);
    QObject::connect(&m_free, &QTimer::timeout, &m_free, [this] { m_waiting.start(); });
  }

  /// The gesture of something that is done now: that of the last one, if it was of the same kind and is not long past.
  [[nodiscard]] int of(const QString& kind) {
    const bool paused = m_waiting.isValid() && m_waiting.elapsed() > kMostPause;
    if (kind != m_kind || paused) m_gesture = m_document.newGesture();
    m_kind = kind;
    m_waiting.invalidate();
    m_free.start(0);
    return m_gesture;
  }

private:
  static constexpr qint64 kMostPause = 800; ///< milliseconds
  Document& m_document;
  QTimer m_free;           ///< once the window has come to what waits behind the last one
  QElapsedTimer m_waiting; ///< since then
  QString m_kind;
  int m_gesture = 0;
};

} // namespace tromb
