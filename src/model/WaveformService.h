// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/Document.h"

#include <QCache>
#include <QObject>
#include <QSet>
#include <QThreadPool>
#include <stop_token>

namespace tromb {

/// Waveforms of sources, read beside the window's thread and kept. `peaks` answers at once; what is not there yet
/// arrives later with `ready`.
class WaveformService : public QObject {
  Q_OBJECT

public:
  using Peaks = std::vector<float>; ///< see analysis/Waveform.h

  explicit WaveformService(const Document& document, QObject* parent = nullptr);
  ~WaveformService() override;

  [[nodiscard]] const Peaks* peaks(const std::string& sourceId);
  [[nodiscard]] bool idle() const { return m_underWay.isEmpty(); }

signals:
  void ready(const QString& sourceId);

private:
  const Document& m_document;
  QCache<QString, Peaks> m_cache;
  QSet<QString> m_underWay;
  QThreadPool m_pool;
  std::stop_source m_stop;
};

} // namespace tromb
