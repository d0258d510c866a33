// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/Document.h"
#include "model/Worker.h"

#include <QObject>
#include <map>

namespace tromb {

/// Measures the document's sources beside the window's thread, one after the other, as they become known: burned-in
/// bars, real scan, loudness. What was measured before, of the same file, comes from a store. Lives as long as the
/// document's window.
class MeasureService : public QObject {
  Q_OBJECT

public:
  /// `folder` holds the store; see MeasuredStore.
  MeasureService(Document& document, const QString& folder, QObject* parent = nullptr);

  [[nodiscard]] bool busy() const { return !m_pending.empty(); }
  [[nodiscard]] int left() const { return int(m_pending.size()); }
  /// Whether a source waits to be measured or is being measured.
  [[nodiscard]] bool measures(const std::string& sourceId) const { return m_pending.contains(sourceId); }

signals:
  void progress(int left, const QString& name); ///< sources still to measure; the one under way
  void failed(const QString& reason);

private:
  void take(const QStringList& ids);
  void end(const std::string& id, const std::string& fingerprint, const Result<Measured>& found);

  Document& m_document;
  MeasuredStore m_store;
  std::map<std::string, std::string> m_pending; ///< the fingerprints of sources that are waiting or under way, by id
  Worker m_worker;
};

} // namespace tromb
