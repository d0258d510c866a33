// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/Document.h"
#include "model/Worker.h"

#include <QObject>
#include <QStringList>
#include <map>
#include <memory>

namespace tromb {

/// Looks at files beside the window's thread: new footage to bring in, and sources of the document that nothing is
/// known of. Lives as long as the document's window.
class FootageImport : public QObject {
  Q_OBJECT

public:
  /// `indexFolder`: see IndexStore; may be empty.
  explicit FootageImport(Document& document, const QString& indexFolder = {}, QObject* parent = nullptr);

  /// Brings in files; folders stand for all files in them and below. What works becomes one undoable step, what does
  /// not is told with `refused`. A file already there is told, too: by its path, or by its fingerprint when it is a
  /// copy under another name. Several calls are done one after the other.
  void bringIn(const QStringList& paths, Document::AsShots asShots, const std::string& group = {});
  /// Drops what is being brought in; sources of the document are looked at all the same.
  void stopBringingIn();
  /// Begins with the sources of a project that is about to be opened in the document, before it is.
  void lookAhead(const Project& project);
  /// Drops what was looked at ahead, of a project that cannot be opened.
  void stopLooking();
  /// Looks at every source of the document that nothing is known of and that is not being looked at.
  void lookAtSources();
  [[nodiscard]] bool bringing() const { return m_bringing.busy(); }
  [[nodiscard]] bool busy() const { return m_bringing.busy() || m_looking.busy(); }

signals:
  void progress(int done, int all, const QString& file);
  void refused(const QStringList& reasons);
  void broughtIn(int files);
  void finished(); ///< nothing is left to look at

private:
  struct Seen; ///< what was learned and is not told yet
  void take(const std::vector<Document::NewFootage>& good, QStringList reasons, Document::AsShots asShots,
            const std::string& group);
  void look(const Source& source);
  void takeSeen();
  void end();

  Document& m_document;
  std::string m_indexFolder;
  std::map<std::string, std::string> m_underWay; ///< paths that are being looked at, by source
  std::shared_ptr<Seen> m_seen;
  int m_sources = 0;    ///< looked at or to be looked at, since nothing was
  bool m_ahead = false; ///< what is looked at is of a project that is not open yet
  Worker m_looking{2};
  Worker m_bringing;
};

} // namespace tromb
