// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/ExportRun.h"

#include "model/ScreenImage.h"

#include <mutex>

namespace tromb {
namespace {

constexpr double kTellEverySeconds = 0.1;

QImage small(const Frame& picture, QSize most) {
  const auto screen = toScreen(picture, {most.width(), most.height()});
  if (!screen) return {};
  return imageOf(*screen);
}

} // namespace

void ExportRun::start(ExportRequest request, QSize mostPicture) {
  m_worker.stop();
  m_running = true;
  m_worker.add(
      [this, request = std::move(request), mostPicture](const Job& job) {
        ExportRequest mine = request;
        std::mutex mutex;
        std::vector<double> told(mine.plans.size(), -1); // elapsed seconds, by deliverable
        mine.onProgress = [this, &job, &mutex, &told](const ExportProgress& progress) {
          {
            const std::scoped_lock lock(mutex);
            double& last = told[progress.index];
            const bool early = last >= 0 && progress.elapsedSeconds - last < kTellEverySeconds;
            if (progress.state != ExportState::Done && early) return;
            last = progress.elapsedSeconds;
          }
          job.tell([this, progress] { emit progressed(progress); });
        };
        mine.onPicture = [this, &job, mostPicture](size_t index, const Frame& picture) {
          job.tell([this, index, image = small(picture, mostPicture)] { emit pictured(int(index), image); });
        };
        job.tell([this, files = exportPlans(mine, job.stop())] { end(files); });
      },
      [this](const Error& error) { end(tl::unexpected(error)); });
}

void ExportRun::end(const Result<std::vector<ExportedFile>>& files) {
  m_running = false;
  if (files)
    emit succeeded(*files);
  else
    emit failed(files.error());
}

} // namespace tromb
