// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/CutSearch.h"

#include "media/read/VideoReader.h"
#include "model/Background.h"
#include "model/ScreenImage.h"

#include <chrono>

namespace tromb {

void CutSearch::start(const MediaInfo& media, const Bars& bars, int64_t first, int64_t end) {
  m_media = media;
  m_bars = bars;
  m_thread = std::jthread([this, media, first, end](const std::stop_token& stop) {
    giveWay();
    auto told = std::chrono::steady_clock::now();
    auto samples = readCutSamples(media, first, end, stop, [&](double fraction) {
      const auto now = std::chrono::steady_clock::now();
      if (now - told < std::chrono::milliseconds(100)) return;
      told = now;
      QMetaObject::invokeMethod(this, [this, fraction] { emit progress(fraction); });
    });
    QMetaObject::invokeMethod(this, [this, stop, samples = std::move(samples)] {
      if (stop.stop_requested()) return;
      if (!samples) {
        emit failed(QString::fromStdString(sentence(samples.error())));
        return;
      }
      m_samples = *samples;
      emit finished();
    });
  });
}

void CutSearch::fetch(const std::vector<FoundCut>& cuts, QSize most) {
  m_thread.request_stop();
  m_ending.push_back(std::move(m_thread));
  m_thread = std::jthread([this, cuts, most, media = m_media, bars = m_bars](const std::stop_token& stop) {
    giveWay();
    auto reader = VideoReader::open(media);
    if (!reader) return;
    ScreenComposer composer(media.video->shape(bars), {most.width(), most.height()});
    for (const FoundCut& cut : cuts) {
      QImage sides[2];
      const int64_t frames[2] = {cut.from, cut.to};
      for (int side = 0; side < 2 && !stop.stop_requested(); ++side) {
        const auto picture = reader->frameAt(frames[side]);
        const auto drawn = picture ? composer.draw(*picture) : Result<ScreenPicture>(tl::unexpected(picture.error()));
        if (!drawn) continue;
        sides[side] = imageOf(*drawn);
      }
      if (stop.stop_requested()) return;
      QMetaObject::invokeMethod(this, [this, stop, frame = cut.frame, before = sides[0], after = sides[1]] {
        if (!stop.stop_requested()) emit pictured(frame, before, after);
      });
    }
  });
}

} // namespace tromb
