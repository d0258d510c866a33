// SPDX-License-Identifier: GPL-3.0-or-later
#include "media/read/AudioReader.h"

#include "media/read/SoundStream.h"

#include <algorithm>

namespace tromb {

struct AudioReader::State {
  int channels = kStereo;
  std::vector<SoundStream> streams; ///< one that gives all channels, or one for left and one for right
  std::vector<float> single;
};

AudioReader::AudioReader(std::unique_ptr<State> state) : m_state(std::move(state)) {}
AudioReader::AudioReader(AudioReader&&) noexcept = default;
AudioReader& AudioReader::operator=(AudioReader&&) noexcept = default;
AudioReader::~AudioReader() = default;

Result<AudioReader> AudioReader::open(const Reading& reading, std::stop_token stop, int channels) {
  const MediaInfo& info = reading.file;
  const auto known = [&](int place) { return place >= 0 && place < int(info.audio.size()); };
  if (reading.heard.empty() || !std::all_of(reading.heard.begin(), reading.heard.end(), known))
    return fail(ErrorCode::NotMedia, say("the file has no sound"), info.path);
  auto state = std::make_unique<State>();
  state->channels = channels;
  const bool pair = reading.heard.size() > 1;
  for (size_t i = 0; i < (pair ? 2 : 1); ++i) {
    auto stream = SoundStream::open(info, reading.heard[i], pair ? std::nullopt : std::optional(channels), stop);
    if (!stream) return tl::unexpected(stream.error());
    state->streams.push_back(std::move(*stream));
  }
  return AudioReader(std::move(state));
}

Status AudioReader::goTo(int64_t sample) {
  for (SoundStream& stream : m_state->streams)
    if (const Status there = stream.goTo(sample); !there) return there;
  return {};
}

Result<int64_t> AudioReader::read(float* out, int64_t count) {
  State& s = *m_state;
  if (s.streams.size() == 1) return s.streams.front().read(out, count);
  s.single.resize(size_t(count));
  std::fill(out, out + count * s.channels, 0.0F);
  const float share = s.channels == kMono ? 0.5F : 1;
  int64_t most = 0;
  for (size_t side = 0; side < s.streams.size(); ++side) {
    const auto got = s.streams[side].read(s.single.data(), count);
    if (!got) return got;
    most = std::max(most, *got);
    float* place = out + (s.channels == kMono ? 0 : side);
    for (int64_t i = 0; i < count; ++i) place[i * s.channels] += share * s.single[size_t(i)];
  }
  return most;
}

AudioReader::Damage AudioReader::damage(int64_t from, int64_t to) const {
  Damage all;
  for (const SoundStream& stream : m_state->streams)
    for (const auto& [begin, end] : stream.damaged()) {
      if (end <= from || begin >= to) continue;
      if (all.packets == 0 || begin < all.first) all.first = begin;
      ++all.packets;
    }
  return all;
}

} // namespace tromb
