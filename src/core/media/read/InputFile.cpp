// SPDX-License-Identifier: GPL-3.0-or-later
#include "io/Descriptor.h"
#include "media/Av.h"

#include <array>
#include <cerrno>
#include <cstring>
#include <filesystem>
#include <new>
#include <optional>
#include <string_view>
#include <utility>

namespace tromb::av {
namespace {

constexpr int kBufferBytes = 256 * 1024;
constexpr int kMostEmptyReads = 10'000; ///< in a row, before a file that gives nothing counts as at its end

/// Formats that hold pictures and sound themselves. Left out are playlists, patterns of file names, joins of files,
/// scripts, subtitles, devices, and raw formats that anything can be taken for.
constexpr const char* kFormats =
    "aac,ac3,aiff,amr,ape,apng,asf,au,av1,avi,avs2,bmp_pipe,caf,cavsvideo,cine,dds_pipe,dirac,dnxhd,dpx_pipe,dsf,dts,"
    "dtshd,dv,eac3,exr_pipe,flac,flic,flv,gif,gxf,h261,h263,h264,hevc,ivf,j2k_pipe,jpeg_pipe,jpegls_pipe,jpegxl_pipe,"
    "live_flv,lmlm4,loas,lxf,m4v,matroska,webm,mjpeg,mjpeg_2000,mlp,mov,mp4,mp3,mpc,mpc8,mpeg,mpegts,mpegvideo,mtv,mxf,"
    "nsv,nut,nuv,obu,ogg,oma,pam_pipe,pbm_pipe,pcx_pipe,pfm_pipe,pgm_pipe,pgmyuv_pipe,phm_pipe,png_pipe,ppm_pipe,"
    "psd_pipe,qoi_pipe,r3d,rm,roq,sgi_pipe,shn,smjpeg,smk,sunrast_pipe,tak,tiff_pipe,truehd,tta,vc1,vc1test,voc,w64,"
    "wav,webp_pipe,wtv,wv,xbm_pipe,xpm_pipe,xwd_pipe,yuv4mpegpipe";

/// True when a file begins as an ISO base media file, so that a failure means damage, not another kind of file.
bool beginsLikeMp4(const Descriptor& file) {
  std::array<char, 8> head{};
  return readAt(file, 0, head.data(), head.size()) == ptrdiff_t(head.size()) &&
         (std::memcmp(head.data() + 4, "ftyp", 4) == 0 || std::memcmp(head.data() + 4, "moov", 4) == 0);
}

int refuseToOpen(AVFormatContext* /*context*/, AVIOContext** /*io*/, const char* /*url*/, int /*flags*/,
                 AVDictionary** /*options*/) {
  return AVERROR(EPERM);
}

/// Beyond these a stamp is damage: sums of several stay within 64 bits, and a clock that counts from 1970 is in.
constexpr int64_t kMostStamp = INT64_MAX / 16;
constexpr double kMostSeconds = 1e10;

/// Stamps and lengths that nothing can be reckoned with are none.
void dropSenseless(AVPacket& packet, const AVStream& stream) {
  if (!sensible(packet.pts, stream)) packet.pts = AV_NOPTS_VALUE;
  if (!sensible(packet.dts, stream)) packet.dts = AV_NOPTS_VALUE;
  if (packet.duration < 0 || !sensible(packet.duration, stream)) packet.duration = 0;
}

} // namespace

struct InputFile::State {
  std::string path;
  std::stop_token stop;
  std::shared_ptr<const StreamParameters> parameters;
  Descriptor file;
  int64_t size = 0;
  int64_t at = 0;
  int trouble = 0; ///< errno of a read that failed
  bool brokenOff = false;
  AVIOContext* io = nullptr;
  AVFormatContext* format = nullptr;

  State() = default;
  State(const State&) = delete;
  State& operator=(const State&) = delete;
  ~State() {
    avformat_close_input(&format); // leaves `io` alone, since that is ours
    if (io) av_freep(&io->buffer);
    avio_context_free(&io);
  }

  static int readBytes(void* self, uint8_t* to, int count) {
    State& s = *static_cast<State*>(self);
    if (s.stop.stop_requested()) return AVERROR_EXIT;
    const ptrdiff_t got = readAt(s.file, s.at, to, size_t(count));
    if (got < 0) {
      s.trouble = errno;
      return AVERROR(errno);
    }
    s.at += got;
    return got == 0 ? AVERROR_EOF : int(got);
  }
  static int64_t seekBytes(void* self, int64_t offset, int whence) {
    State& s = *static_cast<State*>(self);
    switch (whence & ~AVSEEK_FORCE) {
    case AVSEEK_SIZE:
      return s.size;
    case SEEK_CUR:
      offset += s.at;
      break;
    case SEEK_END:
      offset += s.size;
      break;
    default:
      break;
    }
    if (offset < 0) return AVERROR(EINVAL);
    return s.at = offset;
  }
  static int interrupted(void* self) { return static_cast<State*>(self)->stop.stop_requested() ? 1 : 0; }

