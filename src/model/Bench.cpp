// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/Bench.h"

#include <algorithm>
#include <cmath>

namespace tromb {
namespace {

constexpr double kHeldNear = 0.06; ///< of the zoom at which detail is 1.00

double inside(double value) {
  return std::clamp(value, 0.0, 1.0);
}

} // namespace

Bench::Bench(Document& document, QObject* parent) : QObject(parent), m_document(document) {
  const auto told = [this] { emit changed(); };
  const auto fewer = [this] {
    m_column = std::clamp(m_column, 0, std::max(0, int(m_document.project().deliverables.size()) - 1));
    if (!m_document.project().shot(m_shot)) m_shot.clear();
    setWindow(m_window);
    emit changed();
  };
  // What happens to other shots is not seen here.
  connect(&document, &Document::framingsChanged, this, [this, fewer](const std::vector<CellPlace>& places) {
    if (std::any_of(places.begin(), places.end(), [at = row()](const CellPlace& place) { return place.shot == at; }))
      fewer();
  });
  connect(&document, &Document::shotChanged, this, [this](int row) {
    if (row == this->row()) emit changed();
  });
  const auto sourcesChanged = [this](const QStringList& ids) {
    if (row() >= 0 && m_document.shows(row(), ids)) emit changed();
  };
  connect(&document, &Document::mediaChanged, this, sourcesChanged);
  connect(&document, &Document::sourceChanged, this, [this, sourcesChanged](int row) {
    sourcesChanged({QString::fromStdString(m_document.project().sources[size_t(row)].id)});
  });
  connect(&document, &Document::deliverableChanged, this, told);
  connect(&document, &Document::deliverablesInserted, this, told);
  connect(&document, &Document::deliverableMoved, this, told);
  connect(&document, &Document::deliverablesRemoved, this, fewer);
  connect(&document, &Document::shotsRemoved, this, fewer);
  connect(&document, &Document::reset, this, [this, fewer] {
    m_tracks.clear();
    fewer();
  });
}

int Bench::row() const {
  return shot() ? placeOf(m_document.project().shots, m_shot) : -1;
}

const Shot* Bench::shot() const {
  const Project& project = m_document.project();
  return m_shot.empty() || project.deliverables.empty() ? nullptr : project.shot(m_shot);
}

const MediaInfo* Bench::media() const {
  const Shot* at = shot();
  const Result<MediaInfo>* media = at ? m_document.media(at->source) : nullptr;
  return media && *media && (*media)->video ? &**media : nullptr;
}

void Bench::setShot(int row) {
  const auto& shots = m_document.project().shots;
  const std::string id = row >= 0 && row < int(shots.size()) ? shots[size_t(row)].id : std::string();
  if (id == m_shot) return;
  m_shot = id;
  m_window = 0;
  m_frame = (firstFrame() + endFrame()) / 2;
  emit changed();
  emit moved();
}

void Bench::setColumn(int column) {
  m_column = std::clamp(column, 0, std::max(0, int(m_document.project().deliverables.size()) - 1));
  m_window = 0;
  emit changed();
}

void Bench::setWindow(int window) {
  const Shot* at = shot();
  const auto& all = m_document.project().deliverables;
  const int count =
      at && size_t(m_column) < all.size() ? int(all[size_t(m_column)].framingOf(at->id).windows.size()) : 1;
  m_window = std::clamp(window, 0, count - 1);
  emit changed();
}

void Bench::setPlacesSubject(bool subject) {
  if (m_subject == subject) return;
  m_subject = subject;
  emit changed();
}

int64_t Bench::firstFrame() const {
  const MediaInfo* info = media();
  return info ? info->video->clock.nearest(shot()->in) : 0;
}

int64_t Bench::endFrame() const {
  const MediaInfo* info = media();
  if (!info) return 1;
  // A still has no frames of its own: its moments are counted at the first deliverable's rate.
  if (info->kind == MediaKind::Still) return std::max<int64_t>(1, frameOf(shot()->out.toDouble()));
  return std::max(firstFrame() + 1, info->video->clock.cutAt(shot()->out));
}

Rational Bench::timeOf(int64_t frame) const {
  const MediaInfo* info = media();
  if (!info) return Rational(0);
  if (info->kind != MediaKind::Still) return info->video->clock.timeOf(frame);
  const auto& all = m_document.project().deliverables;
  return (all.empty() ? FrameRate() : all.front().rate).timeOf(frame);
}

int64_t Bench::frameOf(double seconds) const {
  const MediaInfo* info = media();
  if (!info) return 0;
  const Rational time(int64_t(std::lround(std::max(0.0, seconds) * 1'000'000)), 1'000'000);
  if (info->kind != MediaKind::Still) return info->video->clock.nearest(time);
  const auto& all = m_document.project().deliverables;
  return (all.empty() ? FrameRate() : all.front().rate).frameAt(time);
}

Rational Bench::time() const {
  return timeOf(m_frame);
}

void Bench::goTo(int64_t frame) {
  frame = std::clamp(frame, firstFrame(), endFrame() - 1);
  if (frame == m_frame) return;
  m_frame = frame;
  emit moved();
}

SizeF Bench::picture() const {
  const MediaInfo* info = media();
  return info ? shapeOf(*m_document.project().source(shot()->source), *info->video).picture() : SizeF{16, 9};
}

QPointF Bench::middle() const {
  return {picture().width / 2, picture().height / 2};
}

Cell Bench::cell(int column) const {
  Cell cell = m_document.cell({row(), column});
  if (!cell.placements.empty()) turnTo(cell, time().toDouble());
  return cell;
}

SizeF Bench::share() const {
  const auto& d = m_document.project().deliverables[size_t(m_column)];
  const PixelRect rect = canvasShares(d.framingOf(m_shot), d.canvas)[size_t(m_window)];
  return {double(rect.width), double(rect.height)};
}

QRectF Bench::windowRect(int column, int window) const {
  const Cell at = cell(column);
  if (at.placements.empty()) return {};
  int seen = 0;
  for (const Placement& p : at.placements)
    if (!p.isGround() && seen++ == window) return {p.window.x, p.window.y, p.window.width, p.window.height};
  return {};
}

std::optional<QPointF> Bench::subject() const {
  const Shot* at = shot();
  if (!media() || at->subjects.size() <= size_t(m_window)) return {};
  const MovePlace place = placeAt(at->subjects[size_t(m_window)].move, time().toDouble());
  return QPointF(place.x * picture().width, place.y * picture().height);
}

// ---- placing

void Bench::placeSubject(QPointF at, int gesture) {
  if (!media()) return;
  Shot changed = *shot();
  // Windows of a stack have subjects of their own; those before this one that had none get it where they are.
  while (changed.subjects.size() <= size_t(m_window)) {
    const QPointF centre = windowRect(m_column, int(changed.subjects.size())).center();
    changed.subjects.emplace_back();
    changed.subjects.back().move.front().x = inside(centre.x() / picture().width);
    changed.subjects.back().move.front().y = inside(centre.y() / picture().height);
  }
  Move& move = changed.subjects[size_t(m_window)].move;
  MoveKey key;
  key.x = inside(at.x() / picture().width);
  key.y = inside(at.y() / picture().height);
  if (move.size() > 1) {
    const auto there = keyAt(time());
    key.time = time();
    key.ease = there && m_subject ? move[size_t(*there)].ease : Ease::Eased;
    tromb::setKey(move, key);
  } else {
    if (!move.empty()) key.time = move.front().time;
    move = {key};
  }
  changed.subjects[size_t(m_window)].guess = 0;
  m_document.changeShots({changed}, tr("Place the subject"), gesture);
}

void Bench::removeSubject() {
  if (!shot() || shot()->subjects.empty()) return;
  Shot changed = *shot();
  changed.subjects.clear();
  m_document.changeShots({changed}, tr("Remove the subject"));
}

Orientation Bench::orientation() const {
  return media() ? m_document.project().source(shot()->source)->orientation : Orientation();
}

void Bench::setOrientation(const Orientation& orientation, const QString& text) {
  if (!media()) return;
  Source changed = *m_document.project().source(shot()->source);
  changed.orientation = orientation;
  m_document.changeSources({changed}, text);
}

Bars Bench::bars() const {
  return media() ? shownAs(m_document.project().source(shot()->source)->bars, orientation()) : Bars();
}

std::optional<Bars> Bench::measuredBars() const {
  const Measured* measured = media() ? m_document.measured(shot()->source) : nullptr;
  if (!measured) return {};
  return shownAs(measured->bars, orientation());
}

void Bench::setBars(const Bars& bars) {
  if (!media()) return;
  Source changed = *m_document.project().source(shot()->source);
  changed.bars = takenFrom(bars, orientation());
  changed.barsBy = FactBy::Hand;
  m_document.changeSources({changed}, tr("Change the bars"));
}

Size Bench::raster() const {
  if (!media()) return {16, 9};
  const PictureShape shape = shapeOf(*m_document.project().source(shot()->source), *media()->video);
  const bool lies = shape.rotation() == 90 || shape.rotation() == 270;
  return lies ? Size{shape.stored().height, shape.stored().width} : shape.stored();
}

void Bench::setWanted(double atX, double atY) {
  if (!shot() || shot()->subjects.empty()) return;
  Shot changed = *shot();
  for (Subject& subject : changed.subjects) {
    subject.atX = inside(atX);
    subject.atY = inside(atY);
  }
  m_document.changeShots({changed}, tr("Where the subject is wanted"));
}

void Bench::setWindowTo(const Window& window, const QString& text, int gesture) {
  const auto& d = m_document.project().deliverables[size_t(m_column)];
  Framing framing = d.framingOf(m_shot);
  Window& stored = framing.windows[size_t(m_window)];
  if (stored.move.empty()) {
    stored.x = window.x;
    stored.y = window.y;
    stored.zoom = window.zoom;
    stored.follows = window.follows;
  } else {
    MoveKey key;
    key.time = time();
    key.x = window.x;
    key.y = window.y;
    key.zoom = window.zoom;
    const auto there = keyAt(key.time);
    key.ease = there && !m_subject ? stored.move[size_t(*there)].ease : Ease::Eased;
    tromb::setKey(stored.move, key);
    stored.follows = window.follows;
  }
  m_document.setFramings({{{row(), m_column}, framing}}, text, gesture);
}

QPointF Bench::snapped(QPointF centre, const SizeF& size, double reach) const {
  const SizeF whole = picture();
  std::vector<double> xs{whole.width / 2, whole.width / 3, whole.width * 2 / 3, size.width / 2,
                         whole.width - size.width / 2};
  std::vector<double> ys{whole.height / 2, whole.height / 3, whole.height * 2 / 3, size.height / 2,
                         whole.height - size.height / 2};
  for (int column = 0; column < int(m_document.project().deliverables.size()); ++column) {
    if (column == m_column) continue;
    const QRectF other = windowRect(column, 0);
    xs.insert(xs.end(), {other.center().x(), other.left() + size.width / 2, other.right() - size.width / 2});
    ys.insert(ys.end(), {other.center().y(), other.top() + size.height / 2, other.bottom() - size.height / 2});
  }
  const auto nearest = [reach](double value, const std::vector<double>& lines) {
    double best = value;
    double distance = reach;
    for (const double line : lines)
      if (const double d = std::abs(line - value); d < distance) {
        distance = d;
        best = line;
      }
    return best;
  };
  return {nearest(centre.x(), xs), nearest(centre.y(), ys)};
}

void Bench::placeWindow(QPointF centre, double snap, int gesture) {
  if (!media()) return;
  const Cell at = cell(m_column);
  Window window = windowNow(at, size_t(m_window));
  const SizeF whole = picture();
  const RectF rect = resolveWindow(whole, share(), window);
  if (snap > 0) centre = snapped(centre, {rect.width, rect.height}, snap);
  window.x = centre.x() / whole.width;
  window.y = centre.y() / whole.height;
  window.follows = false;
  setWindowTo(stopped(whole, share(), window), tr("Slide"), gesture);
}

void Bench::zoomWindow(double zoom, bool held, int gesture) {
  if (!media()) return;
  Window window = windowNow(cell(m_column), size_t(m_window));
  // Detail falls as zoom grows: where it is 1.00, the zoom is what detail is at zoom 1.
  Window widest = window;
  widest.zoom = 1;
  const RectF rect = resolveWindow(picture(), share(), widest);
  const SizeF density = cell(m_column).shape.recordedDensity();
  const double sharp =
      std::min(rect.width * density.width / share().width, rect.height * density.height / share().height);
  if (held && sharp > 1 && std::abs(zoom / sharp - 1) < kHeldNear) zoom = sharp;
  window.zoom = zoom;
  window.follows =
      m_document.project().deliverables[size_t(m_column)].framingOf(m_shot).windows[size_t(m_window)].follows;
  const bool follows = window.follows;
  window = stopped(picture(), share(), window);
  window.follows = follows;
  setWindowTo(window, tr("Zoom"), gesture);
}

void Bench::nudge(double canvasX, double canvasY, int gesture) {
  if (!media()) return;
  const QRectF rect = windowRect(m_column, m_window);
  const double perPixel = rect.width() / share().width;
  if (m_subject) {
    placeSubject(subject().value_or(middle()) + QPointF(canvasX, canvasY) * perPixel, gesture);
    return;
  }
  placeWindow(rect.center() + QPointF(canvasX, canvasY) * perPixel, 0, gesture);
}

void Bench::follow() {
  if (row() < 0) return;
  Framing framing = m_document.project().deliverables[size_t(m_column)].framingOf(m_shot);
  for (Window& window : framing.windows) {
    window.follows = true;
    window.move.clear();
  }
  apply(framing, tr("Follow the subject"));
}

void Bench::apply(const Framing& framing, const QString& text) {
  if (row() >= 0) m_document.setFramings({{{row(), m_column}, framing}}, text);
}

void Bench::applyWay(const WayToFill& way) {
  if (row() < 0) return;
  if (way.kind != WayToFill::Kind::Canvas) return apply(way.framing, tr("Another way to fill"));
  Deliverable changed = m_document.project().deliverables[size_t(m_column)];
  changed.canvas = way.canvas;
  m_document.undoStack().beginMacro(tr("The largest sharp canvas"));
  m_document.editDeliverable(m_column, changed);
  apply(way.framing, {});
  m_document.undoStack().endMacro();
}

std::vector<WayToFill> Bench::ways() const {
  if (!media()) return {};
  const Cell at = cell(m_column);
  if (at.detail >= kSharpDetail && at.uncoveredPercent <= 0) return {};
  return waysToFill(at.shape, at.canvas, at.framing, at.subjects, shot()->in.toDouble(), shot()->out.toDouble());
}

double Bench::secondsAWidth() const {
  if (!media()) return 0;
  const Cell at = cell(m_column);
  const double fastest =
      fastestTravel(at.shape, at.canvas, at.framing, at.subjects, shot()->in.toDouble(), shot()->out.toDouble()) *
      shot()->speed.toDouble();
  return fastest > 1e-6 ? 1 / fastest : 0;
}

// ---- keys

const Move* Bench::move() const {
  const Shot* at = shot();
  if (!at || size_t(m_column) >= m_document.project().deliverables.size()) return nullptr;
  if (m_subject) return at->subjects.size() > size_t(m_window) ? &at->subjects[size_t(m_window)].move : nullptr;
  const auto& framings = m_document.project().deliverables[size_t(m_column)].framings;
  const auto framing = framings.find(m_shot);
  if (framing == framings.end()) return nullptr;
  const Move& move = framing->second.windows[size_t(m_window)].move;
  return move.empty() ? nullptr : &move;
}

std::optional<int> Bench::keyAt(const Rational& time) const {
  const Move* keys = move();
  if (!keys) return {};
  for (size_t i = 0; i < keys->size(); ++i)
    if ((*keys)[i].time == time) return int(i);
  return {};
}

void Bench::setMove(const Move& changed, const QString& text, int gesture) {
  if (m_subject) {
    Shot with = *shot();
    Move& move = with.subjects[size_t(m_window)].move;
    move = changed;
    for (MoveKey& key : move) key.zoom = 1; // which means nothing there, and is not kept
    with.subjects[size_t(m_window)].guess = 0;
    m_document.changeShots({with}, text, gesture);
    return;
  }
  const Deliverable& d = m_document.project().deliverables[size_t(m_column)];
  Framing framing = d.framingOf(m_shot);
  framing.windows[size_t(m_window)].move = changed;
  if (d.sharpOnly) framing = heldSharp(cell(m_column).shape, d.canvas, framing); // keys are shown where they count
  m_document.setFramings({{{row(), m_column}, framing}}, text, gesture);
}

void Bench::setKey() {
  if (!media()) return;
  MoveKey key;
  key.time = time();
  Move keys;
  int gesture = 0;
  if (m_subject) {
    if (!subject()) {
      gesture = m_document.newGesture(); // the subject and its key are one step
      placeSubject(middle(), gesture);
    }
    keys = *move();
    const MovePlace place = placeAt(keys, key.time.toDouble());
    key.x = place.x;
    key.y = place.y;
    // The one key of a subject that stays belongs to no moment yet.
    if (keys.size() == 1) keys.front().time = timeOf(firstFrame());
  } else {
    if (move()) keys = *move();
    const Window now = windowNow(cell(m_column), size_t(m_window));
    key.x = now.x;
    key.y = now.y;
    key.zoom = now.zoom;
  }
  tromb::setKey(keys, key);
  setMove(keys, tr("Set a key"), gesture);
}

void Bench::removeKey(int key) {
  const Move* keys = move();
  if (!keys || key < 0 || key >= int(keys->size()) || (m_subject && keys->size() == 1)) return;
  Move left = *keys;
  left.erase(left.begin() + key);
  if (!m_subject && left.empty()) return clearMove();
  setMove(left, tr("Remove a key"), 0);
}

void Bench::changeKey(int key, const MoveKey& changed, int gesture) {
  const Move* keys = move();
  if (!keys || key < 0 || key >= int(keys->size())) return;
  Move with = *keys;
  const MoveKey before = with[size_t(key)];
  with[size_t(key)] = changed;
  MoveKey& at = with[size_t(key)];
  at.x = inside(at.x);
  at.y = inside(at.y);
  at.zoom = std::clamp(at.zoom, 1.0, kMostZoom);
  const bool early = key > 0 && at.time <= with[size_t(key) - 1].time;
  const bool late = key + 1 < int(with.size()) && at.time >= with[size_t(key) + 1].time;
  if (early || late || at.time < Rational(0)) at.time = before.time;
  setMove(with, tr("Change a key"), gesture);
}

void Bench::setEase(Ease ease) {
  const Move* keys = move();
  if (!keys) return;
  int at = 0;
  for (int i = 0; i < int(keys->size()); ++i)
    if ((*keys)[size_t(i)].time <= time()) at = i;
  MoveKey key = (*keys)[size_t(at)];
  key.ease = ease;
  changeKey(at, key, 0);
}

void Bench::goToKey(int direction) {
  int64_t to = direction > 0 ? endFrame() - 1 : firstFrame();
  if (const Move* keys = move())
    for (const MoveKey& key : *keys) {
      const int64_t at = frameOf(key.time.toDouble());
      if (direction > 0 && at > m_frame) to = std::min(to, at);
      if (direction < 0 && at < m_frame) to = std::max(to, at);
    }
  goTo(to);
}

void Bench::startAndEnd() {
  setKeysAt({firstFrame(), endFrame() - 1}, tr("Keys at both ends"));
}

void Bench::setKeyAtCut(int direction) {
  setKeysAt({direction < 0 ? firstFrame() : endFrame() - 1}, tr("A key at the cut"));
}

void Bench::copyMove() {
  if (const Move* keys = move()) m_copied = shifted(*keys, Rational(0) - shot()->in);
}

void Bench::pasteMove() {
  if (!media() || m_copied.empty()) return;
  m_document.undoStack().beginMacro(tr("Paste the move"));
  if (m_subject && !move()) placeSubject({picture().width / 2, picture().height / 2}, 0);
  setMove(shifted(m_copied, shot()->in), tr("Paste the move"), 0);
  m_document.undoStack().endMacro();
}

void Bench::setKeysAt(const std::vector<int64_t>& frames, const QString& text) {
  if (!media()) return;
  const int64_t now = m_frame;
  m_document.undoStack().beginMacro(text);
  for (const int64_t frame : frames) {
    m_frame = frame;
    setKey();
  }
  m_document.undoStack().endMacro();
  m_frame = now;
  emit changed();
}

void Bench::reverse() {
  if (const Move* keys = move())
    setMove(reversed(*keys, keys->front().time, keys->back().time), tr("Reverse the move"), 0);
}

void Bench::clearMove() {
  const Move* keys = move();
  if (!keys) return;
  if (m_subject) {
    const MovePlace place = placeAt(*keys, time().toDouble());
    MoveKey still;
    still.x = place.x;
    still.y = place.y;
    return setMove({still}, tr("No move"), 0);
  }
  const Window now = windowNow(cell(m_column), size_t(m_window));
  Framing framing = m_document.project().deliverables[size_t(m_column)].framingOf(m_shot);
  Window& stored = framing.windows[size_t(m_window)];
  stored.move.clear();
  stored.x = now.x;
  stored.y = now.y;
  stored.zoom = now.zoom;
  apply(framing, tr("No move"));
}

void Bench::shiftMove(int64_t frames) {
  const Move* keys = move();
  if (!keys || keys->size() < 2) return;
  const int64_t first = frameOf(keys->front().time.toDouble());
  const int64_t last = frameOf(keys->back().time.toDouble());
  const int64_t least = std::min<int64_t>(0, firstFrame() - first);
  const int64_t most = std::max<int64_t>(0, endFrame() - 1 - last);
  frames = std::clamp(frames, least, most);
  if (frames == 0) return;
  setMove(retimed(*keys, Rational(0), Rational(1), timeOf(first + frames) - timeOf(first)), tr("Shift the move"), 0);
}

void Bench::stretchMove(const Rational& factor) {
  const Move* keys = move();
  if (!keys || keys->size() < 2) return;
  const Rational start = keys->front().time;
  const Rational length = keys->back().time - start;
  const Rational room = std::max(length, timeOf(endFrame() - 1) - start);
  const Rational stretched = std::min(factor, room / length);
  if (stretched == Rational(1)) return;
  setMove(retimed(*keys, start, stretched, Rational(0)), tr("Stretch the move"), 0);
}

// ---- following

const Bench::Followed* Bench::followed(const std::string& shotId) const {
  const auto at = m_tracks.find(shotId);
  const Shot* stored = at == m_tracks.end() ? nullptr : m_document.project().shot(shotId);
  const Source* source = stored ? m_document.project().source(stored->source) : nullptr;
  const bool same = source && source->id == at->second.source && source->bars == at->second.bars &&
                    source->orientation == at->second.orientation;
  return same ? &at->second : nullptr;
}

const Track* Bench::track() const {
  const Followed* found = followed(m_shot);
  return found ? &found->track : nullptr;
}

void Bench::takeTrack(const std::string& shotId, const Track& track) {
  const Shot* stored = m_document.project().shot(shotId);
  const Source* source = stored ? m_document.project().source(stored->source) : nullptr;
  if (!source) return; // removed meanwhile
  const bool here = shotId == m_shot;
  m_tracks[shotId] = {track, here ? size_t(m_window) : 0, source->id, source->bars, source->orientation};
  if (here) setPlacesSubject(true);
  calm(shotId, 0);
}

void Bench::setCalming(double strength, int gesture) {
  m_calming = inside(strength);
  calm(m_shot, gesture);
}

void Bench::calm(const std::string& shotId, int gesture) {
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
  emit this->changed();
}

} // namespace tromb
