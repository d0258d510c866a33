// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/PosterService.h"

#include "model/Background.h"
#include "model/PictureKey.h"
#include "model/ScreenImage.h"

namespace tromb {
namespace {

constexpr Size kMost{1024, 1024};
constexpr int kCacheKilobytes = 400'000;
constexpr int kSmallest = 48;

Poster* made(const ScreenPicture& picture) {
  return new Poster(posterOf(imageOf(picture)));
}

} // namespace

Poster posterOf(const QImage& picture) {
  Poster poster;
  poster.levels.push_back(picture);
  while (poster.levels.back().width() > kSmallest && poster.levels.back().height() > kSmallest) {
    const QImage& last = poster.levels.back();
    poster.levels.push_back(
        last.scaled(last.width() / 2, last.height() / 2, Qt::IgnoreAspectRatio, Qt::SmoothTransformation));
  }
  return poster;
}

const QImage& Poster::atLeast(double width) const {
  size_t level = 0;
  while (level + 1 < levels.size() && levels[level + 1].width() >= width) ++level;
  return levels[level];
}

PosterService::PosterService(const Document& document, QObject* parent)
    : QObject(parent), m_document(document), m_cache(kCacheKilobytes) {
  m_pool.setMaxThreadCount(2);
}

PosterService::~PosterService() {
  m_stop.request_stop();
  m_pool.clear();
  m_pool.waitForDone();
}

const Poster* PosterService::poster(int row) {
  const Shot& shot = m_document.project().shots[size_t(row)];
  const Result<MediaInfo>* media = m_document.media(shot.source);
  if (!media || !*media || !(*media)->video) return nullptr;
  return picture(*m_document.project().source(shot.source), **media,
                 (*media)->video->clock.nearest((shot.in + shot.out) / Rational(2)));
}

const Poster* PosterService::under(const Cell& cell) {
  const std::string& id = cell.framing.still;
  const Source* source = cell.framing.liesOn(id) ? m_document.project().source(id) : nullptr;
  const Result<MediaInfo>* media = source ? m_document.media(id) : nullptr;
  return media && *media && (*media)->video ? picture(*source, **media, 0) : nullptr;
}

const Poster* PosterService::picture(const Source& source, const MediaInfo& media, int64_t frame) {
  const QString key = QStringLiteral("%1|%2").arg(pictureKey(source, *media.video)).arg(frame);
  if (const Poster* there = m_cache.object(key)) return there;
  if (m_underWay.contains(key) || m_failed.contains(key)) return nullptr;
  m_underWay.insert(key);
  m_pool.start([this, key, frame, info = asTaken(source, media), bars = source.bars, stop = m_stop.get_token()] {
    giveWay();
    if (stop.stop_requested()) return;
    const auto picture = sourcePicture(info, bars, frame, kMost, false);
    Poster* poster = picture ? made(*picture) : nullptr;
    QMetaObject::invokeMethod(this, [this, key, poster] {
      m_underWay.remove(key);
      if (!poster)
        m_failed.insert(key);
      else
        m_cache.insert(key, poster, int(poster->levels.front().sizeInBytes() / 768) + 1);
      emit ready();
    });
  });
  return nullptr;
}

} // namespace tromb
