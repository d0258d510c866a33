// SPDX-License-Identifier: GPL-3.0-or-later
#include "media/write/OutputFile.h"

#include "encoding/H264Level.h"
#include "media/Av.h"
#include "media/SoundFormat.h"

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

constexpr int kKeyFrameSeconds = 2;

/// Reference frames that x264's speed presets use (x264 common/base.c, param_apply_preset).
int presetReferences(const std::string& speed) {
  if (speed == "ultrafast" || speed == "superfast" || speed == "veryfast") return 1;
  if (speed == "faster" || speed == "fast") return 2;
  if (speed == "medium") return 3;
  return speed == "slow" ? 5 : speed == "slower" ? 8 : 16;
}

constexpr int kBufferBytes = 256 * 1024;

/// An open file as FFmpeg writes to it, and reads what it has written to put the index first. What the system says of
/// an error is kept.
class OutputBytes {
public:
  explicit OutputBytes(int fd, bool writes = true) : m_fd(fd) {
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
  [[nodiscard]] int fd() const { return m_fd; }
  [[nodiscard]] int trouble() const { return m_trouble; } ///< errno of the first write that failed; 0 where none did

private:
  static int read(void* self, uint8_t* to, int count) {
    auto& s = *static_cast<OutputBytes*>(self);
    ssize_t got = 0;
    do got = ::pread(s.m_fd, to, size_t(count), s.m_at);
    while (got < 0 && errno == EINTR);
    if (got < 0) return AVERROR(errno);
    s.m_at += got;
    return got == 0 ? AVERROR_EOF : int(got);
  }
  static int write(void* self, uint8_t* from, int count) {
    auto& s = *static_cast<OutputBytes*>(self);
    for (int done = 0; done < count;) {
      const ssize_t put = ::pwrite(s.m_fd, from + done, size_t(count - done), s.m_at);
      if (put < 0 && errno == EINTR) continue;
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
    const int64_t size = ::fstat(s.m_fd, &facts) == 0 ? int64_t(facts.st_size) : -1;
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

  int m_fd;
  int64_t m_at = 0;
  int m_trouble = 0;
  AVIOContext* m_io = nullptr;
};

/// The muxer opens the file again, to move what stands in it.
int openAgain(AVFormatContext* format, AVIOContext** io, const char* /*url*/, int flags, AVDictionary** /*options*/) {
  if (flags & AVIO_FLAG_WRITE) return AVERROR(EPERM);
  *io = (new OutputBytes(static_cast<OutputBytes*>(format->opaque)->fd(), false))->io(); // closeAgain deletes it
  return 0;
}
int closeAgain(AVFormatContext* /*format*/, AVIOContext* io) {
  delete static_cast<OutputBytes*>(io->opaque);
  return 0;
}

struct OutputCloser {
  void operator()(AVFormatContext* c) const { avformat_free_context(c); }
};

} // namespace

struct OutputFile::State {
  State(int fd, std::string name) : path(std::move(name)), bytes(fd) {}
  std::string path;
  Descriptor own; ///< where the file was opened here
  OutputBytes bytes;
  std::unique_ptr<AVFormatContext, OutputCloser> format;
  av::CodecPtr video;
  av::CodecPtr audio;
  av::PacketPtr packet{av::allocated(av_packet_alloc())};
  av::FramePtr soundFrame{av::allocated(av_frame_alloc())};
  std::vector<float> pending; ///< sound that does not fill an encoder frame yet
  int64_t nextPicture = 0;
  int64_t nextSample = 0;

  [[nodiscard]] tl::unexpected<Error> writeError(int native) const {
    if (const int code = bytes.trouble()) return cannotWrite(path, code);
    return fail(ErrorCode::CannotWrite, say("writing failed (%1)", av::text(native)), path,
                say("Check that the folder is there and can be written to"));
  }
  [[nodiscard]] tl::unexpected<Error> encodeError(const Message& what, int native) const {
    return fail(ErrorCode::Encoder, say("%1 (%2)", what, av::text(native)), path, {}, say("frame %1", nextPicture));
  }

  Status openVideo(const PictureStream& picture) {
    const AVCodec* codec = avcodec_find_encoder_by_name("libx264");
    if (!codec) return fail(ErrorCode::Unsupported, say("this system's FFmpeg has no libx264"), path);
    const Encoding& e = picture.encoding;
    video.reset(av::allocated(avcodec_alloc_context3(codec)));
    AVCodecContext& c = *video;
    c.width = picture.size.width;
    c.height = picture.size.height;
    c.pix_fmt = AV_PIX_FMT_YUV420P;
    c.thread_count = picture.threads;
    c.framerate = av::rational(picture.rate.value());
    c.time_base = av_inv_q(c.framerate);
    c.sample_aspect_ratio = av::rational(picture.pixelAspect);
    c.color_primaries = AVCOL_PRI_BT709;
    c.color_trc = AVCOL_TRC_BT709;
    c.colorspace = AVCOL_SPC_BT709;
    c.color_range = AVCOL_RANGE_MPEG;
    c.chroma_sample_location = AVCHROMA_LOC_LEFT;
    c.gop_size = picture.keyFrameEvery > 0
                     ? picture.keyFrameEvery
                     : int(std::max<int64_t>(1, (Rational(kKeyFrameSeconds) * picture.rate.value()).nearest()));
    if (format->oformat->flags & AVFMT_GLOBALHEADER) c.flags |= AV_CODEC_FLAG_GLOBAL_HEADER;
    av_opt_set(c.priv_data, "preset", e.speed.c_str(), 0);
    av_opt_set(c.priv_data, "profile", e.profile.c_str(), 0);
    // The fast presets leave out what tells Main from High; asking for it makes the label true.
    if (e.profile == "high") av_opt_set(c.priv_data, "x264-params", "8x8dct=1", 0);
    if (e.rateControl == RateControl::ConstantQuality)
      av_opt_set_double(c.priv_data, "crf", e.crf, 0);
    else
      c.bit_rate = e.bitRate;
    if (e.maxBitRate > 0) {
      c.rc_max_rate = e.maxBitRate;
      c.rc_buffer_size = int(std::min<int64_t>(e.maxBitRate, INT32_MAX));
    }
    if (e.rateControl == RateControl::Constant) av_opt_set(c.priv_data, "nal-hrd", "cbr", 0);
    if (const H264Level* level = levelByName(e.level)) {
      av_opt_set(c.priv_data, "level", std::string(level->name).c_str(), 0);
      // x264 takes the level as a label only; keep the buffer of references within it ourselves.
      const int most = maxReferences(*level, picture.size);
      if (most > 0 && presetReferences(e.speed) > most) c.refs = most;
    }
    if (const int native = avcodec_open2(&c, codec, nullptr); native < 0)
      return fail(ErrorCode::Encoder, say("the encoder does not accept these settings (%1)", av::text(native)), path,
                  say("Check canvas, rate, profile and level"));
    return {};
  }

  Status openAudio(int64_t bitRate) {
    const AVCodec* codec = avcodec_find_encoder(AV_CODEC_ID_AAC);
    audio.reset(av::allocated(avcodec_alloc_context3(codec)));
    AVCodecContext& c = *audio;
    c.sample_fmt = AV_SAMPLE_FMT_FLTP;
    c.sample_rate = kSoundRate;
    c.ch_layout = AV_CHANNEL_LAYOUT_STEREO;
    c.bit_rate = bitRate;
    c.time_base = {1, kSoundRate};
    if (format->oformat->flags & AVFMT_GLOBALHEADER) c.flags |= AV_CODEC_FLAG_GLOBAL_HEADER;
    if (const int native = avcodec_open2(&c, codec, nullptr); native < 0)
      return encodeError(say("the sound encoder does not start"), native);
    return {};
  }

  /// Hands what an encoder has ready to the muxer.
  Status drain(AVCodecContext& encoder, int stream) {
    for (;;) {
      const int native = avcodec_receive_packet(&encoder, packet.get());
      if (native == AVERROR(EAGAIN) || native == AVERROR_EOF) return {};
      if (native < 0) return encodeError(say("encoding failed"), native);
      packet->stream_index = stream;
      if (stream == 0) packet->duration = 1;
      av_packet_rescale_ts(packet.get(), encoder.time_base, format->streams[stream]->time_base);
      int written = av_interleaved_write_frame(format.get(), packet.get());
      if (written >= 0 && format->pb->error < 0) written = format->pb->error;
      if (written < 0) return writeError(written);
    }
  }

  /// Encodes `count` samples from the front of `pending`.
  Status encodeSound(int count) {
    AVFrame& f = *soundFrame;
    f.nb_samples = count;
    f.format = AV_SAMPLE_FMT_FLTP;
    f.sample_rate = kSoundRate;
    f.ch_layout = AV_CHANNEL_LAYOUT_STEREO;
    int native = av_frame_get_buffer(&f, 0);
    if (native >= 0) {
      for (int i = 0; i < count; ++i)
        for (int ch = 0; ch < kSoundChannels; ++ch)
          reinterpret_cast<float*>(f.data[ch])[i] = pending[size_t(i * kSoundChannels + ch)];
      f.pts = nextSample;
      nextSample += count;
      native = avcodec_send_frame(audio.get(), &f);
    }
    av_frame_unref(&f);
    if (native < 0) return encodeError(say("encoding the sound failed"), native);
    pending.erase(pending.begin(), pending.begin() + count * kSoundChannels);
    return drain(*audio, 1);
  }
};

OutputFile::OutputFile(std::unique_ptr<State> state) : m_state(std::move(state)) {}
OutputFile::OutputFile(OutputFile&&) noexcept = default;
OutputFile& OutputFile::operator=(OutputFile&&) noexcept = default;
OutputFile::~OutputFile() = default;

Result<OutputFile> OutputFile::create(const std::string& path, const PictureStream& picture, bool sound) {
  Descriptor file(::open(path.c_str(), O_RDWR | O_CREAT | O_TRUNC | O_CLOEXEC, 0666));
  if (!file) return cannotWrite(path, errno);
  auto made = create(file, path, picture, sound);
  if (made) made->m_state->own = std::move(file);
  return made;
}

Result<OutputFile> OutputFile::create(const Descriptor& file, const std::string& name, const PictureStream& picture,
                                      bool sound) {
  av::tame();
  auto state = std::make_unique<State>(file.get(), name);
  State& s = *state;
  AVFormatContext* raw = nullptr;
  avformat_alloc_output_context2(&raw, nullptr, "mp4", nullptr);
  s.format.reset(av::allocated(raw));
  raw->pb = s.bytes.io();
  raw->flags |= AVFMT_FLAG_CUSTOM_IO;
  raw->opaque = &s.bytes;
  raw->io_open = &openAgain;
  raw->io_close2 = &closeAgain;
  if (const Status opened = s.openVideo(picture); !opened) return tl::unexpected(opened.error());
  if (sound)
    if (const Status opened = s.openAudio(picture.encoding.audioBitRate); !opened)
      return tl::unexpected(opened.error());

  for (AVCodecContext* encoder : {s.video.get(), s.audio.get()}) {
    if (!encoder) continue;
    AVStream* stream = av::allocated(avformat_new_stream(raw, nullptr));
    if (avcodec_parameters_from_context(stream->codecpar, encoder) < 0) throw std::bad_alloc();
    stream->time_base = encoder->time_base;
    stream->avg_frame_rate = encoder->framerate;
    stream->sample_aspect_ratio = encoder->sample_aspect_ratio;
  }
  if (picture.rotation != 0 || picture.mirrored) {
    auto* matrix = reinterpret_cast<int32_t*>(
        av::allocated(av_stream_new_side_data(raw->streams[0], AV_PKT_DATA_DISPLAYMATRIX, sizeof(int32_t) * 9)));
    av_display_rotation_set(matrix, picture.rotation);
    if (picture.mirrored) av_display_matrix_flip(matrix, 1, 0);
  }
  AVDictionary* options = nullptr;
  av_dict_set(&options, "movflags", "+faststart", 0);
  const int native = avformat_write_header(raw, &options);
  av_dict_free(&options);
  if (native < 0) return s.writeError(native);
  return OutputFile(std::move(state));
}

Status OutputFile::addPicture(const Frame& canvas, int64_t lasts) {
  State& s = *m_state;
  const av::FramePtr frame(av::allocated(av_frame_clone(canvas.get())));
  frame->pts = s.nextPicture;
  s.nextPicture += lasts;
  frame->pict_type = AV_PICTURE_TYPE_NONE;
  const int native = avcodec_send_frame(s.video.get(), frame.get());
  if (native < 0) return s.encodeError(say("encoding failed"), native);
  return s.drain(*s.video, 0);
}

Status OutputFile::addSound(std::span<const float> samples) {
  State& s = *m_state;
  s.pending.insert(s.pending.end(), samples.begin(), samples.end());
  while (int(s.pending.size()) / kSoundChannels >= s.audio->frame_size)
    if (const Status done = s.encodeSound(s.audio->frame_size); !done) return done;
  return {};
}

Status OutputFile::finish() {
  State& s = *m_state;
  if (s.audio) {
    if (!s.pending.empty())
      if (const Status done = s.encodeSound(int(s.pending.size()) / kSoundChannels); !done) return done;
    avcodec_send_frame(s.audio.get(), nullptr);
    if (const Status done = s.drain(*s.audio, 1); !done) return done;
  }
  avcodec_send_frame(s.video.get(), nullptr);
  if (const Status done = s.drain(*s.video, 0); !done) return done;
  const int native = av_write_trailer(s.format.get());
  avio_flush(s.bytes.io());
  if (native < 0 || s.bytes.trouble() != 0) return s.writeError(native);
  return {};
}

} // namespace tromb
