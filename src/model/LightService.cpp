// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/LightService.h"

#include "model/Background.h"
#include <algorithm>
#include <chrono>

namespace tromb {
namespace {

/// Copies keep the orientation of the file: the project's is given to them when they are looked at.
MediaInfo asStored(const Source& source, const MediaInfo& media) {
  MediaInfo taken = asTaken(source, media);
  taken.video->orientation = {};
  return taken;
}

} // namespace

LightService::LightService(Document& document, const QString& folder, qint64 limitBytes, QObject* parent)
    : QObject(parent), m_document(document), m_copies(folder.toStdString(), limitBytes) {
  connect(&document, &Document::aboutToReset, this, &LightService::cancel);
}

std::string LightService::keyOf(const Source& source) const {
  const Result<MediaInfo>* media = m_document.media(source.id);
  if (source.fingerprint.empty() || !media || !*media || !(*media)->video) return source.fingerprint;
  return source.fingerprint + "-" + scanWord(scanOf(source, *(*media)->video));
}

std::optional<MediaInfo> LightService::find(const std::string& sourceId) const {
  const Source* source = m_document.project().source(sourceId);
  return source ? m_copies.find(keyOf(*source)) : std::nullopt;
}

bool LightService::has(const std::string& sourceId) const {
  const Source* source = m_document.project().source(sourceId);
  return source && m_copies.has(keyOf(*source));
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
  m_thread.request_stop();
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
  m_thread =
      std::jthread([this, id, info = asStored(*source, **media), print = keyOf(*source)](const std::stop_token& stop) {
        giveWay();
        auto told = std::chrono::steady_clock::time_point{};
        const Status done = m_copies.make(info, print, stop, [&](double fraction) {
          const auto now = std::chrono::steady_clock::now();
          if (now - told < std::chrono::milliseconds(150)) return;
          told = now;
          QMetaObject::invokeMethod(this, [this, fraction] {
            m_fraction = fraction;
            emit progress();
          });
        });
        QMetaObject::invokeMethod(this, [this, id, done, stop] {
          if (stop.stop_requested()) return;
          m_queue.pop_front();
          if (done)
            emit ready(QString::fromStdString(id));
          else
            emit failed(QString::fromStdString(sentence(done.error())));
          next();
          emit progress();
        });
      });
}

} // namespace tromb
