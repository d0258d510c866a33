// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/Document.h"

#include <QObject>
#include <condition_variable>
#include <deque>
#include <mutex>
#include <set>
#include <thread>

namespace tromb {

/// Measures the document's sources beside the window's thread, one after the other, as they become known: burned-in
/// bars, real scan, loudness. What was measured before, of the same file, comes from a store. Lives as long as the
/// document's window.
class MeasureService : public QObject {
  Q_OBJECT

public:
  /// `folder` holds the store; see MeasuredStore.
  MeasureService(Document& document, const QString& folder, QObject* parent = nullptr);
  ~MeasureService() override;

  [[nodiscard]] bool busy() const { return m_left > 0; }
  [[nodiscard]] int left() const { return m_left; }

signals:
  void progress(int left, const QString& name); ///< sources still to measure; the one under way
  void failed(const QString& reason);

private:
  struct Job {
    std::string sourceId;
    MediaInfo media;
    std::string fingerprint; ///< empty: not taken yet
    int round = 0;
  };
  void take(const QStringList& ids);
  void work(const std::stop_token& stop);

  Document& m_document;
  MeasuredStore m_store;
  int m_left = 0;
  int m_round = 0;                 ///< raised when the document is replaced: results of older rounds are not taken
  std::set<std::string> m_pending; ///< sources that are waiting or under way
  std::mutex m_mutex;
  std::condition_variable_any m_changed;
  std::deque<Job> m_jobs;
  std::stop_source m_current; ///< stops the running measure alone
  std::jthread m_thread;
};

} // namespace tromb
