// SPDX-License-Identifier: GPL-3.0-or-later
#include "render/SoundMix.h"

#include <algorithm>

namespace tromb {

SoundMix::SoundMix(const Plan& plan, size_t readers) : m_positions(readers, 0) {
  Rational start(0);
  for (const PlanPiece& piece : plan.pieces()) {
    const Rational end = start + piece.duration;
    const bool silent = piece.media.audio.empty() || piece.speed != Rational(1);
    m_parts.push_back({piece.media, (piece.sourceIn * Rational(kSoundRate)).nearest(),
                       (start * Rational(kSoundRate)).nearest(), (end * Rational(kSoundRate)).nearest(), silent});
    start = end;
  }
}

Result<SoundMix::Chunk> SoundMix::make() {
  auto chunk = std::make_shared<std::vector<float>>(size_t(kChunkSamples * kSoundChannels), 0.0F);
  const int64_t end = m_sample + kChunkSamples;
  const int64_t begin = m_sample;
  while (m_sample < end && m_part < m_parts.size()) {
    const Part& part = m_parts[m_part];
    const int64_t until = std::min(end, part.to);
    if (until > m_sample && !part.silent) {
      if (!m_reader) {
        auto opened = AudioReader::open(part.media);
        if (!opened) return tl::unexpected(opened.error());
        m_reader = std::move(*opened);
        if (const Status there = m_reader->goTo(part.sourceSample); !there) return tl::unexpected(there.error());
      }
      const auto got = m_reader->read(chunk->data() + (m_sample - begin) * kSoundChannels, until - m_sample);
      if (!got) return tl::unexpected(got.error());
    }
    m_sample = std::max(m_sample, until);
    if (m_sample >= part.to) {
      ++m_part;
      m_reader.reset();
    }
  }
  m_sample = end;
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
  const int64_t slowest = *std::min_element(m_positions.begin(), m_positions.end());
  while (m_firstHeld < slowest && !m_chunks.empty()) {
    m_chunks.pop_front();
    ++m_firstHeld;
  }
  return chunk;
}

} // namespace tromb
