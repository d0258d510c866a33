// SPDX-License-Identifier: GPL-3.0-or-later
#include "media/write/SoundEncoder.h"

#include "media/Av.h"
#include "media/SoundFormat.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <utility>
#include <vector>

extern "C" {
#include <libavutil/audio_fifo.h>
}

namespace tromb {
namespace {

struct FifoCloser {
  void operator()(AVAudioFifo* fifo) const { av_audio_fifo_free(fifo); }
};

/// Samples a packet where the codec does not say, as for PCM.
constexpr int kUsualPacket = 1024;

/// The encoder's own format that loses least: floating point, else 24 bits in 32, else 16.
AVSampleFormat formatFor(const AVCodec& codec, SoundCodec which) {
  // FLAC takes 24 bits as the upper ones of 32.
  const bool fine = which == SoundCodec::Flac || which == SoundCodec::Pcm24;
  for (const AVSampleFormat wanted :
       {AV_SAMPLE_FMT_FLTP, AV_SAMPLE_FMT_FLT, fine ? AV_SAMPLE_FMT_S32 : AV_SAMPLE_FMT_S16, AV_SAMPLE_FMT_S16P,
        AV_SAMPLE_FMT_S16})
    for (const AVSampleFormat* f = codec.sample_fmts; f && *f != AV_SAMPLE_FMT_NONE; ++f)
      if (*f == wanted) return wanted;
  return AV_SAMPLE_FMT_S16;
}

/// What is to be made up for: LAME lowers what it encodes at its lower bit rates. By kb/s, as measured here at 1 kHz
/// with version 3.100, which tells it nowhere.
double loweredBy(SoundCodec codec, int64_t bitRate) {
  if (codec != SoundCodec::Mp3) return 1;
  static constexpr std::array<std::pair<int, double>, 13> kLevels{{{32, 0.8564},
                                                                   {40, 0.8792},
                                                                   {48, 0.902},
                                                                   {56, 0.9077},
                                                                   {64, 0.9134},
                                                                   {80, 0.9248},
                                                                   {96, 0.9248},
                                                                   {112, 0.9362},
                                                                   {128, 0.9362},
                                                                   {160, 0.9362},
                                                                   {192, 0.9617},
                                                                   {224, 0.9775},
                                                                   {256, 0.9975}}};
  const auto off = [&](const auto& level) { return std::abs(level.first - double(bitRate) / 1000); };
  return std::min_element(kLevels.begin(), kLevels.end(), [&](const auto& a, const auto& b) { return off(a) < off(b); })
      ->second;
}

} // namespace

struct SoundEncoder::State {
  std::string path;
  av::CodecPtr encoder;
  av::Handle<SwrContext> resampler;
  std::unique_ptr<AVAudioFifo, FifoCloser> waiting; ///< sound in the encoder's format that fills no frame of it yet
  av::FramePtr frame{av::allocated(av_frame_alloc())};
  av::PacketPtr packet{av::allocated(av_packet_alloc())};
  int64_t next = 0;
  float gain = 1;
  std::vector<float> raised;
  int64_t taken = 0; ///< samples at 48 kHz
  int64_t made = 0;  ///< samples at the encoder's rate

  [[nodiscard]] tl::unexpected<Error> failed(int native) const {
    return fail(ErrorCode::Encoder, say("encoding the sound failed (%1)", av::text(native)), path);
  }
  [[nodiscard]] int packetSamples() const { return encoder->frame_size > 0 ? encoder->frame_size : kUsualPacket; }

  /// Converts to the encoder's format and rate; null hands out what the resampler still holds.
  Status convert(const float* samples, int count) {
    frame->nb_samples = swr_get_out_samples(resampler.get(), count);
    if (samples == nullptr)
      frame->nb_samples =
          int(std::min<int64_t>(frame->nb_samples, av_rescale(taken, encoder->sample_rate, kSoundRate) - made));
    if (frame->nb_samples <= 0) return {};
    frame->format = encoder->sample_fmt;
    frame->sample_rate = encoder->sample_rate;
    int native = av_channel_layout_copy(&frame->ch_layout, &encoder->ch_layout);
    if (native >= 0) native = av_frame_get_buffer(frame.get(), 0);
    const auto* in = reinterpret_cast<const uint8_t*>(samples);
    if (native >= 0)
      native = swr_convert(resampler.get(), frame->extended_data, frame->nb_samples, samples ? &in : nullptr, count);
    if (native >= 0) {
      made += native;
      native = av_audio_fifo_write(waiting.get(), reinterpret_cast<void**>(frame->extended_data), native);
    }
    av_frame_unref(frame.get());
    return native < 0 ? Status(failed(native)) : Status();
  }

