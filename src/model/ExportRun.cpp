// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/ExportRun.h"

#include "model/Background.h"
#include "model/ScreenImage.h"

namespace tromb {
namespace {

constexpr double kTellEverySeconds = 0.1;

QImage small(const Frame& picture, QSize most) {
  const auto screen = toScreen(picture, {most.width(), most.height()});
  if (!screen) return {};
  return imageOf(*screen);
}

} // namespace

ExportRun::ExportRun(QObject* parent) : QObject(parent) {}

ExportRun::~ExportRun() = default;

void ExportRun::start(ExportRequest request, QSize mostPicture) {
  m_thread = {};
  m_request = std::move(request);
  m_lastTold.assign(m_request.plans.size(), -1);
  m_request.onProgress = [this](const ExportProgress& p) { pass(p); };
  m_request.onPicture = [this, mostPicture](size_t index, const Frame& picture) {
    QMetaObject::invokeMethod(this,
                              [this, index, image = small(picture, mostPicture)] { emit pictured(int(index), image); });
  };
  m_running = true;
  m_thread = std::jthread([this](const std::stop_token& stop) {
    giveWay();
    auto files = exportPlans(m_request, stop);
    QMetaObject::invokeMethod(this, [this, files = std::move(files)] {
      m_running = false;
      if (files)
        emit succeeded(*files);
      else
        emit failed(files.error());
    });
  });
}

void ExportRun::cancel() {
  m_thread.request_stop();
}

void ExportRun::pass(const ExportProgress& progress) {
  {
    const std::scoped_lock lock(m_mutex);
    double& last = m_lastTold[progress.index];
    if (progress.state != ExportState::Done && last >= 0 && progress.elapsedSeconds - last < kTellEverySeconds) return;
    last = progress.elapsedSeconds;
  }
  QMetaObject::invokeMethod(this, [this, progress] { emit progressed(progress); });
}

} // namespace tromb
