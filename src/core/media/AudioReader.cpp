// SPDX-License-Identifier: GPL-3.0-or-later
#include "media/AudioReader.h"

#include "media/Av.h"

#include <algorithm>
#include <cstring>

namespace tromb {

struct AudioReader::State {
  MediaInfo info;
  av::InputPtr input;
  av::CodecPtr decoder;
  av::Handle<SwrContext> swr;
  av::PacketPtr packet{av_packet_alloc()};
  av::FramePtr frame{av_frame_alloc()};
  Rational zero;           ///< container time of the first picture, seconds
  int64_t position = 0;    ///< sample that the next read begins at
  std::vector<float> held; ///< converted samples, interleaved
  int64_t heldFrom = 0;    ///< sample number of held[0]
  bool placed = false;     ///< heldFrom is known
  bool ended = false;

  [[nodiscard]] AVStream& stream() const { return *input->streams[info.audio.front().stream]; }
  [[nodiscard]] int64_t heldCount() const { return int64_t(held.size()) / kSoundChannels; }

  Status convert(const AVFrame* source) {
    if (source && !swr) {
      AVChannelLayout stereo = AV_CHANNEL_LAYOUT_STEREO;
      AVChannelLayout from = source->ch_layout;
      if (from.order == AV_CHANNEL_ORDER_UNSPEC) av_channel_layout_default(&from, from.nb_channels);
      SwrContext* raw = nullptr;
      swr_alloc_set_opts2(&raw, &stereo, AV_SAMPLE_FMT_FLT, kSoundRate, &from, AVSampleFormat(source->format),
                          source->sample_rate, 0, nullptr);
      swr.reset(raw);
      if (!swr || swr_init(swr.get()) < 0)
        return fail(ErrorCode::Unsupported, "the sound's format cannot be converted", info.path);
    }
    if (!swr) return {};
    const int room = swr_get_out_samples(swr.get(), source ? source->nb_samples : 0);
    if (room <= 0) return {};
    const size_t before = held.size();
    held.resize(before + size_t(room) * kSoundChannels);
    auto* out = reinterpret_cast<uint8_t*>(held.data() + before);
    const int got =
        swr_convert(swr.get(), &out, room, source ? const_cast<const uint8_t**>(source->extended_data) : nullptr,
                    source ? source->nb_samples : 0);
    held.resize(before + size_t(std::max(0, got)) * kSoundChannels);
    return {};
  }

  /// Decodes until something new is held or the stream ends.
  Status more() {
    const int64_t before = heldCount();
    while (!ended && heldCount() == before) {
      const int native = avcodec_receive_frame(decoder.get(), frame.get());
      if (native == 0) {
        if (!placed && frame->best_effort_timestamp != AV_NOPTS_VALUE) {
          const Rational seconds = Rational(frame->best_effort_timestamp) * av::rational(stream().time_base) - zero;
          heldFrom = (seconds * Rational(kSoundRate)).nearest();
          placed = true;
        }
        if (const Status done = convert(frame.get()); !done) return done;
      } else if (native == AVERROR_EOF) {
        if (const Status done = convert(nullptr); !done) return done;
        ended = true;
      } else {
        const int fed = av_read_frame(input.get(), packet.get());
        if (fed < 0)
          avcodec_send_packet(decoder.get(), nullptr);
        else if (packet->stream_index == stream().index)
          avcodec_send_packet(decoder.get(), packet.get());
        av_packet_unref(packet.get());
      }
    }
    return {};
  }
};

AudioReader::AudioReader(std::unique_ptr<State> state) : m_state(std::move(state)) {}
AudioReader::AudioReader(AudioReader&&) noexcept = default;
AudioReader& AudioReader::operator=(AudioReader&&) noexcept = default;
AudioReader::~AudioReader() = default;

Result<AudioReader> AudioReader::open(const MediaInfo& info) {
  if (info.audio.empty()) return fail(ErrorCode::NotMedia, "the file has no sound", info.path);
  auto input = av::openInput(info.path);
  if (!input) return tl::unexpected(input.error());
  auto state = std::make_unique<State>();
  state->info = info;
  state->input = std::move(*input);
  if (unsigned(info.audio.front().stream) >= state->input->nb_streams)
    return fail(ErrorCode::Unreadable, "the file has changed since it was looked at", info.path, "Bring it in again");
  for (unsigned i = 0; i < state->input->nb_streams; ++i)
    if (int(i) != info.audio.front().stream) state->input->streams[i]->discard = AVDISCARD_ALL;
  auto decoder = av::openDecoder(state->stream(), info.path, 1);
  if (!decoder) return tl::unexpected(decoder.error());
  state->decoder = std::move(*decoder);
  const AVStream& clock = info.video ? *state->input->streams[info.video->stream] : state->stream();
  if (clock.start_time != AV_NOPTS_VALUE) state->zero = Rational(clock.start_time) * av::rational(clock.time_base);
  return AudioReader(std::move(state));
}

Status AudioReader::goTo(int64_t sample) {
  State& s = *m_state;
  if (s.placed && sample == s.position) return {};
  s.position = sample;
  // A little early: decoders with overlapping windows need a run-up.
  const Rational seconds = s.zero + Rational(sample - kSoundRate / 10, kSoundRate);
  const int64_t pts = (seconds / av::rational(s.stream().time_base)).floor();
  if (av_seek_frame(s.input.get(), s.stream().index, pts, AVSEEK_FLAG_BACKWARD) < 0)
    (void)av_seek_frame(s.input.get(), -1, 0, AVSEEK_FLAG_BACKWARD);
  avcodec_flush_buffers(s.decoder.get());
  s.swr.reset();
  s.held.clear();
  s.placed = s.ended = false;
  return {};
}

Result<int64_t> AudioReader::read(float* out, int64_t count) {
  State& s = *m_state;
  std::fill(out, out + count * kSoundChannels, 0.0F);
  const int64_t end = s.position + count;
  int64_t real = 0;
  while (s.position < end) {
    if (s.heldCount() == 0 || !s.placed) {
      if (s.ended) break;
      if (const Status done = s.more(); !done) return tl::unexpected(done.error());
      continue;
    }
    if (s.heldFrom > s.position) { // sound begins later: silence until there
      const int64_t gap = std::min(end, s.heldFrom) - s.position;
      s.position += gap;
      real += gap;
      continue;
    }
    const int64_t skip = std::min(s.position - s.heldFrom, s.heldCount());
    const int64_t take = std::min(s.heldCount() - skip, end - s.position);
    std::memcpy(out + (count - (end - s.position)) * kSoundChannels, s.held.data() + skip * kSoundChannels,
                size_t(take) * kSoundChannels * sizeof(float));
    s.held.erase(s.held.begin(), s.held.begin() + (skip + take) * kSoundChannels);
    s.heldFrom += skip + take;
    s.position += take;
    real += take;
  }
  s.position = end;
  return real;
}

} // namespace tromb
