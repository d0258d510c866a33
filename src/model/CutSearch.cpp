// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/CutSearch.h"

#include "media/read/VideoReader.h"
#include "model/ScreenImage.h"
#include "model/Translation.h"
#include "picture/PictureSource.h"

namespace tromb {

void CutSearch::run(Worker::Work work) {
  m_worker.stop();
  m_worker.add(std::move(work), [this](const Error& error) { emit failed(said(error)); });
}

void CutSearch::start(const Source& source, const MediaInfo& media, int64_t first, int64_t end) {
  m_reading = readingOf(source, media);
  run([this, reading = m_reading, first, end](const Task& task) {
    Throttle seldom;
    const auto samples = readCutSamples(reading, first, end, task.stop(), [&](double fraction) {
      if (seldom.due()) task.tell([this, fraction] { emit progress(fraction); });
    });
    task.tell([this, samples] {
      if (!samples) {
        emit failed(said(samples.error()));
        return;
      }
      m_samples = *samples;
      emit finished();
    });
  });
}

void CutSearch::fetch(const std::vector<FoundCut>& cuts, QSize most) {
  run([this, cuts, most, reading = m_reading](const Task& task) {
    auto reader = PictureSource::open(reading);
    if (!reader) return; // the search reports it
    ScreenComposer composer(reading.shape(), {most.width(), most.height()});
    for (const FoundCut& cut : cuts) {
      QImage sides[2];
      const int64_t frames[2] = {cut.from, cut.to};
      for (int side = 0; side < 2 && !task.stopped(); ++side) {
        const auto picture = reader->frameAt(frames[side]);
        const auto drawn = picture ? composer.draw(*picture) : Result<ScreenPicture>(tl::unexpected(picture.error()));
        if (drawn) sides[side] = imageOf(*drawn);
      }
      if (task.stopped()) return;
      task.tell(
          [this, frame = cut.frame, before = sides[0], after = sides[1]] { emit pictured(frame, before, after); });
    }
  });
}

} // namespace tromb
