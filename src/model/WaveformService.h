// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "io/CacheFolder.h"
#include "model/Document.h"
#include "model/Kept.h"

#include <QObject>

namespace tromb {

/// Waveforms of sources, read beside the window's thread and kept. `peaks` answers at once; what is not there yet
/// arrives later with `ready`.
class WaveformService : public QObject {
  Q_OBJECT

public:
  using Peaks = std::vector<float>; ///< see analysis/Waveform.h

  /// Waveforms are kept for later in `folder`; if it is empty they are not kept.
  explicit WaveformService(const Document& document, const QString& folder = {}, QObject* parent = nullptr);

  [[nodiscard]] const Peaks* peaks(const std::string& sourceId);
  [[nodiscard]] bool idle() const { return m_peaks.idle(); }

signals:
  void ready(const QString& sourceId);

private:
  const Document& m_document;
  CacheFolder m_folder;
  Kept<Peaks> m_peaks;
};

} // namespace tromb
