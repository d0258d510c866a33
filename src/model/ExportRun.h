// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "export/Exporter.h"

#include <QImage>
#include <QObject>
#include <QSize>
#include <mutex>
#include <thread>

namespace tromb {

/// One export beside the window's thread. Signals arrive in the window's thread, progress at most ten times a
/// second for each deliverable.
class ExportRun : public QObject {
  Q_OBJECT

public:
  explicit ExportRun(QObject* parent = nullptr);
  ~ExportRun() override; ///< cancels and waits

  void start(ExportRequest request, QSize mostPicture);
  void cancel();
  [[nodiscard]] bool running() const { return m_running; }

signals:
  void progressed(const tromb::ExportProgress& progress);
  void pictured(int index, const QImage& picture);
  void succeeded(const std::vector<tromb::ExportedFile>& files);
  void failed(const tromb::Error& error);

private:
  void pass(const ExportProgress& progress);
  ExportRequest m_request;
  bool m_running = false;
  std::mutex m_mutex;
  std::vector<double> m_lastTold; ///< elapsed seconds, by deliverable
  std::jthread m_thread;          ///< the last member: joined before what it uses goes
};

} // namespace tromb
