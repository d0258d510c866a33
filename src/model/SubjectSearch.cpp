// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/SubjectSearch.h"

#include "model/Background.h"

#include <chrono>

namespace tromb {
namespace {

constexpr std::chrono::milliseconds kTellEvery{80};

} // namespace

template <typename Then> void SubjectSearch::tell(const std::stop_token& stop, Then then) {
  QMetaObject::invokeMethod(this, [stop, then = std::move(then)] {
    if (!stop.stop_requested()) then();
  });
}

template <typename Work> void SubjectSearch::run(Work work) {
  m_thread = {}; // it looks for a stop at every frame
  m_running = true;
  m_thread = std::jthread([this, work = std::move(work)](const std::stop_token& stop) {
    giveWay();
    work(stop);
    tell(stop, [this] {
      m_running = false;
      emit finished();
    });
  });
  emit progress(0);
}

void SubjectSearch::cancel() {
  if (!m_running) return;
  m_thread = {};
  m_running = false;
  emit finished();
}

void SubjectSearch::follow(const Stretch& stretch, int64_t at, const RectF& box) {
  run([this, stretch, at, box](const std::stop_token& stop) {
    auto told = std::chrono::steady_clock::now();
    const auto track =
        followSubject(stretch.media, stretch.bars, stretch.first, stretch.end, at, box, stop, [&](double fraction) {
          const auto now = std::chrono::steady_clock::now();
          if (now - told < kTellEvery) return;
          told = now;
          tell(stop, [this, fraction] { emit progress(fraction); });
        });
    tell(stop, [this, track, shot = stretch.shot] {
      if (track)
        emit followed(shot, *track);
      else
        emit failed(QString::fromStdString(sentence(track.error())));
    });
  });
}

void SubjectSearch::find(std::vector<Stretch> stretches) {
  run([this, stretches = std::move(stretches)](const std::stop_token& stop) {
    for (size_t i = 0; i < stretches.size() && !stop.stop_requested(); ++i) {
      const Stretch& each = stretches[i];
      const auto subject = findSubject(each.media, each.bars, each.first, each.end, stop);
      tell(stop, [this, subject, shot = each.shot, fraction = double(i + 1) / double(stretches.size())] {
        if (subject)
          emit found(shot, *subject);
        else
          emit failed(QString::fromStdString(sentence(subject.error())));
        emit progress(fraction);
      });
    }
  });
}

} // namespace tromb
