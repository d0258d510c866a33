// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/Document.h"
#include "project/Recovery.h"

#include <QObject>
#include <QTimer>

namespace tromb {

/// Keeps a recovery copy of a document while it has unsaved changes: written at most 10 seconds after a change, so
/// that it is never older than 20. Taken away when the document is saved or replaced.
class RecoveryKeeper : public QObject {
  Q_OBJECT

public:
  RecoveryKeeper(Document& document, const QString& folder, QObject* parent = nullptr);

  /// Writes now what is due. False where that failed, which is told.
  bool write();
  /// The document is closed on purpose.
  void clear();

signals:
  void failed(const QString& reason); ///< told once, until a copy succeeds again

private:
  void refresh();
  Document& m_document;
  QString m_folder;
  std::optional<RecoveryFile> m_file;
  QTimer m_timer;
  bool m_complained = false;
};

/// One project, one window: held while a project is open, so that a second window can be told.
class ProjectLock {
public:
  ProjectLock() = default;
  ProjectLock(ProjectLock&& other) noexcept;
  ProjectLock& operator=(ProjectLock&& other) noexcept;
  ~ProjectLock();

  /// Takes the lock of a project file. `taken` says whether somebody else has it; a folder that cannot be written
  /// to gives no lock and is not an error.
  [[nodiscard]] static ProjectLock take(const QString& projectPath, bool& taken);

private:
  int m_fd = -1;
  std::string m_path;
};

} // namespace tromb
