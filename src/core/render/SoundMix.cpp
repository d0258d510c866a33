// SPDX-License-Identifier: GPL-3.0-or-later
#include "render/SoundMix.h"

#include <algorithm>
#include <cmath>
#include <utility>

namespace tromb {
namespace {

int64_t samplesOf(const Rational& seconds) {
  return Rational::nearestProduct(seconds, Rational(kSoundRate));
}

float linear(double decibels) {
  return float(std::pow(10, decibels / 20));
}

bool sounding(const PlanPiece& piece) {
  return !piece.reading.file.audio.empty() && !piece.frames.time().held() && !piece.shot.muted;
}

std::vector<int64_t> beginsOf(const std::vector<Plan>& plans) {
  std::vector<int64_t> begins;
  for (const Plan& plan : plans) begins.push_back(samplesOf(plan.begin()));
  return begins;
}

bool asShot(const TimeMap& time) {
  return time.speed() == Rational(1) && !time.reversed();
}

/// True when the sound runs on across the cut as if it were not there.
bool runsOn(const PlanPiece& a, const PlanPiece& b) {
  return sounding(a) && sounding(b) && asShot(a.frames.time()) && asShot(b.frames.time()) &&
         a.shot.source == b.shot.source && a.shot.out == b.shot.in && a.shot.levelDb == b.shot.levelDb;
}

} // namespace

SoundMix::SoundMix(const std::vector<Plan>& plans, double gainDb, std::stop_token stop)
    : SoundMix(plans.front(), plans.front().encoding().sound.channels, beginsOf(plans), gainDb, std::move(stop)) {}

SoundMix::SoundMix(const Plan& plan, std::optional<int> channels, std::stop_token stop)
    : SoundMix(plan, channels.value_or(plan.encoding().sound.channels), {0}, 0, std::move(stop)) {}

SoundMix::SoundMix(const Plan& plan, int channels, const std::vector<int64_t>& begins, double gainDb,
                   std::stop_token stop)
    : m_channels(channels), m_gain(linear(gainDb)), m_stop(std::move(stop)), m_ducking(m_channels) {
  const auto& pieces = plan.pieces();
  for (size_t i = 0; i < pieces.size(); ++i) {
    const PlanPiece& piece = pieces[i];
    const TimeMap& time = piece.frames.time();
    Part part{piece.reading, time, piece.shot.pitchFollows};
    part.from = samplesOf(piece.start);
    part.to = samplesOf(piece.start + secondsOf(time.length()));
    part.gain = sounding(piece) ? linear(piece.shot.levelDb) : 0;
    // A file's own beginning and end are not cuts.
    const bool atBegin = piece.shot.in == Rational(0);
    const bool atEnd = piece.shot.out >= piece.reading.file.duration;
    if (!(time.reversed() ? atEnd : atBegin) && !(i > 0 && runsOn(pieces[i - 1], piece))) part.fadeIn = kCutFadeSamples;
    if (!(time.reversed() ? atBegin : atEnd) && !(i + 1 < pieces.size() && runsOn(piece, pieces[i + 1])))
      part.fadeOut = kCutFadeSamples;
    m_shots.push_back(std::move(part));
  }
  m_end = m_shots.back().to;
  for (const PlanBed& planned : plan.beds()) {
    const SoundBed& bed = planned.bed;
    Part part{planned.reading, TimeMap(bed.in, bed.out, {})};
    part.from = samplesOf(bed.start);
    part.to = std::min(m_end, samplesOf(bed.start + bed.out - bed.in));
    part.gain = linear(bed.levelDb);
    part.fadeIn = std::max(kCutFadeSamples, samplesOf(bed.fadeIn));
    part.fadeOut = std::max(kCutFadeSamples, samplesOf(bed.fadeOut));
    part.duck = bed.duck;
    m_ducks = m_ducks || bed.duck;
    m_beds.push_back(std::move(part));
  }
  begin(begins);
}

/// Everything is made anew from the first of these on.
void SoundMix::begin(const std::vector<int64_t>& begins) {
  m_positions.assign(begins.size(), 0);
  m_chunks.clear();
  m_firstHeld = 0;
  m_ahead.clear();
  m_ducking = Ducking(m_channels);
  m_sample = *std::min_element(begins.begin(), begins.end());
  // Ducking remembers what was said up to 1.6 s ago.
  if (m_ducks)
    m_sample = std::max<int64_t>(0, m_sample - 4 * kChunkSamples) / Ducking::kBlockSamples * Ducking::kBlockSamples;
  m_leadIns.clear();
  for (const int64_t each : begins) m_leadIns.push_back(each - m_sample);
  m_shotsSample = m_sample;
}

Status SoundMix::goTo(int64_t sample) {
  const std::scoped_lock lock(m_mutex);
  if (m_positions.size() != 1) return fail(ErrorCode::InvalidArgument, say("a mix with several readers goes on"));
  begin({sample});
  // What is far from there is closed.
  const int64_t end = m_sample + kChunkSamples;
  for (std::vector<Part>* parts : {&m_shots, &m_beds})
    for (Part& part : *parts)
      if (part.sound && (part.to <= m_sample || part.from >= end)) close(part);
  return {};
}

float SoundMix::Part::gainAt(int64_t sample) const {
  const int64_t since = sample - from;
  const int64_t left = to - sample;
  float at = gain;
  if (since < fadeIn) at *= float(since) / float(fadeIn);
  if (left <= fadeOut) at *= float(left - 1) / float(fadeOut);
  return at;
}

/// Notes what was lost in a file that has been played.
void SoundMix::close(Part& part) {
  if (!part.sound) return;
  const int64_t begin = samplesOf(part.time.in());
  const AudioReader::Damage damage = part.sound->damage(begin, samplesOf(part.time.out()));
  if (damage.packets > 0) {
    const Rational at = part.time.sinceBegin(Rational(std::max(damage.first, begin), kSoundRate));
    m_losses.push_back({part.reading.file.path, damage.packets, at + Rational(part.from, kSoundRate)});
  }
  part.sound.reset();
}

Status SoundMix::add(Part& part, int64_t begin, Buffer& chunk, const Ducking::Gains* duck) {
  const int64_t from = std::max(begin, part.from);
  const int64_t to = std::min(begin + kChunkSamples, part.to);
  if (from >= to || part.gain == 0) {
    if (begin >= part.to) close(part);
    return {};
  }
  Buffer samples(size_t((to - from) * m_channels));
  if (const Status got = read(part, from, samples); !got) return got;
  level(part, from, samples);
  if (duck) this->duck(*duck, from - begin, samples);
  float* out = chunk.data() + (from - begin) * m_channels;
  for (const float sample : samples) *out++ += sample;
  if (to == part.to) close(part);
  return {};
}

/// Fills `samples` with those of a part's sound, at its speed, from this sample of the running order on.
Status SoundMix::read(Part& part, int64_t from, Buffer& samples) {
  if (!part.sound) {
    auto opened = ShotSound::open(part.reading, part.time, part.pitchFollows, m_channels, m_stop);
    if (!opened) return tl::unexpected(opened.error());
    part.sound = std::move(*opened);
    part.next = part.from;
  }
  if (part.next != from)
    if (const Status there = part.sound->goTo(from - part.from); !there) return there;
  const int64_t count = int64_t(samples.size()) / m_channels;
  part.next = from + count;
  return part.sound->read(samples.data(), count);
}

void SoundMix::level(const Part& part, int64_t from, Buffer& samples) const {
  float* out = samples.data();
  for (int64_t at = from; out < samples.data() + samples.size(); ++at) {
    const float gain = part.gainAt(at);
    for (int c = 0; c < m_channels; ++c) *out++ *= gain;
  }
}

/// `fromBegin`: samples since the beginning of the chunk that the gains are of.
void SoundMix::duck(const Ducking::Gains& gains, int64_t fromBegin, Buffer& samples) const {
  float* out = samples.data();
  for (int64_t at = fromBegin; out < samples.data() + samples.size(); ++at) {
    const size_t block = size_t(at / Ducking::kBlockSamples);
    const float share = float(at % Ducking::kBlockSamples) / float(Ducking::kBlockSamples);
    const float gain = gains[block] * (1 - share) + gains[block + 1] * share;
    for (int c = 0; c < m_channels; ++c) *out++ *= gain;
  }
}

Result<SoundMix::Buffer> SoundMix::shotsChunk() {
  Buffer chunk(size_t(kChunkSamples * m_channels), 0.0F);
  // Shots lie one behind the other: the first that reaches in, and those after it.
  const auto first = std::upper_bound(m_shots.begin(), m_shots.end(), m_shotsSample,
                                      [](int64_t sample, const Part& part) { return sample < part.to; });
  for (auto part = first; part != m_shots.end() && part->from < m_shotsSample + kChunkSamples; ++part)
    if (const Status added = add(*part, m_shotsSample, chunk, nullptr); !added) return tl::unexpected(added.error());
  m_shotsSample += kChunkSamples;
  return chunk;
}

Result<SoundMix::Chunk> SoundMix::make() {
  static_assert(kChunkSamples % Ducking::kBlockSamples == 0);
  static_assert(Ducking::kAheadBlocks <= kChunkSamples / Ducking::kBlockSamples);
  while (m_ahead.size() < (m_ducks ? 2 : 1)) {
    auto shots = shotsChunk();
    if (!shots) return tl::unexpected(shots.error());
    if (m_ducks) m_ducking.listen(*shots);
    m_ahead.push_back(std::move(*shots));
  }
  auto chunk = std::make_shared<Buffer>(std::move(m_ahead.front()));
  m_ahead.pop_front();
  Ducking::Gains gains;
  if (m_ducks) gains = m_ducking.take(kChunkSamples / Ducking::kBlockSamples);
  for (Part& bed : m_beds)
    if (const Status added = add(bed, m_sample, *chunk, bed.duck ? &gains : nullptr); !added)
      return tl::unexpected(added.error());
  m_sample += kChunkSamples;
  if (m_gain != 1)
    for (float& sample : *chunk) sample *= m_gain;
  return Chunk(chunk);
}

Result<SoundMix::Chunk> SoundMix::next(size_t reader) {
  const std::scoped_lock lock(m_mutex);
  const int64_t wanted = m_positions[reader]++;
  while (m_firstHeld + int64_t(m_chunks.size()) <= wanted) {
    auto made = make();
    if (!made) return made;
    m_chunks.push_back(*made);
  }
  const Chunk chunk = m_chunks[size_t(wanted - m_firstHeld)];
  dropHeard();
  return chunk;
}

void SoundMix::dropHeard() {
  const int64_t slowest = *std::min_element(m_positions.begin(), m_positions.end());
  while (m_firstHeld < slowest && !m_chunks.empty()) {
    m_chunks.pop_front();
    ++m_firstHeld;
  }
}

void SoundMix::leave(size_t reader) {
  const std::scoped_lock lock(m_mutex);
  m_positions[reader] = INT64_MAX;
  dropHeard();
}

std::vector<SoundMix::Loss> SoundMix::losses() {
  const std::scoped_lock lock(m_mutex);
  for (std::vector<Part>* parts : {&m_shots, &m_beds})
    for (Part& part : *parts)
      if (part.to <= m_shotsSample) close(part);
  return m_losses;
}

} // namespace tromb
