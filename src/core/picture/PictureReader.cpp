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
  if (reading.orientation.straighten != 0) reader.m_straightener.emplace(reading.shape());
  return reader;
}

Result<NumberedFrame> PictureReader::shown(int64_t number, const std::stop_token& unasked) {
  return asRead(m_reader.shown(number, unasked));
}

Result<Frame> PictureReader::frameAt(int64_t number, const std::stop_token& unasked) {
  auto got = shown(number, unasked);
  if (!got) return tl::unexpected(got.error());
  return std::move(got->frame);
}

Result<NumberedFrame> PictureReader::read() {
  return asRead(m_reader.read());
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
