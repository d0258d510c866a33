// SPDX-License-Identifier: GPL-3.0-or-later
#include "media/write/Muxer.h"

#include "media/Av.h"

#include <algorithm>
#include <cerrno>
#include <cmath>
#include <cstring>
#include <fcntl.h>
#include <new>
#include <sys/stat.h>
#include <unistd.h>
#include <vector>

namespace tromb {
namespace {

constexpr int kBufferBytes = 256 * 1024;

/// An open file as FFmpeg writes to it, and reads what it has written to put the index first. What the system says of
/// an error is kept.
class OutputBytes {
public:
  explicit OutputBytes(const Descriptor& file, bool writes = true) : m_file(file) {
    auto* buffer = static_cast<unsigned char*>(av_malloc(kBufferBytes));
    if (buffer) m_io = avio_alloc_context(buffer, kBufferBytes, writes ? 1 : 0, this, &read, &write, &seek);
    if (m_io) return;
    av_free(buffer);
    throw std::bad_alloc();
  }
  OutputBytes(const OutputBytes&) = delete;
  OutputBytes& operator=(const OutputBytes&) = delete;
  ~OutputBytes() {
    av_freep(&m_io->buffer);
    avio_context_free(&m_io);
  }
  [[nodiscard]] AVIOContext* io() const { return m_io; }
  [[nodiscard]] const Descriptor& file() const { return m_file; }
  [[nodiscard]] int trouble() const { return m_trouble; } ///< errno of the first write that failed; 0 where none did

private:
  static int read(void* self, uint8_t* to, int count) {
    auto& s = *static_cast<OutputBytes*>(self);
    ssize_t got = 0;
    do got = ::pread(s.m_file.get(), to, size_t(count), s.m_at);
    while (got < 0 && errno == EINTR);
    if (got < 0) return AVERROR(errno);
    s.m_at += got;
    return got == 0 ? AVERROR_EOF : int(got);
  }
  static int write(void* self, uint8_t* from, int count) {
    auto& s = *static_cast<OutputBytes*>(self);
    for (int done = 0; done < count;) {
      const ssize_t put = ::pwrite(s.m_file.get(), from + done, size_t(count - done), s.m_at);
      if (put < 0 && (errno == EINTR || s.m_file.triesAgain(errno))) continue;
      if (put <= 0) {
        if (s.m_trouble == 0) s.m_trouble = put < 0 ? errno : ENOSPC;
        return AVERROR(s.m_trouble);
      }
      done += int(put);
      s.m_at += put;
    }
    return count;
  }
  static int64_t seek(void* self, int64_t offset, int whence) {
    auto& s = *static_cast<OutputBytes*>(self);
    struct stat facts {};
    const int64_t size = ::fstat(s.m_file.get(), &facts) == 0 ? int64_t(facts.st_size) : -1;
    switch (whence & ~AVSEEK_FORCE) {
    case AVSEEK_SIZE:
      return size;
    case SEEK_CUR:
      offset += s.m_at;
      break;
    case SEEK_END:
      offset += size;
      break;
    default:
      break;
    }
    return offset < 0 ? int64_t(AVERROR(EINVAL)) : s.m_at = offset;
  }

  const Descriptor& m_file;
  int64_t m_at = 0;
  int m_trouble = 0;
  AVIOContext* m_io = nullptr;
};

/// The muxer opens the file again, to move what stands in it.
int openAgain(AVFormatContext* format, AVIOContext** io, const char* /*url*/, int flags, AVDictionary** /*options*/) {
  if (flags & AVIO_FLAG_WRITE) return AVERROR(EPERM);
  *io = (new OutputBytes(static_cast<OutputBytes*>(format->opaque)->file(), false))->io(); // closeAgain deletes it
  return 0;
}
int closeAgain(AVFormatContext* /*format*/, AVIOContext* io) {
  delete static_cast<OutputBytes*>(io->opaque);
  return 0;
}

struct OutputCloser {
  void operator()(AVFormatContext* c) const { avformat_free_context(c); }
};

void setHeaders(AVCodecParameters& of, const std::string& headers) {
  av_freep(&of.extradata);
  of.extradata_size = 0;
  if (headers.empty()) return;
  of.extradata = static_cast<uint8_t*>(av::allocated(av_mallocz(headers.size() + AV_INPUT_BUFFER_PADDING_SIZE)));
  std::copy(headers.begin(), headers.end(), of.extradata);
  of.extradata_size = int(headers.size());
}

} // namespace

struct Muxer::State {
  State(const Descriptor& file, std::string name) : path(std::move(name)), bytes(file) {}
  std::string path;
  OutputBytes bytes;
  std::unique_ptr<AVFormatContext, OutputCloser> format;
  std::vector<AVRational> ticks; ///< of the encoder of each stream
  std::vector<int64_t> delays;   ///< of each stream, in its encoder's ticks, that are added to its times
  /// Readers take the delay of the encoder of Opus off the times of its packets (CodecDelay of Matroska, RFC 9559).
  /// FFmpeg writes that element for Opus, but does not add it to the times, and would put off the picture instead.
  bool delaysApart = false;
  bool soundAlone = false;

