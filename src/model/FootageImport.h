// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/Document.h"

#include <QObject>
#include <QStringList>
#include <thread>

namespace tromb {

/// Looks at files beside the window's thread: new footage to bring in, and the sources of a project that was
/// opened. One job at a time; lives as long as the document's window.
class FootageImport : public QObject {
  Q_OBJECT

public:
  explicit FootageImport(Document& document, QObject* parent = nullptr);
  ~FootageImport() override;

  /// Brings in files; folders stand for all files in them and below. What works becomes one undoable step, what does
  /// not is told with `refused`. A file already there is told, too: by its path, or by its fingerprint when it is a
  /// copy under another name.
  void bringIn(const QStringList& paths, Document::AsShots asShots, const std::string& group = {});
  /// Looks at every source of the document that nothing is known of yet.
  void lookAtSources();
  /// Forgets what is not yet looked at.
  void cancel();
  [[nodiscard]] bool busy() const { return m_thread.joinable(); }

signals:
  void progress(int done, int all, const QString& file);
  void refused(const QStringList& reasons);
  void broughtIn(int files);
  void finished();

private:
  template <typename Work> void run(Work work);
  Document& m_document;
  std::jthread m_thread;
};

} // namespace tromb
