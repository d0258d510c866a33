// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/SubjectSearch.h"
#include "model/Translation.h"

namespace tromb {

void SubjectSearch::run(Worker::Work work) {
  m_worker.stop();
  m_running = true;
  m_worker.add(
      [this, work = std::move(work)](const Task& task) {
        work(task);
        task.tell([this] { end(); });
      },
      [this](const Error& error) {
        emit failed(said(error));
        end();
      });
  emit progress(0);
}

void SubjectSearch::end() {
  m_running = false;
  emit finished();
}

void SubjectSearch::cancel() {
  if (!m_running) return;
  m_worker.stop();
  end();
}

void SubjectSearch::follow(const Stretch& stretch, int64_t at, const RectF& box) {
  run([this, stretch, at, box](const Task& task) {
    Throttle seldom;
    const auto track =
        followSubject(stretch.reading, stretch.first, stretch.end, at, box, task.stop(), [&](double fraction) {
          if (seldom.due()) task.tell([this, fraction] { emit progress(fraction); });
        });
    task.tell([this, track, shot = stretch.shot] {
      if (track)
        emit followed(shot, *track);
      else
        emit failed(said(track.error()));
    });
  });
}

} // namespace tromb