  /// What kept the file from being read, if anything did.
  [[nodiscard]] std::optional<Error> failure() const {
    if (stop.stop_requested()) return Error{ErrorCode::Cancelled, say("reading was stopped"), path, {}, {}};
    if (trouble != 0)
      return Error{ErrorCode::Unreadable, say("reading failed (%1)", systemMessage(trouble)), path, say("byte %1", at),
                   say("The disk or the connection to it may be failing")};
    return {};
  }
};

InputFile::InputFile(std::unique_ptr<State> state) : m_state(std::move(state)) {}
InputFile::InputFile(InputFile&&) noexcept = default;
InputFile& InputFile::operator=(InputFile&&) noexcept = default;
InputFile::~InputFile() = default;

AVFormatContext& InputFile::context() const {
  return *m_state->format;
}
const std::string& InputFile::path() const {
  return m_state->path;
}
int64_t InputFile::sizeBytes() const {
  return m_state->size;
}
bool InputFile::brokenOff() const {
  return m_state->brokenOff;
}

const std::shared_ptr<const StreamParameters>& InputFile::parameters() const {
  return m_state->parameters;
}

namespace {

/// Finds out what the headers do not tell, by decoding as few pictures as FFmpeg needs; what they look like does not
/// matter, so they are decoded without what takes the time.
int findStreamInfo(AVFormatContext& format) {
  std::vector<AVDictionary*> quick(std::max(1U, format.nb_streams));
  for (AVDictionary*& each : quick)
    for (const char* step : {"skip_loop_filter", "skip_idct"}) av_dict_set(&each, step, "all", 0);
  const size_t given = quick.size();
  const int native = avformat_find_stream_info(&format, quick.data());
  for (size_t i = 0; i < given; ++i) av_dict_free(&quick[i]);
  return native;
}

ParametersPtr copyOf(const AVCodecParameters& parameters) {
  ParametersPtr copy(avcodec_parameters_alloc());
  if (!copy || avcodec_parameters_copy(copy.get(), &parameters) < 0) throw std::bad_alloc();
  return copy;
}

/// True where a header says the same of a stream as it did before.
bool same(const AVCodecParameters& a, const AVCodecParameters& b) {
  return a.codec_type == b.codec_type && a.codec_id == b.codec_id && a.codec_tag == b.codec_tag && a.width == b.width &&
         a.height == b.height && a.format == b.format && a.sample_rate == b.sample_rate &&
         a.ch_layout.nb_channels == b.ch_layout.nb_channels && a.bits_per_coded_sample == b.bits_per_coded_sample &&
         a.extradata_size == b.extradata_size &&
         (a.extradata_size == 0 || std::memcmp(a.extradata, b.extradata, size_t(a.extradata_size)) == 0);
}

/// Takes over what is known of the streams, where it is of these. Only of formats whose packets need no more than their
/// headers to be placed in time.
bool takeOver(AVFormatContext& format, const StreamParameters* known) {
  const std::string_view name = format.iformat->name;
  if (!known || known->streams.size() != format.nb_streams || !(name.starts_with("mov,") || name.ends_with("_pipe")))
    return false;
  for (unsigned i = 0; i < format.nb_streams; ++i)
    if (!same(*format.streams[i]->codecpar, *known->streams[i].said)) return false;
  for (unsigned i = 0; i < format.nb_streams; ++i)
    if (avcodec_parameters_copy(format.streams[i]->codecpar, known->streams[i].found.get()) < 0) throw std::bad_alloc();
  return true;
}

/// Finds out what is to be known of the streams.
int learn(AVFormatContext& format, std::shared_ptr<const StreamParameters>& into) {
  auto learned = std::make_shared<StreamParameters>();
  const unsigned said = format.nb_streams;
  for (unsigned i = 0; i < said; ++i) learned->streams.push_back({copyOf(*format.streams[i]->codecpar), {}});
  const int native = findStreamInfo(format);
  if (native >= 0 && format.nb_streams == said) { // else more were found: not the headers' streams alone
    for (unsigned i = 0; i < said; ++i) learned->streams[i].found = copyOf(*format.streams[i]->codecpar);
    into = std::move(learned);
  }
  return native;
}

} // namespace

Result<InputFile> InputFile::open(const std::string& path, std::stop_token stop,
                                  std::shared_ptr<const StreamParameters> known) {
  tame();
  auto state = std::make_unique<State>();
  State& s = *state;
  s.path = path;
  s.stop = std::move(stop);
  auto file = openToRead(path);
  if (!file) return tl::unexpected(file.error());
  s.file = std::move(*file);
  s.size = sizeOf(s.file);
  if (s.size == 0)
    return fail(ErrorCode::Unreadable, say("the file is empty"), path, say("Copy it again from where it was recorded"));

  auto* buffer = static_cast<unsigned char*>(av_malloc(kBufferBytes));
  s.io =
      buffer ? avio_alloc_context(buffer, kBufferBytes, 0, &s, &State::readBytes, nullptr, &State::seekBytes) : nullptr;
  AVFormatContext* format = s.io ? avformat_alloc_context() : nullptr;
  if (!format) {
    if (!s.io) av_free(buffer);
    throw std::bad_alloc();
  }
  format->pb = s.io;
  format->flags |= AVFMT_FLAG_CUSTOM_IO;
  format->io_open = &refuseToOpen;
  format->interrupt_callback = {&State::interrupted, &s};
  AVDictionary* options = nullptr;
  av_dict_set(&options, "format_whitelist", kFormats, 0);
  av_dict_set(&options, "protocol_whitelist", "none", 0);
  // The name serves to tell formats apart by their ending, and is never opened.
  const std::string name = std::filesystem::path(path).filename().string();
  int native = avformat_open_input(&format, name.c_str(), nullptr, &options);
  av_dict_free(&options);
  if (native >= 0) {
    s.format = format;
    if (takeOver(*format, known.get()))
      s.parameters = std::move(known);
    else
      native = learn(*format, s.parameters);
    for (unsigned i = 0; i < format->nb_streams; ++i) dropUnlisted(*format->streams[i]->codecpar);
    if (const auto failure = s.failure()) return tl::unexpected(*failure);
    if (native < 0) return fail(ErrorCode::Unreadable, say("the streams cannot be read (%1)", text(native)), path);
    return InputFile(std::move(state));
  }
  if (const auto failure = s.failure()) return tl::unexpected(*failure);
  if (native == AVERROR(ENOMEM)) return memoryRefused(path);
  if (beginsLikeMp4(s.file))
    return fail(ErrorCode::Unreadable, say("the file is damaged or cut off (%1)", text(native)), path,
                say("Copy it again from where it was recorded"));
  return fail(ErrorCode::NotMedia, say("this is not a video, picture or sound file"), path);
}

bool InputFile::clockMayJump() const {
  const std::string_view name = context().iformat->name;
  return name == "mpegts" || name == "mpeg";
}

bool InputFile::entersByPosition() const {
  const int flags = context().iformat->flags;
  return clockMayJump() || ((flags & AVFMT_NOTIMESTAMPS) && !(flags & AVFMT_NO_BYTE_SEEK));
}

void InputFile::keepOnly(int stream) const {
  for (unsigned i = 0; i < context().nb_streams; ++i)
    context().streams[i]->discard = int(i) == stream ? AVDISCARD_DEFAULT : AVDISCARD_ALL;
}

bool sensible(int64_t stamp, const AVStream& stream) {
  return stamp != AV_NOPTS_VALUE && stamp <= kMostStamp && stamp >= -kMostStamp &&
         std::abs(double(stamp) * av_q2d(stream.time_base)) <= kMostSeconds;
}

Result<bool> InputFile::read(AVPacket& packet) {
  for (int tries = 0;; ++tries) {
    const int native = av_read_frame(m_state->format, &packet);
    if (native >= 0) {
      dropSenseless(packet, stream(packet.stream_index));
      return true;
    }
    if (const auto failure = m_state->failure()) return tl::unexpected(*failure);
    if (native == AVERROR(ENOMEM)) return memoryRefused(m_state->path);
    if (native == AVERROR(EAGAIN) && tries < kMostEmptyReads) continue;
    m_state->brokenOff = m_state->brokenOff || native != AVERROR_EOF;
    return false;
  }
}

Result<bool> InputFile::seekByte(int64_t position) {
  const int native = av_seek_frame(m_state->format, -1, position, AVSEEK_FLAG_BYTE);
  if (const auto failure = m_state->failure()) return tl::unexpected(*failure);
  return native >= 0;
}

Result<bool> InputFile::seekStamp(int stream, int64_t stamp) {
  const int native = av_seek_frame(m_state->format, stream, stamp, AVSEEK_FLAG_BACKWARD);
  if (const auto failure = m_state->failure()) return tl::unexpected(*failure);
  return native >= 0;
}

} // namespace tromb::av
