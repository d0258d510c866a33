// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/WaveformService.h"

#include "analysis/Waveform.h"
#include "model/PictureKey.h"

namespace tromb {
namespace {

constexpr int kCacheKilobytes = 100'000;

} // namespace

WaveformService::WaveformService(const Document& document, QObject* parent)
    : QObject(parent), m_document(document), m_peaks(kCacheKilobytes, 1) {}

const WaveformService::Peaks* WaveformService::peaks(const std::string& sourceId) {
  const Source* source = m_document.project().source(sourceId);
  const Result<MediaInfo>* media = m_document.media(sourceId);
  if (!source || !media || !*media || (*media)->audio.empty()) return nullptr;
  const MediaInfo info = asTaken(*source, **media);
  const auto make = [info](const std::stop_token& stop) -> std::optional<Kept<Peaks>::Made> {
    auto read = readPeaks(info, stop);
    if (!read) return {}; // drawn as silence, and said elsewhere
    const auto bytes = qint64(read->size() * sizeof(float));
    return Kept<Peaks>::Made{std::move(*read), bytes};
  };
  return m_peaks.find(soundKey(*source, info), make, [this, id = QString::fromStdString(sourceId)] { emit ready(id); });
}

} // namespace tromb
