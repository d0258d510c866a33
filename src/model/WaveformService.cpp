// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/WaveformService.h"

#include "analysis/Waveform.h"
#include "model/PictureKey.h"

#include <cstring>

namespace tromb {
namespace {

constexpr int kPeakKilobytes = 100'000;
constexpr int64_t kWaveformFolderBytes = 100'000'000;

std::string bytesOf(const std::vector<float>& peaks) {
  return {reinterpret_cast<const char*>(peaks.data()), peaks.size() * sizeof(float)};
}

std::vector<float> peaksIn(const std::string& bytes) {
  std::vector<float> peaks(bytes.size() / sizeof(float));
  if (!peaks.empty()) std::memcpy(peaks.data(), bytes.data(), peaks.size() * sizeof(float));
  return peaks;
}

} // namespace

WaveformService::WaveformService(const Document& document, const QString& folder, QObject* parent)
    : QObject(parent), m_document(document), m_folder(folder.toStdString(), kWaveformFolderBytes),
      m_peaks(kPeakKilobytes, 1) {}

const WaveformService::Peaks* WaveformService::peaks(const std::string& sourceId) {
  const Source* source = m_document.project().source(sourceId);
  const Result<MediaInfo>* media = m_document.media(sourceId);
  if (!source || !media || !*media || (*media)->audio.empty()) return nullptr;
  const Reading reading = readingOf(*source, **media);
  const QString key = soundKey(*source, reading);
  const auto make = [reading, folder = m_folder, key = key.toStdString(), lasting = !source->fingerprint.empty()](
                        const std::stop_token& stop) -> std::optional<Kept<Peaks>::Made> {
    const auto kept = lasting ? folder.find(key) : std::nullopt;
    auto read = kept ? Result<Peaks>(peaksIn(*kept)) : readPeaks(reading, stop);
    if (!read) return {}; // it is drawn as silence; the finding of the source says why
    if (lasting && !kept) folder.keep(key, bytesOf(*read));
    const auto bytes = qint64(read->size() * sizeof(float));
    return Kept<Peaks>::Made{std::move(*read), bytes};
  };
  return m_peaks.find(key, make, [this, id = QString::fromStdString(sourceId)] { emit ready(id); });
}

} // namespace tromb
