// SPDX-License-Identifier: GPL-3.0-or-later
#include "watch/WatchSound.h"

#include <algorithm>
#include <cmath>
#include <cstdlib>
#include <new>
#include <samplerate.h>
#include <utility>

namespace tromb {
namespace {

constexpr int64_t kBlock = kSoundRate / 4; ///< of the mix, read at once

} // namespace

/// Makes sound faster.
struct WatchSound::Converter {
  explicit Converter(int speed) : ratio(1.0 / speed), state(src_new(SRC_SINC_FASTEST, kStereo, nullptr)) {
    if (!state) throw std::bad_alloc();
  }
  ~Converter() { src_delete(state); }
  Converter(const Converter&) = delete;
  Converter& operator=(const Converter&) = delete;
  double ratio;
  SRC_STATE* state;
  std::vector<float> held; ///< of the mix, not yet used
};

WatchSound::WatchSound(std::shared_ptr<const Plan> plan, std::stop_token stop, int64_t begins)
    : m_plan(std::move(plan)), m_begins(begins), m_mix(*m_plan, kStereo, std::move(stop)) {}

WatchSound::~WatchSound() = default;

void WatchSound::begin(const WatchRun& run) {
  m_run = run;
  m_passed = 0;
  const int speed = std::abs(run.speed());
  m_faster = speed > 1 ? std::make_unique<Converter>(speed) : nullptr;
}

/// Samples of the mix from `from` of the run on.
Status WatchSound::readMix(int64_t from, float* out, int64_t count) {
  from -= m_begins;
  const int64_t before = std::clamp<int64_t>(-from, 0, count);
  out = std::fill_n(out, before * kStereo, 0.0F);
  from += before;
  count -= before;
  if (count == 0) return {};
  if (from != m_next) {
    if (const Status there = m_mix.goTo(from); !there) return there;
    m_chunk.reset();
    m_used = m_mix.leadIn(0);
  }
  m_next = from + count;
  while (count > 0) {
    if (!m_chunk || m_used >= SoundMix::kChunkSamples) {
      if (m_chunk) m_used -= SoundMix::kChunkSamples;
      auto chunk = m_mix.next(0);
      if (!chunk) {
        m_next = -1;
        return tl::unexpected(chunk.error());
      }
      m_chunk = std::move(*chunk);
      continue;
    }
    const int64_t now = std::min(count, SoundMix::kChunkSamples - m_used);
    out = std::copy_n(m_chunk->data() + m_used * kStereo, now * kStereo, out);
    m_used += now;
    count -= now;
  }
  return {};
}

/// Samples of the mix in the direction of the run, from where it is.
Status WatchSound::readOn(float* out, int64_t count) {
  while (count > 0) {
    const int64_t place = m_run->mixSampleAfter(m_passed);
    const int64_t left = m_run->backwards() ? place - m_run->begin() : m_run->end() - place;
    const int64_t now = left > 0 ? std::min({count, left, kBlock}) : count;
    if (left <= 0)
      std::fill_n(out, now * kStereo, 0.0F);
    else if (const Status got = readMix(m_run->backwards() ? place - now : place, out, now); !got)
      return got;
    if (m_run->backwards())
      for (int64_t a = 0, b = now - 1; a < b; ++a, --b)
        std::swap_ranges(out + a * kStereo, out + (a + 1) * kStereo, out + b * kStereo);
    m_passed += now;
    out += now * kStereo;
    count -= now;
  }
  return {};
}

Status WatchSound::read(float* out, int64_t count) {
  if (const Status got = readAtSpeed(out, count); !got) return got;
  const float wanted = m_gainDb ? float(std::pow(10, double(m_gainDb->load()) / 20)) : 1;
  const float before = std::exchange(m_gain, wanted);
  if (before == 1 && wanted == 1) return {};
  for (int64_t i = 0; i < count; ++i) {
    const float gain = before + (wanted - before) * float(i + 1) / float(count);
    for (int c = 0; c < kStereo; ++c) *out++ *= gain;
  }
  return {};
}

Status WatchSound::readAtSpeed(float* out, int64_t count) {
  if (!m_faster) return readOn(out, count);
  if (std::abs(m_run->speed()) > kMostHeardSpeed) {
    std::fill_n(out, count * kStereo, 0.0F);
    return {};
  }
  Converter& c = *m_faster;
  while (count > 0) {
    SRC_DATA data{};
    data.data_in = c.held.data();
    data.input_frames = long(int64_t(c.held.size()) / kStereo);
    data.data_out = out;
    data.output_frames = long(count);
    data.src_ratio = c.ratio;
    if (src_process(c.state, &data) != 0)
      return fail(ErrorCode::Unsupported, say("sound cannot be brought to this speed"));
    c.held.erase(c.held.begin(), c.held.begin() + data.input_frames_used * kStereo);
    out += data.output_frames_gen * kStereo;
    count -= data.output_frames_gen;
    if (count == 0) break;
    const size_t before = c.held.size();
    c.held.resize(before + size_t(kBlock * kStereo));
    if (const Status got = readOn(c.held.data() + before, kBlock); !got) return got;
  }
  return {};
}

} // namespace tromb
