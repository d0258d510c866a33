// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/Document.h"
#include "model/Worker.h"
#include "preflight/Preflight.h"

#include <QTimer>

namespace tromb {

/// What falls short in the open project, looked for beside the window whenever something has changed. Lives in the
/// window's thread.
class PreflightService : public QObject {
  Q_OBJECT

public:
  explicit PreflightService(Document& document, QObject* parent = nullptr);

  /// What was found when it was last looked for, heaviest first.
  [[nodiscard]] const std::vector<Finding>& findings() const { return m_findings; }
  [[nodiscard]] int count(Severity severity) const;
  [[nodiscard]] bool busy() const { return m_soon.isActive() || m_looking.busy(); }
  /// Mends findings, by their places in the list, each with its first fix, as one undo step. Those without one are
  /// left.
  void mend(const std::vector<int>& places, const QString& text);

signals:
  void changed();

private:
  void look();

  Document& m_document;
  QTimer m_soon; ///< One edit sends many signals; it is looked once.
  std::vector<Finding> m_findings;
  Worker m_looking;
};

} // namespace tromb
