// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/PosterService.h"

#include "model/PictureKey.h"
#include "model/ScreenImage.h"

#include <QBuffer>

namespace tromb {
namespace {

constexpr Size kMost{1024, 1024};
constexpr int kCacheKilobytes = 400'000;
constexpr int kSmallest = 48;
constexpr int kThreads = 2;
constexpr int64_t kFolderBytes = 500'000'000;
constexpr int kQuick = 90; ///< as Qt counts for PNG: little time for making files small

std::optional<Kept<Poster>::Made> made(const QImage& picture) {
  if (picture.isNull()) return {};
  Poster poster = posterOf(picture);
  const qint64 bytes = poster.levels.front().sizeInBytes() * 4 / 3; // of all levels
  return Kept<Poster>::Made{std::move(poster), bytes};
}

std::string fileOf(const QImage& picture) {
  QByteArray bytes;
  QBuffer buffer(&bytes);
  picture.save(&buffer, "PNG", kQuick); // without loss: the sheet looks the same the next time
  return bytes.toStdString();
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

PosterService::PosterService(const Document& document, const QString& folder, QObject* parent)
    : QObject(parent), m_document(document), m_folder(folder.toStdString(), kFolderBytes),
      m_posters(kCacheKilobytes, kThreads) {}

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
  const QString key = QStringLiteral("%1|%2").arg(pictureKey(source, media)).arg(frame);
  const auto make = [frame, info = asTaken(source, media), bars = source.bars, folder = m_folder,
                     key = key.toStdString(), lasting = !source.fingerprint.empty()](const std::stop_token& stop) {
    if (stop.stop_requested()) return std::optional<Kept<Poster>::Made>();
    if (lasting)
      if (const auto kept = folder.find(key))
        if (const QImage there = QImage::fromData(QByteArray::fromStdString(*kept)); !there.isNull())
          return made(there);
    const auto picture = sourcePicture(info, bars, frame, kMost, false);
    if (!picture) return std::optional<Kept<Poster>::Made>();
    const QImage image = imageOf(*picture);
    if (lasting) folder.keep(key, fileOf(image));
    return made(image);
  };
  return m_posters.find(key, make, [this] { emit ready(); });
}

} // namespace tromb
