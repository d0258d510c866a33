// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/WaveformService.h"

#include "analysis/Waveform.h"
#include "model/Background.h"

namespace tromb {
namespace {

constexpr int kCacheKilobytes = 100'000;

} // namespace

WaveformService::WaveformService(const Document& document, QObject* parent)
    : QObject(parent), m_document(document), m_cache(kCacheKilobytes) {
  m_pool.setMaxThreadCount(1);
}

WaveformService::~WaveformService() {
  m_stop.request_stop();
  m_pool.clear();
  m_pool.waitForDone();
}

const WaveformService::Peaks* WaveformService::peaks(const std::string& sourceId) {
  const Result<MediaInfo>* media = m_document.media(sourceId);
  if (!media || !*media || (*media)->audio.empty()) return nullptr;
  const QString key = QString::fromStdString((*media)->path);
  if (const Peaks* there = m_cache.object(key)) return there;
  if (m_underWay.contains(key)) return nullptr;
  m_underWay.insert(key);
  m_pool.start([this, key, info = **media, id = QString::fromStdString(sourceId), stop = m_stop.get_token()] {
    giveWay();
    auto read = readPeaks(info, stop);
    // What cannot be read is drawn as silence, and said elsewhere.
    auto* peaks = new Peaks(read ? std::move(*read) : Peaks{});
    QMetaObject::invokeMethod(this, [this, key, id, peaks] {
      m_underWay.remove(key);
      m_cache.insert(key, peaks, int(peaks->size() * sizeof(float) / 1024) + 1);
      emit ready(id);
    });
  });
  return nullptr;
}

} // namespace tromb
