// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "handover/HandOverLog.h"
#include "handover/Publish.h"
#include "io/TemporaryFolder.h"
#include "model/Worker.h"

#include <QObject>
#include <optional>
#include <vector>

namespace tromb {

/// A rendition as viewers get it, and what it has lost.
struct SeenRendition {
  Rendition rendition;
  std::string of;  ///< path of the file that was sent
  double ssim = 1; ///< against the first file that was sent, in the mean of the pictures
  double psnr = 0; ///< dB
};

/// Hands finished files to folders and services beside the window's thread, one at a time, and keeps with the project
/// what was handed over. Renditions are fetched into a folder that is there as long as this is. For the window's
/// thread.
class HandOverService : public QObject {
  Q_OBJECT

public:
  explicit HandOverService(QObject* parent = nullptr) : QObject(parent) {
    connect(&m_worker, &Worker::idle, this, &HandOverService::over);
  }

  /// `project` is the path of the project that the file was made from; empty: nothing is kept.
  void toFolder(const std::string& path, const std::string& folder, const std::string& project);
  /// Several files are sent one after the other, and what viewers see of each is held against the first: whether that
  /// one, the better, is worth its size. `paths` is not empty; `handed` tells of the first.
  void toService(const std::vector<std::string>& paths, const std::string& address, const std::string& token,
                 const std::string& project);
  void stop() { m_worker.interrupt(); } ///< `failed` follows
  [[nodiscard]] bool busy() const { return m_worker.busy(); }

  enum class Stage { Sending, Checking, Compressing, Fetching, Measuring };

signals:
  void progress(tromb::HandOverService::Stage stage, double fraction);
  void handed(const tromb::HandedFile& file, const std::vector<tromb::SeenRendition>& renditions);
  void failed(const tromb::Error& error);
  void over(); ///< it is not busy any more

private:
  void run(Worker::Work work);
  void keep(const std::string& path, const std::string& to, const std::string& project, const HandedFile& file);
  std::optional<TemporaryFolder> m_fetched;
  Worker m_worker;
};

} // namespace tromb
