// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/StripService.h"

#include "model/PictureKey.h"
#include "model/ScreenImage.h"

namespace tromb {
namespace {

constexpr Size kMostStripPicture{256, 144};
constexpr int kStripKilobytes = 200'000;
constexpr int kStripThreads = 2;

} // namespace

StripService::StripService(const Document& document, QObject* parent)
    : QObject(parent), m_document(document), m_strips(kStripKilobytes, kStripThreads) {}

const StripService::Strip* StripService::strip(const Source& source) {
  const Result<MediaInfo>* media = m_document.media(source.id);
  if (!media || !*media || !(*media)->video) return nullptr;
  const auto make = [reading =
                         readingOf(source, **media)](const std::stop_token& stop) -> std::optional<Kept<Strip>::Made> {
    const auto pictures = sourceStrip(reading, kPictures, kMostStripPicture, stop);
    if (!pictures || stop.stop_requested()) return {};
    Kept<Strip>::Made made;
    for (const ScreenPicture& each : *pictures) {
      made.value.push_back(imageOf(each));
      made.bytes += made.value.back().sizeInBytes();
    }
    return made;
  };
  return m_strips.find(pictureKey(source, **media), make,
                       [this, id = QString::fromStdString(source.id)] { emit ready(id); });
}

} // namespace tromb
