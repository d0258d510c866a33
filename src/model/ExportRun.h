// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "export/Exporter.h"
#include "model/Worker.h"

#include <QImage>
#include <QObject>
#include <QSize>

namespace tromb {

/// One export beside the window's thread. Signals arrive in the window's thread, progress at most ten times a
/// second for each deliverable. Destroying it stops the export without waiting; nothing half-made stays.
class ExportRun : public QObject {
  Q_OBJECT

public:
  explicit ExportRun(QObject* parent = nullptr) : QObject(parent) {}

  void start(ExportRequest request, QSize mostPicture);
  /// Ends with `failed` (Cancelled), or with `succeeded` where all was done already.
  void cancel() { m_worker.interrupt(); }
  [[nodiscard]] bool running() const { return m_running; }

signals:
  void progressed(const tromb::ExportProgress& progress);
  void pictured(int index, const QImage& picture);
  void succeeded(const std::vector<tromb::ExportedFile>& files);
  void failed(const tromb::Error& error);

private:
  void end(const Result<std::vector<ExportedFile>>& files);
  bool m_running = false;
  Worker m_worker;
};

} // namespace tromb
