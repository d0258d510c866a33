// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/Loudness.h"

#include "media/AudioReader.h"

#include <algorithm>
#include <cmath>
#include <ebur128.h>
#include <memory>
#include <vector>

namespace tromb {
namespace {

struct MeterCloser {
  void operator()(ebur128_state* s) const { ebur128_destroy(&s); }
};
constexpr double kSilence = -120;

} // namespace

Result<Loudness> measureLoudness(const MediaInfo& media, std::stop_token stop) {
  auto reader = AudioReader::open(media);
  if (!reader) return tl::unexpected(reader.error());
  const std::unique_ptr<ebur128_state, MeterCloser> meter(
      ebur128_init(kSoundChannels, kSoundRate, EBUR128_MODE_I | EBUR128_MODE_TRUE_PEAK));
  if (!meter) throw std::bad_alloc();
  std::vector<float> buffer(size_t(kSoundRate) * kSoundChannels);
  Loudness result;
  for (;;) {
    if (stop.stop_requested()) return fail(ErrorCode::Cancelled, "measuring was stopped", media.path);
    const auto got = reader->read(buffer.data(), kSoundRate);
    if (!got) return tl::unexpected(got.error());
    ebur128_add_frames_float(meter.get(), buffer.data(), size_t(*got));
    result.samples += *got;
    if (*got < kSoundRate) break;
  }
  double loudness = 0;
  ebur128_loudness_global(meter.get(), &loudness);
  result.integratedLufs = std::isfinite(loudness) ? loudness : kSilence;
  double peak = 0;
  for (unsigned channel = 0; channel < unsigned(kSoundChannels); ++channel) {
    double value = 0;
    ebur128_true_peak(meter.get(), channel, &value);
    peak = std::max(peak, value);
  }
  result.truePeakDbtp = peak > 0 ? std::max(kSilence, 20 * std::log10(peak)) : kSilence;
  return result;
}

} // namespace tromb
