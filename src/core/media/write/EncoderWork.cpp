// SPDX-License-Identifier: GPL-3.0-or-later
// The other process: an encoder that is told what to do.
#include "media/Av.h"
#include "media/write/EncoderProcess.h"

extern "C" {
#include <libavutil/hwcontext.h>
}

#include <algorithm>
#include <array>
#include <csignal>
#include <cstring>
#include <fcntl.h>
#include <sys/prctl.h>

namespace tromb {
namespace {

using Kind = EncoderChannel::Kind;

bool g_canBeStarted = false; // NOLINT: set once, before there are threads

struct BufferCloser {
  void operator()(AVBufferRef* buffer) const { av_buffer_unref(&buffer); }
};
using BufferPtr = std::unique_ptr<AVBufferRef, BufferCloser>;

/// One encoder in this process.
class Work {
public:
  explicit Work(EncoderChannel channel) : m_channel(std::move(channel)) {}

  /// True once all is done that was asked for.
  bool run() {
    auto setup = m_channel.receive();
    if (!setup || setup->kind != Kind::Setup) return false;
    if (const int native = open(setup->bytes); native < 0) return failed(native);
    const AVCodecContext& c = *m_encoder;
    const EncoderChannel::Facts facts{c.has_b_frames, c.profile, c.level};
    const std::string_view headers(reinterpret_cast<const char*>(c.extradata), size_t(std::max(c.extradata_size, 0)));
    if (!m_channel.send(Kind::Opened, bytesOf(facts), headers)) return false;
    while (auto message = m_channel.receive()) {
      const bool last = message->kind == Kind::Finish;
      if (!last && message->kind != Kind::Picture) return false;
      const int native = last ? avcodec_send_frame(m_encoder.get(), nullptr) : encode(message->bytes);
      if (native < 0) return failed(native);
      if (const int drained = drain(); drained < 0) return failed(drained);
      if (!m_channel.send(Kind::Answered, {})) return false;
      if (last) return true;
    }
    return false;
  }

private:
  bool failed(int native) const {
    (void)m_channel.send(Kind::Failed, av::text(native));
    return false;
  }

  int open(const std::string& setup) {
    const char* name = setup.c_str();
    const char* common = name + std::strlen(name) + 1;
    if (common > setup.data() + setup.size()) return AVERROR(EINVAL);
    const char* own = common + std::strlen(common) + 1;
    if (own > setup.data() + setup.size()) return AVERROR(EINVAL);
    const AVCodec* codec = avcodec_find_encoder_by_name(name);
    if (!codec) return AVERROR_ENCODER_NOT_FOUND;
    m_encoder.reset(av::allocated(avcodec_alloc_context3(codec)));
    AVCodecContext& c = *m_encoder;
    if (const int native = av_set_options_string(&c, common, "=", ","); native < 0) return native;
    if (const int native = av_set_options_string(c.priv_data, own, "=", ","); native < 0) return native;
    c.framerate = av_inv_q(c.time_base);
    m_format = c.pix_fmt;
    if (!takesFromMemory(*codec))
      if (const int native = prepareDevice(*codec); native < 0) return native;
    return avcodec_open2(&c, codec, nullptr);
  }

  [[nodiscard]] bool takesFromMemory(const AVCodec& codec) const {
    for (const AVPixelFormat* each = codec.pix_fmts; each && *each != AV_PIX_FMT_NONE; ++each)
      if (*each == m_format) return true;
    return codec.pix_fmts == nullptr;
  }

  /// The pictures are to lie in the hardware's own memory.
  int prepareDevice(const AVCodec& codec) {
    for (int i = 0;; ++i) {
      const AVCodecHWConfig* way = avcodec_get_hw_config(&codec, i);
      if (!way) return AVERROR(ENOSYS);
      if (!(way->methods & AV_CODEC_HW_CONFIG_METHOD_HW_FRAMES_CTX)) continue;
      AVBufferRef* device = nullptr;
      if (const int native = av_hwdevice_ctx_create(&device, way->device_type, nullptr, nullptr, 0); native < 0)
        return native;
      const BufferPtr owned(device);
      m_frames.reset(av::allocated(av_hwframe_ctx_alloc(device)));
      auto& frames = *reinterpret_cast<AVHWFramesContext*>(m_frames->data);
      frames.format = way->pix_fmt;
      frames.sw_format = m_format;
      frames.width = m_encoder->width;
      frames.height = m_encoder->height;
      constexpr int kPictures = 32; // more than encoders hold back
      frames.initial_pool_size = kPictures;
      if (const int native = av_hwframe_ctx_init(m_frames.get()); native < 0) return native;
      m_encoder->pix_fmt = way->pix_fmt;
      m_encoder->hw_frames_ctx = av::allocated(av_buffer_ref(m_frames.get()));
      return 0;
    }
  }

