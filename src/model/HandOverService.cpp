// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/HandOverService.h"

#include "export/Compare.h"

#include <ctime>

namespace tromb {

void HandOverService::run(Worker::Work work) {
  m_worker.stop();
  m_worker.add(std::move(work), [this](const Error& error) { emit failed(error); });
}

/// What was handed over stays handed over where it cannot be noted; that is told.
void HandOverService::keep(const std::string& path, const std::string& to, const std::string& project,
                           const HandedFile& file) {
  if (project.empty()) return;
  const HandOver made{int64_t(std::time(nullptr)), path, to, file.path, file.bytes, file.digest};
  if (const Status kept = addHandOver(project, made); !kept) emit failed(kept.error());
}

void HandOverService::toFolder(const std::string& path, const std::string& folder, const std::string& project) {
  run([this, path, folder, project](const Task& task) {
    Throttle seldom;
    FolderHandOver request{path, folder};
    request.onFraction = [&](double fraction) {
      if (seldom.due())
        task.tell([this, fraction] { emit progress(fraction < 0.5 ? Stage::Sending : Stage::Checking, fraction); });
    };
    auto made = handToFolder(request, task.stop());
    task.tell([this, made = std::move(made), path, folder, project] {
      if (!made) {
        emit failed(made.error());
        return;
      }
      keep(path, folder, project, *made);
      emit handed(*made, {});
    });
  });
}

void HandOverService::toService(const std::vector<std::string>& paths, const std::string& address,
                                const std::string& token, const std::string& project) {
  if (!m_fetched) {
    auto folder = TemporaryFolder::create();
    if (!folder) {
      emit failed(folder.error());
      return;
    }
    m_fetched.emplace(std::move(*folder));
  }
  run([this, paths, address, token, project, fetched = m_fetched->path()](const Task& task) {
    Throttle seldom;
    size_t at = 0;
    const auto tell = [&](Stage stage, double fraction) {
      const double all = (double(at) + fraction) / double(paths.size());
      if (seldom.due()) task.tell([this, stage, all] { emit progress(stage, all); });
    };
    std::optional<HandedFile> first;
    std::vector<SeenRendition> seen;
    for (; at < paths.size(); ++at) {
      const std::string& path = paths[at];
      PublishRequest request{path, address, token, fetched};
      request.onProgress = [&](PublishRequest::Stage stage, double fraction) {
        tell(stage == PublishRequest::Stage::Sending       ? Stage::Sending
             : stage == PublishRequest::Stage::Compressing ? Stage::Compressing
                                                           : Stage::Fetching,
             fraction);
      };
      const auto made = publish(request, task.stop());
      if (!made) return task.tell([this, error = made.error()] { emit failed(error); });
      for (const Rendition& each : made->renditions) {
        tell(Stage::Measuring, 1);
        const auto loss = compareFiles(paths.front(), each.path, task.stop());
        if (!loss) return task.tell([this, error = loss.error()] { emit failed(error); });
        seen.push_back({each, path, loss->structure.mean, loss->noise.mean});
      }
      task.tell([this, file = made->file, path, address, project] { keep(path, address, project, file); });
      if (!first) first = made->file;
    }
    task.tell([this, file = *first, seen = std::move(seen)] { emit handed(file, seen); });
  });
}

} // namespace tromb
