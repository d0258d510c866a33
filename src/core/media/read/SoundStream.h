// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "media/read/AudioReader.h"

#include <map>
#include <optional>

namespace tromb {

/// One sound stream of a file as samples at 48 kHz: mixed to some channels, or its first channel alone. One thread at a
/// time; movable. For AudioReader, which says the rest.
class SoundStream {
public:
  /// `place` is that of the stream in `info.audio`; `mixedTo` as ChannelMix has it, nothing for the first channel.
  [[nodiscard]] static Result<SoundStream> open(const MediaInfo& info, int place, std::optional<int> mixedTo,
                                                std::stop_token stop);
  SoundStream(SoundStream&&) noexcept;
  SoundStream& operator=(SoundStream&&) noexcept;
  ~SoundStream();

  [[nodiscard]] Status goTo(int64_t sample);
  [[nodiscard]] Result<int64_t> read(float* out, int64_t count);
  /// Packets that could not be decoded, were guessed or are missing by their stamps: the sample that each begins at,
  /// and that behind its last. A gap that would make more than a hundred thousand of them is one.
  [[nodiscard]] const std::map<int64_t, int64_t>& damaged() const;

private:
  struct State;
  explicit SoundStream(std::unique_ptr<State> state);
  std::unique_ptr<State> m_state;
};

} // namespace tromb