  int encode(std::string_view bytes) {
    EncoderChannel::Stamp stamp{};
    if (!takePlain(bytes, stamp)) return AVERROR(EINVAL);
    av::FramePtr frame(av::allocated(av_frame_alloc()));
    frame->format = m_format;
    frame->width = m_encoder->width;
    frame->height = m_encoder->height;
    if (const int native = av_frame_get_buffer(frame.get(), 0); native < 0) return native;
    std::array<uint8_t*, 4> planes{};
    std::array<int, 4> lines{};
    const int wanted = av_image_fill_arrays(planes.data(), lines.data(), reinterpret_cast<const uint8_t*>(bytes.data()),
                                            m_format, frame->width, frame->height, 1);
    if (wanted < 0 || size_t(wanted) != bytes.size()) return AVERROR(EINVAL);
    av_image_copy(frame->data, frame->linesize, const_cast<const uint8_t**>(planes.data()), lines.data(), m_format,
                  frame->width, frame->height);
    if (m_frames) {
      av::FramePtr there(av::allocated(av_frame_alloc()));
      if (const int native = av_hwframe_get_buffer(m_frames.get(), there.get(), 0); native < 0) return native;
      if (const int native = av_hwframe_transfer_data(there.get(), frame.get(), 0); native < 0) return native;
      frame = std::move(there);
    }
    frame->color_primaries = m_encoder->color_primaries;
    frame->color_trc = m_encoder->color_trc;
    frame->colorspace = m_encoder->colorspace;
    frame->color_range = m_encoder->color_range;
    frame->chroma_location = m_encoder->chroma_sample_location;
    frame->sample_aspect_ratio = m_encoder->sample_aspect_ratio;
    frame->pts = stamp.shown;
    return avcodec_send_frame(m_encoder.get(), frame.get());
  }

  int drain() {
    for (;;) {
      const int native = avcodec_receive_packet(m_encoder.get(), m_packet.get());
      if (native == AVERROR(EAGAIN) || native == AVERROR_EOF) return 0;
      if (native < 0) return native;
      const EncoderChannel::Stamp stamp{m_packet->pts, m_packet->dts, m_packet->flags};
      const std::string_view data(reinterpret_cast<const char*>(m_packet->data), size_t(m_packet->size));
      if (!m_channel.send(Kind::Packet, bytesOf(stamp), data)) return AVERROR(EPIPE);
      av_packet_unref(m_packet.get());
    }
  }

  EncoderChannel m_channel;
  BufferPtr m_frames; ///< where pictures lie in the hardware's memory
  av::CodecPtr m_encoder;
  AVPixelFormat m_format = AV_PIX_FMT_NONE; ///< of the pictures that come
  av::PacketPtr m_packet{av::allocated(av_packet_alloc())};
};

} // namespace

std::optional<int> workAsEncoder(int argc, char** argv) {
  if (argc != 2 || std::strcmp(argv[1], kEncoderArgument) != 0 || ::fcntl(kEncoderChannel, F_GETFD) < 0) {
    g_canBeStarted = true;
    return {};
  }
  (void)::prctl(PR_SET_PDEATHSIG, SIGKILL); // also where it hangs when the program is gone
  try {
    av::tame();
    constexpr int kForEver = -1;
    return Work(EncoderChannel(Descriptor(kEncoderChannel), kForEver)).run() ? 0 : 1;
  } catch (const std::exception&) {
    return 1;
  }
}

bool encodersCanBeStarted() {
  return g_canBeStarted;
}

} // namespace tromb
