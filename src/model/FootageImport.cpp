// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/FootageImport.h"

#include "analysis/BarMeter.h"

#include <QDir>
#include <QFileInfo>

namespace tromb {
namespace {

QStringList filesOf(const QStringList& paths) {
  QStringList files;
  for (const QString& path : paths) {
    const QFileInfo info(path);
    if (!info.isDir())
      files << info.absoluteFilePath();
    else
      for (const QFileInfo& inside : QDir(path).entryInfoList(QDir::Files, QDir::Name | QDir::IgnoreCase))
        files << inside.absoluteFilePath();
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
    work(stop);
    QMetaObject::invokeMethod(this, [this, stop] {
      if (stop.stop_requested()) return; // another run has taken its place
      if (m_thread.joinable()) m_thread.join();
      m_thread = {};
      emit finished();
    });
  });
}

void FootageImport::bringIn(const QStringList& paths) {
  const QStringList files = filesOf(paths);
  QStringList known;
  for (const Source& source : m_document.project().sources) known << QString::fromStdString(source.path);
  run([this, files, known](const std::stop_token& stop) {
    std::vector<Document::NewFootage> good;
    QStringList reasons;
    QStringList seen = known;
    for (int i = 0; i < files.size() && !stop.stop_requested(); ++i) {
      QMetaObject::invokeMethod(this,
                                [this, i, all = int(files.size()), file = files[i]] { emit progress(i, all, file); });
      if (seen.contains(files[i])) {
        reasons << tr("%1: is in the project already.").arg(QFileInfo(files[i]).fileName());
        continue;
      }
      auto media = probe(files[i].toStdString());
      if (media && !media->video)
        media = fail(ErrorCode::NotMedia, "the file has sound only; this version brings in pictures",
                     files[i].toStdString());
      const auto bars = media ? measureBars(*media, stop) : Result<Bars>(Bars{});
      if (!media || !bars) {
        Error error = media ? bars.error() : media.error();
        error.path = QFileInfo(files[i]).fileName().toStdString();
        reasons << QString::fromStdString(sentence(error));
        continue;
      }
      seen << files[i];
      good.push_back({*media, *bars});
    }
    QMetaObject::invokeMethod(this, [this, stop, good = std::move(good), reasons] {
      if (stop.stop_requested()) return;
      m_document.addFootage(good);
      if (!reasons.isEmpty()) emit refused(reasons);
    });
  });
}

void FootageImport::lookAtSources() {
  run([this, sources = m_document.project().sources](const std::stop_token& stop) {
    for (size_t i = 0; i < sources.size() && !stop.stop_requested(); ++i) {
      auto media = probe(sources[i].path);
      QMetaObject::invokeMethod(
          this, [this, stop, i, all = int(sources.size()), source = sources[i], media = std::move(media)] {
            if (stop.stop_requested()) return;
            m_document.setMedia(source.id, media);
            emit progress(int(i) + 1, all, QString::fromStdString(source.path));
          });
    }
  });
}

} // namespace tromb
