// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/StripService.h"

#include "model/Background.h"
#include "model/PictureKey.h"
#include "model/ScreenImage.h"

namespace tromb {
namespace {

constexpr Size kMost{256, 144};
constexpr int kCacheKilobytes = 200'000;

} // namespace

StripService::StripService(const Document& document, QObject* parent)
    : QObject(parent), m_document(document), m_cache(kCacheKilobytes) {
  m_pool.setMaxThreadCount(2);
}

StripService::~StripService() {
  m_stop.request_stop();
  m_pool.clear();
  m_pool.waitForDone();
}

const StripService::Strip* StripService::strip(const Source& source) {
  const Result<MediaInfo>* media = m_document.media(source.id);
  if (!media || !*media || !(*media)->video) return nullptr;
  const Bars& b = source.bars;
  const QString key = pictureKey(source, *(*media)->video);
  if (const Strip* there = m_cache.object(key)) return there;
  if (m_underWay.contains(key) || m_failed.contains(key)) return nullptr;
  m_underWay.insert(key);
  m_pool.start([this, key, info = asTaken(source, **media), bars = b, id = QString::fromStdString(source.id),
                stop = m_stop.get_token()] {
    giveWay();
    const auto pictures = sourceStrip(info, bars, kPictures, kMost, stop);
    auto* strip = pictures && !stop.stop_requested() ? new Strip : nullptr;
    if (strip)
      for (const ScreenPicture& p : *pictures) strip->push_back(imageOf(p));
    QMetaObject::invokeMethod(this, [this, key, id, strip] {
      m_underWay.remove(key);
      if (!strip)
        m_failed.insert(key);
      else
        m_cache.insert(key, strip, int(strip->size()) * 150);
      emit ready(id);
    });
  });
  return nullptr;
}

} // namespace tromb
