// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/Document.h"
#include "model/Worker.h"
#include "render/LightCopy.h"

#include <QObject>
#include <deque>
#include <functional>

namespace tromb {

/// Makes lighter copies of sources beside the window's thread, one after the other, when they are asked for.
class LightService : public QObject {
  Q_OBJECT

public:
  LightService(Document& document, const QString& folder, qint64 limitBytes, QObject* parent = nullptr);

  /// Returns the lighter copy of a source. Returns nothing if there is none.
  [[nodiscard]] std::optional<MediaInfo> find(const std::string& sourceId) const;
  [[nodiscard]] bool has(const std::string& sourceId) const;
  /// Finds lighter copies of the sources as they are now, by their ids; for any thread, since it reads files.
  [[nodiscard]] std::function<std::optional<MediaInfo>(const std::string&)> finder() const;
  void ask(const std::string& sourceId); ///< does nothing where there is one, or one is under way
  void cancel();
  [[nodiscard]] bool underWay(const std::string& sourceId) const;
  [[nodiscard]] bool busy() const { return !m_queue.empty(); }
  /// How much of the copy that is being made is done, 0 to 1.
  [[nodiscard]] double fraction() const { return m_fraction; }
  [[nodiscard]] LightCopies& copies() { return *m_copies; }

signals:
  void progress();
  void ready(const QString& sourceId);
  void failed(const QString& reason);

private:
  void next();
  void end(const std::string& id, const Status& done);
  /// A copy is of the pictures as the source's scan makes them.
  [[nodiscard]] std::string keyOf(const Source& source) const;
  Document& m_document;
  std::shared_ptr<LightCopies> m_copies; ///< shared with the work under way
  std::deque<std::string> m_queue;       ///< the first is under way
  double m_fraction = 0;
  Worker m_worker;
};

} // namespace tromb
