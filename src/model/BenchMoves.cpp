// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/BenchMoves.h"

#include "model/Bench.h"

#include <algorithm>

namespace tromb {

BenchMoves::BenchMoves(Bench& bench) : m_bench(bench), m_document(bench.document()) {}

const Move* BenchMoves::move() const {
  const Shot* at = m_bench.shot();
  if (!at || size_t(m_bench.column()) >= m_document.project().deliverables.size()) return nullptr;
  if (m_bench.placesSubject())
    return at->subjects.size() > size_t(m_bench.window()) ? &at->subjects[size_t(m_bench.window())].move : nullptr;
  const auto& framings = m_document.project().deliverables[size_t(m_bench.column())].framings;
  const auto framing = framings.find(m_bench.shotId());
  if (framing == framings.end()) return nullptr;
  const Move& move = framing->second.windows[size_t(m_bench.window())].move;
  return move.empty() ? nullptr : &move;
}

std::optional<int> BenchMoves::keyAt(const Rational& time) const {
  const Move* keys = move();
  if (!keys) return {};
  for (size_t i = 0; i < keys->size(); ++i)
    if ((*keys)[i].time == time) return int(i);
  return {};
}

void BenchMoves::setMove(const Move& changed, const QString& text, int gesture) {
  if (m_bench.placesSubject()) {
    Shot with = *m_bench.shot();
    Move& move = with.subjects[size_t(m_bench.window())].move;
    move = changed;
    for (MoveKey& key : move) key.zoom = 1; // a subject's path has no zoom
    with.subjects[size_t(m_bench.window())].guess = 0;
    m_document.changeShots({with}, text, gesture);
    return;
  }
  const Deliverable& d = m_document.project().deliverables[size_t(m_bench.column())];
  Framing framing = d.framingOf(m_bench.shotId());
  framing.windows[size_t(m_bench.window())].move = changed;
  if (d.sharpOnly)
    framing = heldSharp(m_bench.cell(m_bench.column()).shape, d.canvas, framing); // keys are shown where they count
  m_document.setFramings({{{m_bench.row(), m_bench.column()}, framing}}, text, gesture);
}

void BenchMoves::setKey() {
  setKeyAt(m_bench.time());
}

void BenchMoves::setKeyAt(const Rational& time) {
  if (!m_bench.media()) return;
  MoveKey key;
  key.time = time;
  Move keys;
  int gesture = 0;
  if (m_bench.placesSubject()) {
    if (!m_bench.subject()) {
      gesture = m_document.newGesture(); // the subject and its key are one step
      m_bench.placing().placeSubject(m_bench.middle(), gesture);
    }
    keys = *move();
    const MovePlace place = placeAt(keys, key.time.toDouble());
    key.x = place.x;
    key.y = place.y;
    // A subject that does not move has one key, whose time is not set yet.
    if (keys.size() == 1) keys.front().time = m_bench.timeOf(m_bench.firstFrame());
  } else {
    if (move()) keys = *move();
    const Window then = windowNow(m_bench.cellAt(m_bench.column(), time), size_t(m_bench.window()));
    key.x = then.x;
    key.y = then.y;
    key.zoom = then.zoom;
  }
  tromb::setKey(keys, key);
  setMove(keys, tr("Set a key"), gesture);
}

void BenchMoves::removeKey(int key) {
  const Move* keys = move();
  if (!keys || key < 0 || key >= int(keys->size()) || (m_bench.placesSubject() && keys->size() == 1)) return;
  Move left = *keys;
  left.erase(left.begin() + key);
  if (!m_bench.placesSubject() && left.empty()) return clearMove();
  setMove(left, tr("Remove a key"), 0);
}

void BenchMoves::changeKey(int key, const MoveKey& changed, int gesture) {
  const Move* keys = move();
  if (!keys || key < 0 || key >= int(keys->size())) return;
  Move with = *keys;
  const MoveKey before = with[size_t(key)];
  with[size_t(key)] = changed;
  MoveKey& at = with[size_t(key)];
  at.x = Bench::inside(at.x);
  at.y = Bench::inside(at.y);
  at.zoom = std::clamp(at.zoom, 1.0, kMostZoom);
  const bool early = key > 0 && at.time <= with[size_t(key) - 1].time;
  const bool late = key + 1 < int(with.size()) && at.time >= with[size_t(key) + 1].time;
  if (early || late || at.time < Rational(0)) at.time = before.time;
  setMove(with, tr("Change a key"), gesture);
}

void BenchMoves::setEase(Ease ease) {
  const Move* keys = move();
  if (!keys) return;
  int at = 0;
  for (int i = 0; i < int(keys->size()); ++i)
    if ((*keys)[size_t(i)].time <= m_bench.time()) at = i;
  MoveKey key = (*keys)[size_t(at)];
  key.ease = ease;
  changeKey(at, key, 0);
}

void BenchMoves::goToKey(int direction) {
  int64_t to = direction > 0 ? m_bench.endFrame() - 1 : m_bench.firstFrame();
  if (const Move* keys = move())
    for (const MoveKey& key : *keys) {
      const int64_t at = m_bench.frameOf(key.time.toDouble());
      if (direction > 0 && at > m_bench.frame()) to = std::min(to, at);
      if (direction < 0 && at < m_bench.frame()) to = std::max(to, at);
    }
  m_bench.goTo(to);
}

void BenchMoves::startAndEnd() {
  setKeysAt({m_bench.firstFrame(), m_bench.endFrame() - 1}, tr("Keys at both ends"));
}

void BenchMoves::setKeyAtCut(int direction) {
  setKeysAt({direction < 0 ? m_bench.firstFrame() : m_bench.endFrame() - 1}, tr("A key at the cut"));
}

void BenchMoves::copyMove() {
  if (const Move* keys = move()) m_copied = shifted(*keys, Rational(0) - m_bench.shot()->in);
}

void BenchMoves::pasteMove() {
  if (!m_bench.media() || m_copied.empty()) return;
  m_document.undoStack().beginMacro(tr("Paste the move"));
  if (m_bench.placesSubject() && !move())
    m_bench.placing().placeSubject({m_bench.picture().width / 2, m_bench.picture().height / 2}, 0);
  setMove(shifted(m_copied, m_bench.shot()->in), tr("Paste the move"), 0);
  m_document.undoStack().endMacro();
}

void BenchMoves::setKeysAt(const std::vector<int64_t>& frames, const QString& text) {
  if (!m_bench.media()) return;
  m_document.undoStack().beginMacro(text);
  for (const int64_t frame : frames) setKeyAt(m_bench.timeOf(frame));
  m_document.undoStack().endMacro();
}

void BenchMoves::reverse() {
  if (const Move* keys = move())
    setMove(reversed(*keys, keys->front().time, keys->back().time), tr("Reverse the move"), 0);
}

void BenchMoves::clearMove() {
  const Move* keys = move();
  if (!keys) return;
  if (m_bench.placesSubject()) {
    const MovePlace place = placeAt(*keys, m_bench.time().toDouble());
    MoveKey still;
    still.x = place.x;
    still.y = place.y;
    return setMove({still}, tr("No move"), 0);
  }
  const Window now = windowNow(m_bench.cell(m_bench.column()), size_t(m_bench.window()));
  Framing framing = m_document.project().deliverables[size_t(m_bench.column())].framingOf(m_bench.shotId());
  Window& stored = framing.windows[size_t(m_bench.window())];
  stored.move.clear();
  stored.x = now.x;
  stored.y = now.y;
  stored.zoom = now.zoom;
  m_bench.placing().apply(framing, tr("No move"));
}

void BenchMoves::shiftMove(int64_t frames) {
  const Move* keys = move();
  if (!keys || keys->size() < 2) return;
  const int64_t first = m_bench.frameOf(keys->front().time.toDouble());
  const int64_t last = m_bench.frameOf(keys->back().time.toDouble());
  const int64_t least = std::min<int64_t>(0, m_bench.firstFrame() - first);
  const int64_t most = std::max<int64_t>(0, m_bench.endFrame() - 1 - last);
  frames = std::clamp(frames, least, most);
  if (frames == 0) return;
  setMove(retimed(*keys, Rational(0), Rational(1), m_bench.timeOf(first + frames) - m_bench.timeOf(first)),
          tr("Shift the move"), 0);
}

void BenchMoves::stretchMove(const Rational& factor) {
  const Move* keys = move();
  if (!keys || keys->size() < 2) return;
  const Rational start = keys->front().time;
  const Rational length = keys->back().time - start;
  const Rational room = std::max(length, m_bench.timeOf(m_bench.endFrame() - 1) - start);
  const Rational stretched = std::min(factor, room / length);
  if (stretched == Rational(1)) return;
  setMove(retimed(*keys, start, stretched, Rational(0)), tr("Stretch the move"), 0);
}

} // namespace tromb
