// SPDX-License-Identifier: GPL-3.0-or-later
#include "media/write/OutputFile.h"

#include "media/Av.h"
#include "media/CodedUnits.h"

#include <algorithm>
#include <cerrno>
#include <fcntl.h>
#include <utility>

namespace tromb {
namespace {

constexpr int64_t kMostOutOfOrder = 2; ///< frames, that x264 and x265 decode a picture before it is shown

tl::unexpected<Error> apart(const std::string& name) {
  return fail(ErrorCode::Encoder, say("the encoder does not go on as it began"), name);
}

/// Of two encoders whose pictures lie in one file. Nothing where they cannot stand together.
std::optional<std::string> joinedHeaders(const char* codec, const std::string& before, const std::string& own) {
  if (unitFraming(codec, {})) return withSets(codec, bytesIn(before), {}, bytesIn(own));
  return before == own ? std::optional(own) : std::nullopt;
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
    out.m_headers = out.m_picture->headers();
    out.m_ahead = stream.decodedAhead;
    std::string headers = out.m_headers;
    if (!stream.headersBefore.empty()) {
      auto both = joinedHeaders(out.m_picture->codec(), stream.headersBefore, out.m_headers);
      if (!both) return apart(name);
      headers = std::move(*both);
    }
    out.m_pictureStream = out.m_muxer.addPicture(*out.m_picture, headers, stream);
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
    packet.dts -= m_ahead;
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
  if (m_picture->headers() != m_headers) return apart(m_name);
  return {};
}

Status OutputFile::addPacket(AVPacket& packet, bool before) {
  if (before) { // so that decoding goes on in order where this encoder puts pictures further out of their order
    const bool ordered = !unitFraming(m_picture->codec(), {});
    if (!m_earlier) m_earlier = ordered ? 0 : std::max<int64_t>(0, kMostOutOfOrder - (packet.pts - packet.dts));
    packet.dts -= *m_earlier;
  }
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