  Status encode(int count, const PacketSink& sink) {
    frame->nb_samples = count;
    frame->format = encoder->sample_fmt;
    frame->sample_rate = encoder->sample_rate;
    int native = av_channel_layout_copy(&frame->ch_layout, &encoder->ch_layout);
    if (native >= 0) native = av_frame_get_buffer(frame.get(), 0);
    if (native >= 0) native = av_audio_fifo_read(waiting.get(), reinterpret_cast<void**>(frame->extended_data), count);
    if (native >= 0) {
      frame->pts = next;
      next += count;
      native = avcodec_send_frame(encoder.get(), frame.get());
    }
    av_frame_unref(frame.get());
    return native < 0 ? Status(failed(native)) : drain(sink);
  }

  Status drain(const PacketSink& sink) {
    for (;;) {
      const int native = avcodec_receive_packet(encoder.get(), packet.get());
      if (native == AVERROR(EAGAIN) || native == AVERROR_EOF) return {};
      if (native < 0) return failed(native);
      if (const Status done = sink(*packet); !done) return done;
      av_packet_unref(packet.get());
    }
  }
};

SoundEncoder::SoundEncoder(std::unique_ptr<State> state) : m_state(std::move(state)) {}
SoundEncoder::SoundEncoder(SoundEncoder&&) noexcept = default;
SoundEncoder& SoundEncoder::operator=(SoundEncoder&&) noexcept = default;
SoundEncoder::~SoundEncoder() = default;

Result<SoundEncoder> SoundEncoder::open(const SoundEncoding& sound, const std::string& name, bool headersApart) {
  av::tame();
  const SoundCodecInfo& info = infoOf(*sound.codec);
  const AVCodec* codec = avcodec_find_encoder_by_name(std::string(info.encoder).c_str());
  if (!codec)
    return fail(ErrorCode::Encoder, say("this system's FFmpeg cannot encode %1: it has no %2", info.name, info.encoder),
                name, say("Choose another codec for the sound"));
  auto state = std::make_unique<State>();
  state->path = name;
  state->encoder.reset(av::allocated(avcodec_alloc_context3(codec)));
  AVCodecContext& c = *state->encoder;
  c.sample_fmt = formatFor(*codec, *sound.codec);
  c.sample_rate = sound.sampleRate;
  AVChannelLayout layout = av::layoutOf(sound.channels);
  c.ch_layout = layout;
  c.bit_rate = sound.bitRate;
  c.time_base = {1, sound.sampleRate};
  state->gain = float(1 / loweredBy(*sound.codec, sound.bitRate));
  if (c.sample_fmt == AV_SAMPLE_FMT_S32) c.bits_per_raw_sample = 24;
  if (headersApart) c.flags |= AV_CODEC_FLAG_GLOBAL_HEADER;
  int native = 0;
  if (!info.option.empty())
    native = av_opt_set(c.priv_data, std::string(info.option).c_str(), std::string(info.optionValue).c_str(), 0);
  if (native >= 0) native = avcodec_open2(&c, codec, nullptr);
  SwrContext* raw = nullptr;
  if (native >= 0)
    native = swr_alloc_set_opts2(&raw, &c.ch_layout, c.sample_fmt, c.sample_rate, &layout, AV_SAMPLE_FMT_FLT,
                                 kSoundRate, 0, nullptr);
  state->resampler.reset(raw);
  if (native >= 0) native = swr_init(raw);
  if (native < 0) {
    auto failed = state->failed(native);
    failed.value().message = say("the encoder of the sound does not start (%1)", av::text(native));
    return failed;
  }
  state->waiting.reset(
      av::allocated(av_audio_fifo_alloc(c.sample_fmt, c.ch_layout.nb_channels, state->packetSamples())));
  return SoundEncoder(std::move(state));
}

Status SoundEncoder::add(std::span<const float> samples, const PacketSink& sink) {
  State& s = *m_state;
  const auto count = int(samples.size()) / s.encoder->ch_layout.nb_channels;
  s.taken += count;
  if (s.gain != 1) {
    s.raised.assign(samples.begin(), samples.end());
    for (float& sample : s.raised) sample *= s.gain;
    samples = s.raised;
  }
  if (const Status done = s.convert(samples.data(), count); !done) return done;
  while (av_audio_fifo_size(s.waiting.get()) >= s.packetSamples())
    if (const Status done = s.encode(s.packetSamples(), sink); !done) return done;
  return {};
}

Status SoundEncoder::finish(const PacketSink& sink) {
  State& s = *m_state;
  if (const Status done = s.convert(nullptr, 0); !done) return done;
  while (const int left = av_audio_fifo_size(s.waiting.get()))
    if (const Status done = s.encode(std::min(left, s.packetSamples()), sink); !done) return done;
  avcodec_send_frame(s.encoder.get(), nullptr);
  return s.drain(sink);
}

const AVCodecContext& SoundEncoder::context() const {
  return *m_state->encoder;
}

} // namespace tromb
