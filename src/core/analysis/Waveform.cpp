// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/Waveform.h"

#include "media/read/AudioReader.h"

#include <algorithm>
#include <cmath>

namespace tromb {

Result<std::vector<float>> readPeaks(const Reading& reading, std::stop_token stop) {
  auto reader = AudioReader::open(reading);
  if (!reader) return tl::unexpected(reader.error());
  constexpr int64_t kSamples = kSoundRate / kPeaksASecond;
  std::vector<float> peaks;
  std::vector<float> second(size_t(kSoundRate) * kStereo);
  for (;;) {
    if (stop.stop_requested())
      return fail(ErrorCode::Cancelled, say("reading the sound was stopped"), reading.file.path);
    const auto got = reader->read(second.data(), kSoundRate);
    if (!got) return tl::unexpected(got.error());
    for (int64_t from = 0; from < *got; from += kSamples) {
      float peak = 0;
      for (int64_t i = from * kStereo; i < std::min(*got, from + kSamples) * kStereo; ++i)
        peak = std::max(peak, std::abs(second[size_t(i)]));
      peaks.push_back(peak);
    }
    if (*got < kSoundRate) return peaks;
  }
}

} // namespace tromb
