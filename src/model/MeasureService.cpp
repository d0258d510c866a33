// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/MeasureService.h"

#include "media/read/Fingerprint.h"
#include "model/Translation.h"

namespace tromb {

MeasureService::MeasureService(Document& document, const QString& folder, QObject* parent)
    : QObject(parent), m_document(document), m_store(folder.toStdString()) {
  connect(&document, &Document::mediaChanged, this, &MeasureService::take);
  connect(&document, &Document::sourcesInserted, this, [this] {
    QStringList ids;
    for (const Source& source : m_document.project().sources) ids << QString::fromStdString(source.id);
    take(ids);
  });
  connect(&document, &Document::aboutToReset, this, [this] {
    m_worker.stop();
    m_pending.clear();
  });
}

void MeasureService::take(const QStringList& ids) {
  for (const QString& each : ids) {
    const std::string id = each.toStdString();
    const Source* source = m_document.project().source(id);
    const Result<MediaInfo>* media = m_document.media(id);
    if (!source || !media || !*media || m_document.measured(id) || m_pending.contains(id)) continue;
    m_pending.emplace(id, source->fingerprint);
    m_worker.add(
        [this, id, info = **media, known = source->fingerprint, store = m_store](const Task& task) {
          task.tell([this, name = QString::fromStdString(info.path)] { emit progress(left(), name); });
          const auto print = known.empty() ? fingerprintOf(info.path) : Result<std::string>(known);
          if (!print) return task.tell([this, id, error = print.error()] { end(id, {}, tl::unexpected(error)); });
          const std::optional<Measured> kept = store.find(*print);
          const auto found = kept ? Result<Measured>(*kept) : measure(info, task.stop());
          if (found && !kept) store.keep(*print, *found);
          task.tell([this, id, found, print = *print] { end(id, print, found); });
        },
        [this, id](const Error& error) { end(id, {}, tl::unexpected(error)); });
  }
}

void MeasureService::end(const std::string& id, const std::string& fingerprint, const Result<Measured>& found) {
  const std::string asked = m_pending[id];
  m_pending.erase(id);
  const Source* source = m_document.project().source(id);
  if (source && source->fingerprint != asked)
    take({QString::fromStdString(id)}); // it is another file by now
  else if (found)
    m_document.setMeasured(id, fingerprint, *found);
  else if (found.error().code != ErrorCode::Cancelled)
    emit failed(said(found.error()));
  emit progress(left(), {});
}

} // namespace tromb
