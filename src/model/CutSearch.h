// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "analysis/CutFinder.h"
#include "model/Worker.h"
#include "project/Project.h"

#include <QImage>
#include <QObject>

namespace tromb {

/// Looks for the cuts in a stretch of a source beside the window's thread, then fetches the pictures on both sides of
/// each, as the project shows them. Signals arrive in the window's thread.
class CutSearch : public QObject {
  Q_OBJECT

public:
  explicit CutSearch(QObject* parent = nullptr) : QObject(parent) {}

  /// `media`: of a source with pictures, as the file has it.
  void start(const Source& source, const MediaInfo& media, int64_t first, int64_t end);
  [[nodiscard]] const std::vector<CutSample>& samples() const { return m_samples; }
  /// Fetches the pictures of these cuts, in order; ends an earlier fetch.
  void fetch(const std::vector<FoundCut>& cuts, QSize most);

signals:
  void progress(double fraction);
  void finished(); ///< samples are there
  void failed(const QString& reason);
  void pictured(qint64 frame, const QImage& before, const QImage& after);

private:
  void run(Worker::Work work);
  Reading m_reading;
  std::vector<CutSample> m_samples;
  Worker m_worker;
};

} // namespace tromb
