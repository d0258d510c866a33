// SPDX-License-Identifier: GPL-3.0-or-later
#include "media/write/OutputFile.h"

#include <cerrno>
#include <fcntl.h>
#include <utility>

namespace tromb {

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
  if (holds != Holds::Sound) {
    auto picture = PictureEncoder::open(stream, name, out.m_muxer.headersApart(), log);
    if (!picture) return tl::unexpected(picture.error());
    out.m_picture.emplace(std::move(*picture));
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

Status OutputFile::addPicture(const Frame& canvas, int64_t lasts) {
  return m_picture->add(canvas, lasts, sink(m_pictureStream));
}

Status OutputFile::addSound(std::span<const float> samples) {
  return m_sound->add(samples, sink(m_soundStream));
}

Status OutputFile::finish() {
  if (m_sound)
    if (const Status done = m_sound->finish(sink(m_soundStream)); !done) return done;
  if (m_picture)
    if (const Status done = m_picture->finish(sink(m_pictureStream)); !done) return done;
  return m_muxer.finish();
}

} // namespace tromb
