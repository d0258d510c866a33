// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/BenchFollowing.h"

#include "model/Bench.h"

#include "analysis/Calming.h"

namespace tromb {

BenchFollowing::BenchFollowing(Bench& bench) : m_bench(bench), m_document(bench.document()) {}

const BenchFollowing::Followed* BenchFollowing::followed(const std::string& shotId) const {
  const auto at = m_tracks.find(shotId);
  const Shot* stored = at == m_tracks.end() ? nullptr : m_document.project().shot(shotId);
  const Source* source = stored ? m_document.project().source(stored->source) : nullptr;
  const bool same = source && source->id == at->second.source && source->bars == at->second.bars &&
                    source->orientation == at->second.orientation;
  return same ? &at->second : nullptr;
}

const Track* BenchFollowing::track() const {
  const Followed* found = followed(m_bench.shotId());
  return found ? &found->track : nullptr;
}

void BenchFollowing::takeTrack(const std::string& shotId, const Track& track) {
  const Shot* stored = m_document.project().shot(shotId);
  const Source* source = stored ? m_document.project().source(stored->source) : nullptr;
  if (!source) return; // removed meanwhile
  const bool here = shotId == m_bench.shotId();
  m_tracks[shotId] = {track, here ? size_t(m_bench.window()) : 0, source->id, source->bars, source->orientation};
  if (here) m_bench.setPlacesSubject(true);
  calm(shotId, 0);
}

void BenchFollowing::setCalming(double strength, int gesture) {
  m_calming = Bench::inside(strength);
  calm(m_bench.shotId(), gesture);
}

void BenchFollowing::calm(const std::string& shotId, int gesture) {
  const Followed* found = followed(shotId);
  if (!found) return;
  Shot changed = *m_document.project().shot(shotId);
  const Result<MediaInfo>* known = m_document.media(changed.source);
  if (!known || !*known || !(*known)->video) return;
  if (changed.subjects.size() <= found->subject) changed.subjects.resize(found->subject + 1);
  const double in = changed.in.toDouble();
  const double out = changed.out.toDouble();
  const PictureShape shape = shapeOf(*m_document.project().source(changed.source), *(*known)->video);
  Reach reach;
  for (const Deliverable& d : m_document.project().deliverables)
    reach = lesser(reach, reachOf(shape, d.canvas, d.framingOf(shotId), changed.subjects, found->subject, in, out));
  CalmOptions options;
  options.strength = m_calming;
  Subject& subject = changed.subjects[found->subject];
  subject.move = calmMove(found->track, (*known)->video->clock, reach, options);
  subject.guess = 0;
  m_document.changeShots({changed}, tr("Follow the subject"), gesture);
  emit m_bench.changed();
}

} // namespace tromb
