// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/FootageImport.h"

#include "media/read/Fingerprint.h"
#include "media/read/Probe.h"
#include "model/Translation.h"

#include <QDirIterator>
#include <QFileInfo>
#include <QHash>
#include <mutex>
#include <utility>

namespace tromb {
namespace {

QStringList filesOf(const QStringList& paths, const std::stop_token& stop) {
  QStringList files;
  for (const QString& path : paths) {
    const QFileInfo info(path);
    if (!info.isDir()) {
      files << info.absoluteFilePath();
      continue;
    }
    QStringList inside;
    QDirIterator walk(path, QDir::Files, QDirIterator::Subdirectories);
    while (walk.hasNext() && !stop.stop_requested()) inside << QFileInfo(walk.next()).absoluteFilePath();
    inside.sort(Qt::CaseInsensitive);
    files << inside;
  }
  return files;
}

/// The names of the footage that is there, by path and by fingerprint.
class Known {
public:
  explicit Known(const Project& project) {
    for (const Source& source : project.sources)
      add(source.path, source.fingerprint, QString::fromStdString(sourceName(source)));
  }
  void add(const std::string& path, const std::string& fingerprint, const QString& name) {
    m_names.insert(QString::fromStdString(path), name);
    if (!fingerprint.empty()) m_names.insert(QString::fromStdString(fingerprint), name);
  }
  /// Why a file is not brought in again; empty where it is new. `fingerprint` may be empty.
  [[nodiscard]] QString refusal(const std::string& path, const std::string& fingerprint) const {
    const QString name = QFileInfo(QString::fromStdString(path)).fileName();
    if (const auto at = m_names.constFind(QString::fromStdString(path)); at != m_names.constEnd())
      return FootageImport::tr("%1: is in the project already, as '%2'.").arg(name, *at);
    if (const auto at = m_names.constFind(QString::fromStdString(fingerprint));
        !fingerprint.empty() && at != m_names.constEnd())
      return FootageImport::tr("%1: is a copy of '%2', which is in the project already.").arg(name, *at);
    return {};
  }

private:
  QHash<QString, QString> m_names;
};

} // namespace

struct FootageImport::Seen {
  std::mutex mutex;
  std::vector<Document::Learned> learned;
};

FootageImport::FootageImport(Document& document, const QString& indexFolder, QObject* parent)
    : QObject(parent), m_document(document), m_indexFolder(indexFolder.toStdString()),
      m_seen(std::make_shared<Seen>()) {
  connect(&document, &Document::aboutToReset, this, [this] {
    m_bringing.stop();
    if (!std::exchange(m_ahead, false)) stopLooking();
  });
  connect(&document, &Document::factsWanted, this, &FootageImport::lookAtSources, Qt::QueuedConnection);
  connect(&m_looking, &Worker::idle, this, &FootageImport::end);
  connect(&m_bringing, &Worker::idle, this, &FootageImport::end);
}

void FootageImport::end() {
  if (!m_looking.busy()) m_sources = 0;
  if (!busy()) emit finished();
}

void FootageImport::stopBringingIn() {
  m_bringing.stop();
  end();
}

void FootageImport::bringIn(const QStringList& paths, Document::AsShots asShots, const std::string& group) {
  m_bringing.add(
      [this, paths, asShots, group, known = Known(m_document.project()), indexes = m_indexFolder](const Task& task) {
        const QStringList files = filesOf(paths, task.stop());
        std::vector<Document::NewFootage> good;
        QStringList reasons;
        Throttle seldom(std::chrono::milliseconds(80));
        for (int i = 0; i < files.size() && !task.stopped(); ++i) {
          if (seldom.due())
            task.tell([this, i, all = int(files.size()), file = files[i]] { emit progress(i, all, file); });
          const std::string path = files[i].toStdString();
          if (const QString there = known.refusal(path, {}); !there.isEmpty()) {
            reasons << there;
            continue;
          }
          auto media = probe(path, {.stop = task.stop(), .indexFolder = indexes});
          const auto print = media ? fingerprintOf(path) : Result<std::string>(tl::unexpected(media.error()));
          if (print) {
            good.push_back({std::move(*media), *print});
            continue;
          }
          Error error = print.error();
          error.path = QFileInfo(files[i]).fileName().toStdString();
          reasons << said(error);
        }
        task.tell([this, good, reasons, asShots, group] { take(good, reasons, asShots, group); });
      },
      [this](const Error& error) { emit refused({said(error)}); });
}

void FootageImport::take(const std::vector<Document::NewFootage>& good, QStringList reasons, Document::AsShots asShots,
                         const std::string& group) {
  // Only now is it certain what is there: other files may have come in meanwhile.
  Known known(m_document.project());
  std::vector<Document::NewFootage> taken;
  for (const Document::NewFootage& each : good) {
    if (const QString there = known.refusal(each.media.path, each.fingerprint); !there.isEmpty()) {
      reasons << there;
      continue;
    }
    known.add(each.media.path, each.fingerprint, QFileInfo(QString::fromStdString(each.media.path)).completeBaseName());
    taken.push_back(each);
  }
  m_document.addFootage(taken, asShots, group);
  emit broughtIn(int(taken.size()));
  if (!reasons.isEmpty()) emit refused(reasons);
}

void FootageImport::lookAhead(const Project& project) {
  stopLooking();
  m_ahead = true;
  for (const Source& source : project.sources) look(source);
}

void FootageImport::stopLooking() {
  m_ahead = false;
  m_looking.stop();
  m_underWay.clear();
  m_seen = std::make_shared<Seen>();
  m_sources = 0;
}

void FootageImport::lookAtSources() {
  takeSeen(); // what was looked at ahead
  for (const Source& source : m_document.project().sources)
    if (!m_document.media(source.id)) look(source);
  end(); // where there was nothing to look at
}

void FootageImport::look(const Source& source) {
  if (const auto under = m_underWay.find(source.id); under != m_underWay.end() && under->second == source.path) return;
  m_underWay[source.id] = source.path;
  ++m_sources;
  m_looking.add(
      [this, id = source.id, path = source.path, seen = m_seen, indexes = m_indexFolder](const Task& task) {
        auto media = probe(path, {.stop = task.stop(), .indexFolder = indexes});
        const auto print = media ? fingerprintOf(path) : Result<std::string>("");
        bool first = false;
        {
          const std::scoped_lock lock(seen->mutex);
          first = seen->learned.empty();
          seen->learned.push_back({id, std::move(media), path, print.value_or("")});
        }
        // Results that arrive before the window handles events are taken together, because the views update with each
        // batch.
        if (first) task.tell([this] { takeSeen(); });
      },
      [this, id = source.id, path = source.path](const Error& error) {
        Error named = error;
        named.path = path;
        {
          const std::scoped_lock lock(m_seen->mutex);
          m_seen->learned.push_back({id, tl::unexpected(named), path, {}});
        }
        takeSeen();
      });
}

void FootageImport::takeSeen() {
  if (m_ahead) return; // the document still holds the project before
  std::vector<Document::Learned> learned;
  {
    const std::scoped_lock lock(m_seen->mutex);
    learned.swap(m_seen->learned);
  }
  if (learned.empty()) return;
  for (const Document::Learned& each : learned)
    if (const auto at = m_underWay.find(each.sourceId); at != m_underWay.end() && at->second == each.path)
      m_underWay.erase(at);
  m_document.setMedia(learned);
  emit progress(m_sources - int(m_underWay.size()), m_sources, {});
}

} // namespace tromb
