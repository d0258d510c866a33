// SPDX-License-Identifier: GPL-3.0-or-later
#include "media/write/OutputFile.h"

#include "media/Av.h"

#include <cerrno>
#include <fcntl.h>
#include <utility>

namespace tromb {
namespace {

/// What a container keeps of an encoder's headers for all packets. Of H.265 without what the encoder tells of itself
/// (units 39 and 40, Rec. ITU-T H.265, table 7-1), among which is where it began.
std::string headersOf(const PictureEncoder& encoder) {
  const AVCodecContext& c = encoder.context();
  std::string headers(c.extradata, c.extradata + c.extradata_size);
  if (c.codec_id != AV_CODEC_ID_HEVC) return headers;
  const std::string start("\0\0\1", 3);
  std::string kept;
  for (size_t at = headers.find(start); at != std::string::npos;) {
    const size_t next = headers.find(start, at + start.size());
    const std::string unit = headers.substr(at, next == std::string::npos ? next : next - at);
    const int type = unit.size() > start.size() ? (uint8_t(unit[start.size()]) >> 1) & 0x3F : 0;
    if (type != 39 && type != 40) kept += unit;
    at = next;
  }
  return kept;
}

} // namespace

Result<OutputFile> OutputFile::create(const std::string& path, const PictureStream& stream, Holds holds) {
  auto file = std::make_unique<Descriptor>(::open(path.c_str(), O_RDWR | O_CREAT | O_TRUNC | O_CLOEXEC, 0666));
  if (!*file) return cannotWrite(path, errno);
  auto made = create(*file, path, stream, holds);
  if (made) made->m_own = std::move(file);
  return made;
}

Result<OutputFile> OutputFile::create(const Descriptor& file, const std::string& name, const PictureStream& stream,
                                      Holds holds, PassLog* log, std::vector<Chapter> chapters) {
  const Encoding& e = stream.encoding;
  auto muxer = Muxer::create(file, name, holds == Holds::Sound ? soundContainer(e) : *e.container);
  if (!muxer) return tl::unexpected(muxer.error());
  OutputFile out(std::move(*muxer));
  out.m_name = name;
  out.m_log = log;
  if (holds != Holds::Sound) {
    auto picture = PictureEncoder::open(stream, name, out.m_muxer.headersApart(), log);
    if (!picture) return tl::unexpected(picture.error());
    out.m_picture.emplace(std::move(*picture));
    out.m_headers = headersOf(*out.m_picture);
    out.m_pictureStream = out.m_muxer.addPicture(*out.m_picture, stream);
  }
  if (holds != Holds::Picture) {
    auto opened = SoundEncoder::open(e.sound, name, out.m_muxer.headersApart());
    if (!opened) return tl::unexpected(opened.error());
    out.m_sound.emplace(std::move(*opened));
    out.m_soundStream = out.m_muxer.addSound(out.m_sound->context());
  }
  if (const Status begun = out.m_muxer.begin({e.title, e.comment, e.language, std::move(chapters)}); !begun)
    return tl::unexpected(begun.error());
  return out;
}

PacketSink OutputFile::sink(int stream) {
  return [this, stream](AVPacket& packet) { return m_muxer.write(stream, packet); };
}

PacketSink OutputFile::pictureSink() {
  return [this](AVPacket& packet) -> Status {
    if (m_onPicture)
      if (const Status shown = m_onPicture(packet); !shown) return shown;
    return m_muxer.write(m_pictureStream, packet);
  };
}

Status OutputFile::addPicture(const Frame& canvas, int64_t lasts) {
  return m_picture->add(canvas, lasts, pictureSink());
}

Status OutputFile::finishPicture() {
  if (!m_picture) return {};
  const Status done = m_picture->finish(pictureSink());
  m_picture.reset(); // before another is opened: there may be room for one alone in graphics hardware
  return done;
}

Status OutputFile::nextEncoder(const PictureStream& stream) {
  auto picture = PictureEncoder::open(stream, m_name, m_muxer.headersApart(), m_log);
  if (!picture) return tl::unexpected(picture.error());
  m_picture.emplace(std::move(*picture));
  if (headersOf(*m_picture) != m_headers)
    return fail(ErrorCode::Encoder, say("the encoder does not go on as it began"), m_name);
  return {};
}

Status OutputFile::addPacket(AVPacket& packet) {
  return m_muxer.write(m_pictureStream, packet);
}

Status OutputFile::addSound(std::span<const float> samples) {
  return m_sound->add(samples, sink(m_soundStream));
}

Status OutputFile::finish() {
  if (m_sound)
    if (const Status done = m_sound->finish(sink(m_soundStream)); !done) return done;
  if (const Status done = finishPicture(); !done) return done;
  return m_muxer.finish();
}

} // namespace tromb
