// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/LightService.h"
#include "model/Translation.h"

#include <algorithm>

namespace tromb {

LightService::LightService(Document& document, const QString& folder, qint64 limitBytes, QObject* parent)
    : QObject(parent), m_document(document), m_copies(std::make_shared<LightCopies>(folder.toStdString(), limitBytes)) {
  connect(&document, &Document::aboutToReset, this, &LightService::cancel);
}

std::string LightService::keyOf(const Source& source) const {
  const Result<MediaInfo>* media = m_document.media(source.id);
  if (source.fingerprint.empty() || !media || !*media || !(*media)->video) return source.fingerprint;
  return source.fingerprint + "-" + scanWord(scanOf(source, *(*media)->video));
}

std::optional<MediaInfo> LightService::find(const std::string& sourceId) const {
  const Source* source = m_document.project().source(sourceId);
  return source ? m_copies->find(keyOf(*source)) : std::nullopt;
}

bool LightService::has(const std::string& sourceId) const {
  const Source* source = m_document.project().source(sourceId);
  return source && m_copies->has(keyOf(*source));
}

std::function<std::optional<MediaInfo>(const std::string&)> LightService::finder() const {
  std::map<std::string, std::string> keys;
  for (const Source& source : m_document.project().sources)
    if (std::string key = keyOf(source); m_copies->has(key)) keys.emplace(source.id, std::move(key));
  return [copies = m_copies, keys = std::move(keys)](const std::string& id) -> std::optional<MediaInfo> {
    const auto key = keys.find(id);
    return key == keys.end() ? std::nullopt : copies->find(key->second);
  };
}

bool LightService::underWay(const std::string& sourceId) const {
  return std::find(m_queue.begin(), m_queue.end(), sourceId) != m_queue.end();
}

void LightService::ask(const std::string& sourceId) {
  const Source* source = m_document.project().source(sourceId);
  const Result<MediaInfo>* media = m_document.media(sourceId);
  if (!source || source->fingerprint.empty() || !media || !*media || (*media)->kind != MediaKind::Video ||
      underWay(sourceId) || has(sourceId))
    return;
  m_queue.push_back(sourceId);
  if (m_queue.size() == 1) next();
  emit progress();
}

void LightService::cancel() {
  m_worker.stop();
  m_queue.clear();
  emit progress();
}

void LightService::next() {
  if (m_queue.empty()) return;
  const std::string id = m_queue.front();
  const Source* source = m_document.project().source(id);
  const Result<MediaInfo>* media = m_document.media(id);
  m_fraction = 0;
  if (!source || !media || !*media) { // removed meanwhile
    m_queue.pop_front();
    return next();
  }
  m_worker.add(
      [this, id, copies = m_copies, reading = readingOf(*source, **media), print = keyOf(*source)](const Task& task) {
        Throttle seldom(std::chrono::milliseconds(150));
        const Status done = copies->make(reading, print, task.stop(), [&](double fraction) {
          if (!seldom.due()) return;
          task.tell([this, fraction] {
            m_fraction = fraction;
            emit progress();
          });
        });
        task.tell([this, id, done] { end(id, done); });
      },
      [this, id](const Error& error) { end(id, tl::unexpected(error)); });
}

void LightService::end(const std::string& id, const Status& done) {
  m_queue.pop_front();
  if (done)
    emit ready(QString::fromStdString(id));
  else
    emit failed(said(done.error()));
  next();
  emit progress();
}

} // namespace tromb
