// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/MeasureService.h"

#include "media/Fingerprint.h"
#include "model/Background.h"

namespace tromb {

MeasureService::MeasureService(Document& document, const QString& folder, QObject* parent)
    : QObject(parent), m_document(document), m_store(folder.toStdString()),
      m_thread([this](const std::stop_token& stop) { work(stop); }) {
  connect(&document, &Document::mediaChanged, this, &MeasureService::take);
  connect(&document, &Document::sourcesInserted, this, [this] {
    QStringList ids;
    for (const Source& source : m_document.project().sources) ids << QString::fromStdString(source.id);
    take(ids);
  });
  connect(&document, &Document::aboutToReset, this, [this] {
    const std::scoped_lock lock(m_mutex);
    ++m_round;
    m_jobs.clear();
    m_pending.clear();
    m_left = 0;
    m_current.request_stop();
  });
}

MeasureService::~MeasureService() {
  m_thread.request_stop();
  const std::scoped_lock lock(m_mutex);
  m_current.request_stop();
}

void MeasureService::take(const QStringList& ids) {
  {
    const std::scoped_lock lock(m_mutex);
    for (const QString& each : ids) {
      const std::string id = each.toStdString();
      const Source* source = m_document.project().source(id);
      const Result<MediaInfo>* media = m_document.media(id);
      if (!source || !media || !*media || m_document.measured(id) || m_pending.contains(id)) continue;
      m_pending.insert(id);
      m_jobs.push_back({id, **media, source->fingerprint, m_round});
      ++m_left;
    }
  }
  m_changed.notify_all();
}

void MeasureService::work(const std::stop_token& stop) {
  giveWay();
  for (;;) {
    Job job;
    std::stop_token current;
    {
      std::unique_lock lock(m_mutex);
      // Closing a window does not wait for what is still to be measured.
      if (!m_changed.wait(lock, stop, [this] { return !m_jobs.empty(); }) || stop.stop_requested()) return;
      job = std::move(m_jobs.front());
      m_jobs.pop_front();
      m_current = {};
      current = m_current.get_token();
    }
    const QString name = QString::fromStdString(job.media.path);
    QMetaObject::invokeMethod(this, [this, name] { emit progress(m_left, name); });
    const auto print = job.fingerprint.empty() ? fingerprintOf(job.media.path) : Result<std::string>(job.fingerprint);
    std::optional<Measured> known = print ? m_store.find(*print) : std::nullopt;
    auto found = known ? Result<Measured>(*known) : measure(job.media, current);
    if (found && print && !known) m_store.keep(*print, *found);
    QMetaObject::invokeMethod(this, [this, job = std::move(job), found = std::move(found), print] {
      if (job.round != m_round) return;
      m_pending.erase(job.sourceId);
      --m_left;
      if (found)
        m_document.setMeasured(job.sourceId, print.value_or(""), *found);
      else if (found.error().code != ErrorCode::Cancelled)
        emit failed(QString::fromStdString(sentence(found.error())));
      emit progress(m_left, {});
    });
  }
}

} // namespace tromb
