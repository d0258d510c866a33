// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/Document.h"

#include <QElapsedTimer>
#include <QString>

namespace tromb {

/// One gesture for what is done again and again with hardly a pause: the presses of a held key, the turns of a wheel.
/// So they are one step of undo. For the window's thread.
class HeldGesture {
public:
  explicit HeldGesture(Document& document) : m_document(document) {}

  /// The gesture of something that is done now: that of the last one, if it was of the same kind and is not long past.
  [[nodiscard]] int of(const QString& kind) {
    if (kind != m_kind || !m_since.isValid() || m_since.elapsed() > kMostPause) m_gesture = m_document.newGesture();
    m_kind = kind;
    m_since.start();
    return m_gesture;
  }

private:
  static constexpr qint64 kMostPause = 800; ///< milliseconds
  Document& m_document;
  QElapsedTimer m_since;
  QString m_kind;
  int m_gesture = 0;
};

} // namespace tromb
