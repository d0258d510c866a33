// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/FootageImport.h"

#include "media/Fingerprint.h"
#include "model/Background.h"

#include <QDirIterator>
#include <QFileInfo>
#include <QHash>
#include <atomic>
#include <chrono>
#include <mutex>

namespace tromb {
namespace {

constexpr auto kTellEvery = std::chrono::milliseconds(80);

QStringList filesOf(const QStringList& paths) {
  QStringList files;
  for (const QString& path : paths) {
    const QFileInfo info(path);
    if (!info.isDir()) {
      files << info.absoluteFilePath();
      continue;
    }
    QStringList inside;
    QDirIterator walk(path, QDir::Files, QDirIterator::Subdirectories);
    while (walk.hasNext()) inside << QFileInfo(walk.next()).absoluteFilePath();
    inside.sort(Qt::CaseInsensitive);
    files << inside;
  }
  return files;
}

} // namespace

FootageImport::FootageImport(Document& document, QObject* parent) : QObject(parent), m_document(document) {}

FootageImport::~FootageImport() {
  cancel();
}

void FootageImport::cancel() {
  m_thread = {}; // asks it to stop and waits; it looks after every file
}

template <typename Work> void FootageImport::run(Work work) {
  cancel();
  m_thread = std::jthread([this, work = std::move(work)](const std::stop_token& stop) {
    giveWay();
    work(stop);
    QMetaObject::invokeMethod(this, [this, stop] {
      if (stop.stop_requested()) return; // another run has taken its place
      if (m_thread.joinable()) m_thread.join();
      m_thread = {};
      emit finished();
    });
  });
}

void FootageImport::bringIn(const QStringList& paths, Document::AsShots asShots, const std::string& group) {
  QHash<QString, QString> there; // by path and by fingerprint: the name it has here
  for (const Source& source : m_document.project().sources) {
    const QString name = QString::fromStdString(sourceName(source));
    there.insert(QString::fromStdString(source.path), name);
    if (!source.fingerprint.empty()) there.insert(QString::fromStdString(source.fingerprint), name);
  }
  run([this, paths, there, asShots, group](const std::stop_token& stop) {
    QHash<QString, QString> known = there;
    const QStringList files = filesOf(paths);
    std::vector<Document::NewFootage> good;
    QStringList reasons;
    auto told = std::chrono::steady_clock::time_point{};
    for (int i = 0; i < files.size() && !stop.stop_requested(); ++i) {
      if (const auto now = std::chrono::steady_clock::now(); now - told >= kTellEvery) {
        told = now;
        QMetaObject::invokeMethod(this,
                                  [this, i, all = int(files.size()), file = files[i]] { emit progress(i, all, file); });
      }
      const QString name = QFileInfo(files[i]).fileName();
      const auto refuse = [&](Error error) {
        error.path = name.toStdString();
        reasons << QString::fromStdString(sentence(error));
      };
      if (const auto at = known.constFind(files[i]); at != known.constEnd()) {
        reasons << tr("%1: is in the project already, as '%2'.").arg(name, *at);
        continue;
      }
      auto media = probe(files[i].toStdString());
      const auto fingerprint = media ? fingerprintOf(files[i].toStdString()) : Result<std::string>("");
      if (!media || !fingerprint) {
        refuse(media ? fingerprint.error() : media.error());
        continue;
      }
      const QString print = QString::fromStdString(*fingerprint);
      if (const auto at = known.constFind(print); at != known.constEnd()) {
        reasons << tr("%1: is a copy of '%2', which is in the project already.").arg(name, *at);
        continue;
      }
      known.insert(files[i], QFileInfo(files[i]).completeBaseName());
      known.insert(print, QFileInfo(files[i]).completeBaseName());
      good.push_back({std::move(*media), *fingerprint});
    }
    QMetaObject::invokeMethod(this, [this, stop, good = std::move(good), reasons, asShots, group] {
      if (stop.stop_requested()) return;
      m_document.addFootage(good, asShots, group);
      emit broughtIn(int(good.size()));
      if (!reasons.isEmpty()) emit refused(reasons);
    });
  });
}

void FootageImport::lookAtSources() {
  std::vector<std::pair<std::string, std::string>> sources; // id and path
  for (const Source& source : m_document.project().sources)
    if (!m_document.media(source.id)) sources.emplace_back(source.id, source.path);
  run([this, sources = std::move(sources)](const std::stop_token& stop) {
    std::mutex mutex;
    std::vector<Document::Learned> learned;
    std::atomic<size_t> next{0};
    std::atomic<size_t> done{0};
    const auto work = [&] {
      for (size_t i = next++; i < sources.size() && !stop.stop_requested(); i = next++) {
        auto media = probe(sources[i].second);
        const std::scoped_lock lock(mutex);
        learned.push_back({sources[i].first, std::move(media)});
        ++done;
      }
    };
    // Told in batches: each one makes the views look at their rows again.
    const auto tell = [&] {
      std::vector<Document::Learned> batch;
      {
        const std::scoped_lock lock(mutex);
        batch.swap(learned);
      }
      if (batch.empty()) return;
      QMetaObject::invokeMethod(this, [this, stop, batch = std::move(batch), n = int(done), all = int(sources.size())] {
        if (stop.stop_requested()) return;
        m_document.setMedia(batch);
        emit progress(n, all, {});
      });
    };
    {
      const std::jthread first(work);
      const std::jthread second(work);
      while (done < sources.size() && !stop.stop_requested()) {
        std::this_thread::sleep_for(kTellEvery / 4);
        tell();
      }
    }
    tell();
  });
}

} // namespace tromb
