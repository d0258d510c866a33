// SPDX-License-Identifier: GPL-3.0-or-later
#include "media/read/PacketDecoder.h"

#include "media/Av.h"

namespace tromb {

struct PacketDecoder::State {
  av::CodecPtr decoder;

  [[nodiscard]] static tl::unexpected<Error> failed(int native) {
    return fail(ErrorCode::Decoder, say("what was encoded cannot be read (%1)", av::text(native)));
  }
  Status send(const AVPacket* packet, const Take& take) const {
    if (const int native = avcodec_send_packet(decoder.get(), packet); native < 0) return failed(native);
    for (;;) {
      const Frame picture(av::allocated(av_frame_alloc()), av::Closer());
      const int native = avcodec_receive_frame(decoder.get(), const_cast<AVFrame*>(picture.get()));
      if (native == AVERROR(EAGAIN) || native == AVERROR_EOF) return {};
      if (native < 0) return failed(native);
      if (const Status taken = take(picture); !taken) return taken;
    }
  }
};

PacketDecoder::PacketDecoder(std::unique_ptr<State> state) : m_state(std::move(state)) {}
PacketDecoder::PacketDecoder(PacketDecoder&&) noexcept = default;
PacketDecoder& PacketDecoder::operator=(PacketDecoder&&) noexcept = default;
PacketDecoder::~PacketDecoder() = default;

Result<PacketDecoder> PacketDecoder::open(const AVCodecContext& encoder) {
  av::tame();
  const AVCodec* codec = avcodec_find_decoder(encoder.codec_id);
  if (!codec) return State::failed(AVERROR_DECODER_NOT_FOUND);
  const av::ParametersPtr parameters(av::allocated(avcodec_parameters_alloc()));
  auto state = std::make_unique<State>();
  state->decoder.reset(av::allocated(avcodec_alloc_context3(codec)));
  state->decoder->thread_count = 0;
  int native = avcodec_parameters_from_context(parameters.get(), &encoder);
  if (native >= 0) native = avcodec_parameters_to_context(state->decoder.get(), parameters.get());
  if (native >= 0) native = avcodec_open2(state->decoder.get(), codec, nullptr);
  if (native < 0) return State::failed(native);
  return PacketDecoder(std::move(state));
}

Status PacketDecoder::add(const AVPacket& packet, const Take& take) {
  return m_state->send(&packet, take);
}

Status PacketDecoder::finish(const Take& take) {
  return m_state->send(nullptr, take);
}

} // namespace tromb
