// SPDX-License-Identifier: GPL-3.0-or-later
#include "media/read/AudioReader.h"

#include "media/read/SoundStream.h"

#include <algorithm>

namespace tromb {

struct AudioReader::State {
  std::vector<SoundStream> streams; ///< one that gives both channels, or one for each
  std::vector<float> single;
};

AudioReader::AudioReader(std::unique_ptr<State> state) : m_state(std::move(state)) {}
AudioReader::AudioReader(AudioReader&&) noexcept = default;
AudioReader& AudioReader::operator=(AudioReader&&) noexcept = default;
AudioReader::~AudioReader() = default;

Result<AudioReader> AudioReader::open(const Reading& reading, std::stop_token stop) {
  const MediaInfo& info = reading.file;
  const auto known = [&](int place) { return place >= 0 && place < int(info.audio.size()); };
  if (reading.heard.empty() || !std::all_of(reading.heard.begin(), reading.heard.end(), known))
    return fail(ErrorCode::NotMedia, say("the file has no sound"), info.path);
  auto state = std::make_unique<State>();
  const bool pair = reading.heard.size() > 1;
  for (size_t i = 0; i < (pair ? 2 : 1); ++i) {
    auto stream = SoundStream::open(info, reading.heard[i], pair ? 1 : 2, stop);
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
  int64_t most = 0;
  for (size_t channel = 0; channel < s.streams.size(); ++channel) {
    const auto got = s.streams[channel].read(s.single.data(), count);
    if (!got) return got;
    most = std::max(most, *got);
    for (int64_t i = 0; i < count; ++i) out[i * kSoundChannels + int64_t(channel)] = s.single[size_t(i)];
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