  [[nodiscard]] tl::unexpected<Error> writeError(int native) const {
    if (const int code = bytes.trouble()) return cannotWrite(path, code);
    return fail(ErrorCode::CannotWrite, say("writing failed (%1)", av::text(native)), path,
                say("Check that the folder is there and can be written to"));
  }

  int add(const AVCodecContext& encoder) {
    AVStream* stream = av::allocated(avformat_new_stream(format.get(), nullptr));
    if (avcodec_parameters_from_context(stream->codecpar, &encoder) < 0) throw std::bad_alloc();
    stream->time_base = encoder.time_base;
    stream->avg_frame_rate = encoder.framerate;
    stream->sample_aspect_ratio = encoder.sample_aspect_ratio;
    ticks.push_back(encoder.time_base);
    delays.push_back(delaysApart && encoder.codec_id == AV_CODEC_ID_OPUS ? encoder.initial_padding : 0);
    return stream->index;
  }
};

Muxer::Muxer(std::unique_ptr<State> state) : m_state(std::move(state)) {}
Muxer::Muxer(Muxer&&) noexcept = default;
Muxer& Muxer::operator=(Muxer&&) noexcept = default;
Muxer::~Muxer() = default;

Result<Muxer> Muxer::create(const Descriptor& file, const std::string& name, Container container) {
  av::tame();
  auto state = std::make_unique<State>(file, name);
  const ContainerInfo& info = infoOf(container);
  AVFormatContext* raw = nullptr;
  const int native = avformat_alloc_output_context2(&raw, nullptr, std::string(info.muxer).c_str(), nullptr);
  if (native == AVERROR(EINVAL))
    return fail(ErrorCode::Encoder, say("this system's FFmpeg cannot write %1", info.name), name,
                say("Choose another container"));
  state->format.reset(av::allocated(raw));
  state->delaysApart = !info.boxes;
  state->soundAlone = !info.picture;
  raw->pb = state->bytes.io();
  raw->flags |= AVFMT_FLAG_CUSTOM_IO;
  raw->opaque = &state->bytes;
  raw->io_open = &openAgain;
  raw->io_close2 = &closeAgain;
  return Muxer(std::move(state));
}

bool Muxer::headersApart() const {
  return (m_state->format->oformat->flags & AVFMT_GLOBALHEADER) != 0;
}

int Muxer::addPicture(const PictureEncoder& encoder, const std::string& headers, const PictureStream& stream) {
  State& s = *m_state;
  const int index = s.add(encoder.context());
  AVStream& made = *s.format->streams[index];
  setHeaders(*made.codecpar, headers);
  const std::string_view tag = stream.encoding.info().tag;
  if (tag.size() == 4 && infoOf(*stream.encoding.container).boxes)
    made.codecpar->codec_tag = MKTAG(tag[0], tag[1], tag[2], tag[3]);
  if (stream.light.most > 0) {
    auto* light = reinterpret_cast<AVContentLightMetadata*>(
        av::allocated(av_stream_new_side_data(&made, AV_PKT_DATA_CONTENT_LIGHT_LEVEL, sizeof(AVContentLightMetadata))));
    light->MaxCLL = unsigned(stream.light.most);
    light->MaxFALL = unsigned(stream.light.mostAverage);
  }
  if (stream.rotation != 0 || stream.mirrored) {
    auto* matrix = reinterpret_cast<int32_t*>(
        av::allocated(av_stream_new_side_data(&made, AV_PKT_DATA_DISPLAYMATRIX, sizeof(int32_t) * 9)));
    av_display_rotation_set(matrix, stream.rotation);
    if (stream.mirrored) av_display_matrix_flip(matrix, 1, 0);
  }
  return index;
}

int Muxer::addSound(const AVCodecContext& encoder) {
  return m_state->add(encoder);
}

int Muxer::addCopy(const AVStream& source, const std::string& headers) {
  State& s = *m_state;
  AVStream* stream = av::allocated(avformat_new_stream(s.format.get(), nullptr));
  AVCodecParameters& made = *stream->codecpar;
  if (avcodec_parameters_copy(&made, source.codecpar) < 0) throw std::bad_alloc();
  if (!headers.empty()) setHeaders(made, headers);
  // A tag is of one kind of container; where this one does not know it, it finds its own.
  const AVCodecTag* const* tags = s.format->oformat->codec_tag;
  if (tags && av_codec_get_id(tags, made.codec_tag) != made.codec_id) made.codec_tag = 0;
  stream->time_base = source.time_base;
  stream->avg_frame_rate = source.avg_frame_rate;
  stream->sample_aspect_ratio = source.sample_aspect_ratio;
  stream->disposition = source.disposition;
  for (int i = 0; i < source.nb_side_data; ++i) {
    const AVPacketSideData& data = source.side_data[i];
    uint8_t* to = av::allocated(av_stream_new_side_data(stream, data.type, data.size));
    std::copy_n(data.data, data.size, to);
  }
  av_dict_copy(&stream->metadata, source.metadata, 0);
  s.ticks.push_back(source.time_base);
  const bool putOff = s.delaysApart && made.codec_id == AV_CODEC_ID_OPUS && made.sample_rate > 0;
  s.delays.push_back(putOff ? av_rescale_q(made.initial_padding, {1, made.sample_rate}, source.time_base) : 0);
  return stream->index;
}

Status Muxer::begin(const Tags& tags) {
  State& s = *m_state;
  const auto tag = [](AVDictionary** to, const char* key, const std::string& value) {
    if (!value.empty()) av_dict_set(to, key, value.c_str(), 0);
  };
  tag(&s.format->metadata, "title", tags.title);
  tag(&s.format->metadata, "comment", tags.comment);
  for (unsigned i = 0; i < s.format->nb_streams; ++i) tag(&s.format->streams[i]->metadata, "language", tags.language);
  constexpr int kChapterTicks = 1000; // a second; finer than this no container keeps them
  for (const Chapter& chapter : tags.chapters) {
    auto* mark = static_cast<AVChapter*>(av::allocated(av_mallocz(sizeof(AVChapter))));
    mark->id = int64_t(s.format->nb_chapters) + 1;
    mark->time_base = {1, kChapterTicks};
    mark->start = Rational::nearestProduct(chapter.begin, Rational(kChapterTicks));
    mark->end = Rational::nearestProduct(chapter.end, Rational(kChapterTicks));
    av_dict_set(&mark->metadata, "title", chapter.title.c_str(), 0);
    const unsigned before = s.format->nb_chapters;
    av_dynarray_add(&s.format->chapters, reinterpret_cast<int*>(&s.format->nb_chapters), mark);
    if (s.format->nb_chapters == before) throw std::bad_alloc();
  }
  AVDictionary* options = nullptr;
  // Each muxer takes what it knows of these.
  av_dict_set(&options, "movflags", "+faststart", 0);
  if (s.soundAlone) av_dict_set(&options, "brand", "M4A ", 0); // ISO/IEC 14496-12: what else it may be taken as
  av_dict_set(&options, "cues_to_front", "1", 0);
  av_dict_set(&options, "loop", "0", 0);                        // for ever
  s.format->strict_std_compliance = FF_COMPLIANCE_EXPERIMENTAL; // FLAC in MP4
  const int native = avformat_write_header(s.format.get(), &options);
  av_dict_free(&options);
  if (native >= 0) return {};
  if (s.bytes.trouble() == 0 && native == AVERROR(EINVAL))
    return fail(ErrorCode::Encoder, say("the container does not take these streams (%1)", av::text(native)), s.path,
                say("Choose another container or codec"));
  return s.writeError(native);
}

Status Muxer::write(int stream, AVPacket& packet) {
  State& s = *m_state;
  packet.stream_index = stream;
  packet.pts += s.delays[size_t(stream)];
  packet.dts += s.delays[size_t(stream)];
  av_packet_rescale_ts(&packet, s.ticks[size_t(stream)], s.format->streams[stream]->time_base);
  int written = av_interleaved_write_frame(s.format.get(), &packet);
  if (written >= 0 && s.format->pb->error < 0) written = s.format->pb->error;
  return written < 0 ? Status(s.writeError(written)) : Status();
}

Status Muxer::finish() {
  State& s = *m_state;
  const int native = av_write_trailer(s.format.get());
  avio_flush(s.bytes.io());
  return native < 0 || s.bytes.trouble() != 0 ? Status(s.writeError(native)) : Status();
}

} // namespace tromb
