// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/PosterService.h"

#include "model/PictureKey.h"
#include "model/ScreenImage.h"

#include <array>
#include <cstdint>
#include <cstring>

namespace tromb {
namespace {

constexpr Size kMostPoster{1024, 1024};
constexpr int kPosterKilobytes = 400'000;
constexpr int kSmallest = 48;
constexpr int kPosterThreads = 2;
constexpr int64_t kPosterFolderBytes = 500'000'000;

std::optional<Kept<Poster>::Made> made(const QImage& picture) {
  if (picture.isNull()) return {};
  Poster poster = posterOf(picture);
  const qint64 bytes = poster.levels.front().sizeInBytes() * 4 / 3; // of all levels
  return Kept<Poster>::Made{std::move(poster), bytes};
}

/// A picture is kept uncompressed, because decompressing would take longer than reading it. The
/// sheet looks the same the next time.
struct FileHead {
  std::array<char, 8> mark{'p', 'o', 's', 't', 'e', 'r', ' ', '1'};
  int32_t width = 0;
  int32_t height = 0;
  int32_t bytes = 0; ///< a pixel: 3 or, with transparency, 4
};

std::string fileOf(const QImage& picture) {
  const bool transparent = picture.hasAlphaChannel();
  const QImage packed =
      picture.convertToFormat(transparent ? QImage::Format_ARGB32_Premultiplied : QImage::Format_RGB888);
  const FileHead head{.width = packed.width(), .height = packed.height(), .bytes = transparent ? 4 : 3};
  const size_t row = size_t(head.width) * size_t(head.bytes);
  std::string file(sizeof head + row * size_t(head.height), '\0');
  std::memcpy(file.data(), &head, sizeof head);
  for (int y = 0; y < head.height; ++y)
    std::memcpy(file.data() + sizeof head + row * size_t(y), packed.constScanLine(y), row);
  return file;
}

/// Null where the file is not whole.
QImage pictureIn(const std::string& file) {
  FileHead head;
  if (file.size() < sizeof head) return {};
  std::memcpy(&head, file.data(), sizeof head);
  if (head.mark != FileHead().mark || (head.bytes != 3 && head.bytes != 4)) return {};
  if (head.width <= 0 || head.height <= 0 || head.width > kMostPoster.width || head.height > kMostPoster.height)
    return {};
  const size_t row = size_t(head.width) * size_t(head.bytes);
  if (file.size() != sizeof head + row * size_t(head.height)) return {};
  const bool transparent = head.bytes == 4;
  const auto* pixels = reinterpret_cast<const uchar*>(file.data()) + sizeof head;
  const QImage packed(pixels, head.width, head.height, qsizetype(row),
                      transparent ? QImage::Format_ARGB32_Premultiplied : QImage::Format_RGB888);
  return transparent ? packed.copy() : packed.convertToFormat(QImage::Format_RGB32);
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
    : QObject(parent), m_document(document), m_folder(folder.toStdString(), kPosterFolderBytes),
      m_posters(kPosterKilobytes, kPosterThreads) {}

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
  const auto make = [frame, reading = readingOf(source, media), folder = m_folder, key = key.toStdString(),
                     lasting = !source.fingerprint.empty()](const std::stop_token& stop) {
    if (stop.stop_requested()) return std::optional<Kept<Poster>::Made>();
    if (lasting)
      if (const auto kept = folder.find(key))
        if (const QImage there = pictureIn(*kept); !there.isNull()) return made(there);
    const auto picture = sourcePicture(reading, frame, kMostPoster, false);
    if (!picture) return std::optional<Kept<Poster>::Made>();
    const QImage image = imageOf(*picture);
    if (lasting) folder.keep(key, fileOf(image));
    return made(image);
  };
  return m_posters.find(key, make, [this] { emit ready(); });
}

} // namespace tromb
