// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/Document.h"

#include <QObject>
#include <QStringList>
#include <deque>
#include <thread>

namespace tromb {

/// Looks at files beside the window's thread: new footage to bring in, and the sources of a project that was
/// opened. One queue, one thread; lives as long as the document's window.
class FootageImport : public QObject {
  Q_OBJECT

public:
  explicit FootageImport(Document& document, QObject* parent = nullptr);
  ~FootageImport() override;

  /// Brings in files; folders stand for the files in them. What works becomes one undoable step, what does not is
  /// told with `refused`. Files that are in the project already are told, too.
  void bringIn(const QStringList& paths);
  /// Looks at every source of the document again.
  void lookAtSources();
  /// Forgets what is not yet looked at.
  void cancel();
  [[nodiscard]] bool busy() const { return m_thread.joinable(); }

signals:
  void progress(int done, int all, const QString& file);
  void refused(const QStringList& reasons);
  void finished();

private:
  template <typename Work> void run(Work work);
  Document& m_document;
  std::jthread m_thread;
};

} // namespace tromb
