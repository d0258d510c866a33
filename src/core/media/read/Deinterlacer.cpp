// SPDX-License-Identifier: GPL-3.0-or-later
#include "media/read/Deinterlacer.h"

#include "media/Av.h"
#include "media/read/Fields.h"

#include <deque>
#include <new>
#include <optional>
#include <set>
#include <utility>

namespace tromb {

struct Deinterlacer::State {
  std::optional<av::FilterGraph> filter;
  bool ended = false;
  std::set<int64_t> damaged; ///< numbers, of pictures that are in the filter
  // Where it is not certain:
  std::deque<NumberedFrame> waiting;  ///< pictures that have not gone into the filter
  std::deque<FieldEvidence> evidence; ///< of each picture with the next; the last waiting one has none yet
  size_t before = 0;                  ///< how many of it are of pictures before the first waiting one
};

Deinterlacer::Deinterlacer(Scan scan, bool certain, bool byFields)
    : m_scan(scan), m_certain(certain), m_byFields(byFields), m_state(std::make_unique<State>()) {}
Deinterlacer::~Deinterlacer() = default;

Status Deinterlacer::filter(const NumberedFrame& picture, bool interlaced) {
  State& s = *m_state;
  const bool top = m_scan == Scan::TopFieldFirst;
  const av::FramePtr marked(av_frame_clone(picture.frame.get()));
  if (!marked) throw std::bad_alloc();
  // Whatever its own flags say: the source was found to be interlaced, or said to be.
  marked->interlaced_frame = interlaced ? 1 : 0;
  marked->top_field_first = top ? 1 : 0;
  if (!s.filter) {
    const std::string filter = std::string("bwdif=deint=interlaced:mode=") +
                               (m_byFields ? "send_field" : "send_frame") + (top ? ":parity=tff" : ":parity=bff");
    auto built = av::FilterGraph::build(*marked, filter);
    if (!built) return tl::unexpected(built.error());
    s.filter.emplace(std::move(*built));
  }
  if (picture.damaged) s.damaged.insert(picture.number);
  return s.filter->push(marked.get(), picture.number);
}

/// Lets the first waiting picture go into the filter.
Status Deinterlacer::release() {
  State& s = *m_state;
  // Its own evidence first, then that of those near it; where none tells, it stays as it is.
  bool interlaced = false;
  const auto count = int64_t(s.evidence.size());
  const auto own = int64_t(s.before);
  for (int64_t away = 0; away <= kNear; ++away) {
    bool told = false;
    for (const int64_t place : {own - 1 - away, own + away}) {
      if (place < 0 || place >= count) continue;
      const FieldEvidence each = s.evidence[size_t(place)];
      interlaced = interlaced || each == FieldEvidence::TopFirst || each == FieldEvidence::BottomFirst;
      told = told || each != FieldEvidence::None;
    }
    if (told) break;
  }
  const NumberedFrame picture = std::move(s.waiting.front());
  s.waiting.pop_front();
  if (s.before < size_t(kNear))
    ++s.before;
  else
    s.evidence.pop_front();
  return filter(picture, interlaced);
}

Status Deinterlacer::push(NumberedFrame picture) {
  State& s = *m_state;
  if (m_certain) return filter(picture, true);
  if (!s.waiting.empty()) s.evidence.push_back(fieldEvidence(s.waiting.back().frame, picture.frame));
  s.waiting.push_back(std::move(picture));
  if (s.waiting.size() <= size_t(kNear) + 1) return {};
  return release();
}

Status Deinterlacer::end() {
  State& s = *m_state;
  if (s.ended) return {};
  s.ended = true;
  while (!s.waiting.empty())
    if (const Status done = release(); !done) return done;
  return s.filter ? s.filter->push(nullptr, 0) : Status();
}

NumberedFrame Deinterlacer::pull() {
  State& s = *m_state;
  if (!s.filter) return {};
  av::FramePtr whole = s.filter->pull();
  if (!whole) return {};
  const int64_t field = whole->pts; // the filter counts in fields
  const int64_t frame = field / 2;
  s.damaged.erase(s.damaged.begin(), s.damaged.lower_bound(frame));
  const bool damaged = s.damaged.count(frame) > 0;
  return {m_byFields ? field : frame, Frame(whole.release(), av::Closer{}), damaged};
}

void Deinterlacer::restart() {
  m_state = std::make_unique<State>();
}

} // namespace tromb
