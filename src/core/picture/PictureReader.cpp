// SPDX-License-Identifier: GPL-3.0-or-later
#include "picture/PictureReader.h"

#include "picture/Relabelled.h"

#include <utility>

namespace tromb {

Result<PictureReader> PictureReader::open(const Reading& reading, ReadOptions options) {
  options.scan = reading.scan;
  options.scanCertain = reading.scanCertain;
  options.byFields = reading.byFields;
  auto opened = VideoReader::open(reading.file, options);
  if (!opened) return tl::unexpected(opened.error());
  PictureReader reader(std::move(*opened));
  reader.m_colour = reading.colour;
  reader.m_repeats = reading.repeats;
  if (reading.orientation.straighten != 0) reader.m_straightener.emplace(reading.shape());
  return reader;
}

Result<NumberedFrame> PictureReader::shown(int64_t number, const std::stop_token& unasked) {
  auto got = asRead(m_reader.shown(frameOf(number), unasked));
  if (got && m_repeats) got->number = m_repeats->pictureAt(got->number);
  return got;
}

Result<Frame> PictureReader::frameAt(int64_t number, const std::stop_token& unasked) {
  auto got = shown(number, unasked);
  if (!got) return tl::unexpected(got.error());
  return std::move(got->frame);
}

Result<NumberedFrame> PictureReader::read() {
  for (;;) {
    auto got = m_reader.read();
    if (!m_repeats || !got || !got->frame) return asRead(std::move(got));
    const int64_t picture = m_repeats->pictureAt(got->number);
    if (m_repeats->frameOf(picture) != got->number) continue; // it has been there before
    got->number = picture;
    return asRead(std::move(got));
  }
}

Result<NumberedFrame> PictureReader::asRead(Result<NumberedFrame> picture) const {
  if (!picture || !picture->frame) return picture;
  if (m_colour) picture->frame = relabelled(picture->frame, *m_colour);
  if (!m_straightener) return picture;
  auto turned = m_straightener->run(picture->frame);
  if (!turned) return tl::unexpected(turned.error());
  picture->frame = std::move(*turned);
  return picture;
}

} // namespace tromb
