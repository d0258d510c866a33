// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/Session.h"

#include <algorithm>
#include <map>

namespace tromb {
namespace {

template <typename List> std::map<std::string, int> placesOf(const List& list) {
  std::map<std::string, int> places;
  for (size_t i = 0; i < list.size(); ++i) places.emplace(list[i].id, int(i));
  return places;
}

template <typename List> std::string idAt(const List& list, int place) {
  return place >= 0 && place < int(list.size()) ? list[size_t(place)].id : std::string();
}

} // namespace

Session::Session(Document& document, QObject* parent)
    : QObject(parent), m_document(document), m_starts(document.project().shotStarts()) {
  connect(&document, &Document::reset, this, [this] {
    m_shots.clear();
    m_cells.clear();
    m_current = {};
    m_deliverables.clear();
    m_bed.clear();
    m_sources.clear();
    m_stretches.clear();
    m_playhead = Rational(0);
    m_starts = m_document.project().shotStarts();
    holdPicture();
    emit selectionChanged();
    emit sourcesSelected();
    emit playheadMoved();
  });
  connect(&document, &Document::sourcesRemoved, this, [this] {
    const size_t before = m_sources.size();
    std::erase_if(m_sources, [this](const std::string& id) { return !m_document.project().source(id); });
    if (m_sources.size() != before) emit sourcesSelected();
  });
  const auto changed = [this] { orderChanged(false); };
  connect(&document, &Document::shotsInserted, this, changed);
  connect(&document, &Document::shotMoved, this, [this] { orderChanged(true); });
  connect(&document, &Document::shotChanged, this, changed);
  connect(&document, &Document::shotsRemoved, this, [this] {
    dropRemoved();
    orderChanged(false);
  });
  connect(&document, &Document::deliverablesRemoved, this, &Session::dropRemoved);
  connect(&document, &Document::bedsChanged, this, &Session::dropRemoved);
}

std::vector<int> Session::shots() const {
  std::vector<int> rows;
  const auto& all = m_document.project().shots;
  for (size_t row = 0; !m_shots.empty() && row < all.size(); ++row)
    if (m_shots.contains(all[row].id)) rows.push_back(int(row));
  return rows;
}

bool Session::isSelected(int row) const {
  return m_shots.contains(idAt(m_document.project().shots, row));
}

std::vector<CellPlace> Session::cells() const {
  if (m_cells.empty()) return {};
  const auto rows = placesOf(m_document.project().shots);
  const auto columns = placesOf(m_document.project().deliverables);
  std::vector<CellPlace> places;
  for (const auto& [shot, deliverable] : m_cells) {
    const auto row = rows.find(shot);
    const auto column = columns.find(deliverable);
    // While an edit's signals are sent, removed shots may still be selected.
    if (row != rows.end() && column != columns.end()) places.push_back({row->second, column->second});
  }
  std::sort(places.begin(), places.end(), [](const CellPlace& a, const CellPlace& b) {
    return std::pair(a.shot, a.deliverable) < std::pair(b.shot, b.deliverable);
  });
  return places;
}

int Session::bed() const {
  return placeOf(m_document.project().beds, m_bed);
}

CellPlace Session::current() const {
  return {placeOf(m_document.project().shots, m_current.first),
          std::max(0, placeOf(m_document.project().deliverables, m_current.second))};
}

Session::CellIds Session::idsOf(CellPlace place) const {
  return {idAt(m_document.project().shots, place.shot), idAt(m_document.project().deliverables, place.deliverable)};
}

void Session::selectShots(const std::vector<int>& rows) {
  std::set<std::string> deliverables;
  for (const auto& [shot, deliverable] : m_cells) deliverables.insert(deliverable);
  std::set<std::string> shots;
  std::set<CellIds> cells;
  for (const int row : rows) {
    const std::string id = idAt(m_document.project().shots, row);
    shots.insert(id);
    for (const std::string& deliverable : deliverables) cells.emplace(id, deliverable);
  }
  select(std::move(shots), std::move(cells), {idsOf({rows.empty() ? -1 : rows.front(), -1}).first, m_current.second});
}

void Session::selectCells(const std::vector<CellPlace>& places, CellPlace current, const std::vector<int>& rows) {
  std::set<std::string> shots;
  std::set<CellIds> cells;
  for (const CellPlace& place : places) {
    const CellIds ids = idsOf(place);
    shots.insert(ids.first);
    cells.insert(ids);
  }
  for (const int row : rows) shots.insert(idAt(m_document.project().shots, row));
  CellIds ids = idsOf(current);
  if (ids.second.empty()) ids.second = m_current.second;
  select(std::move(shots), std::move(cells), std::move(ids));
}

/// An unchanged selection is not signalled again; a click on a cell arrives twice, as selection and as current cell.
void Session::select(std::set<std::string> shots, std::set<CellIds> cells, CellIds current) {
  if (shots == m_shots && cells == m_cells && current == m_current && m_bed.empty()) return;
  m_shots = std::move(shots);
  m_cells = std::move(cells);
  m_current = std::move(current);
  m_bed.clear();
  emit selectionChanged();
}

void Session::selectBed(int place) {
  m_shots.clear();
  m_cells.clear();
  m_current.first.clear();
  m_bed = idAt(m_document.project().beds, place);
  emit selectionChanged();
}

void Session::setDeliverable(int column) {
  const auto& all = m_document.project().deliverables;
  const std::string id = idAt(all, std::clamp(column, 0, std::max(0, int(all.size()) - 1)));
  if (id == m_current.second) return;
  m_current.second = id;
  if (!m_cells.empty()) {
    m_cells.clear();
    for (const std::string& shot : m_shots) m_cells.emplace(shot, id);
  }
  emit selectionChanged();
}

std::vector<int> Session::deliverables() const {
  const auto& all = m_document.project().deliverables;
  if (all.empty()) return {};
  const int now = current().deliverable;
  if (!m_deliverables.contains(all[size_t(now)].id)) return {now};
  std::vector<int> columns;
  for (size_t i = 0; i < all.size(); ++i)
    if (m_deliverables.contains(all[i].id)) columns.push_back(int(i));
  return columns;
}

void Session::selectDeliverables(const std::vector<int>& columns) {
  if (columns.empty()) return;
  const std::vector<int> before = deliverables();
  m_deliverables.clear();
  for (const int column : columns) m_deliverables.insert(idAt(m_document.project().deliverables, column));
  const int now = current().deliverable;
  if (columns.front() != now || m_current.second.empty()) return setDeliverable(columns.front());
  if (deliverables() != before) emit selectionChanged();
}

void Session::dropRemoved() {
  const Project& project = m_document.project();
  const auto rows = placesOf(project.shots);
  const auto columns = placesOf(project.deliverables);
  std::erase_if(m_shots, [&](const std::string& id) { return !rows.contains(id); });
  std::erase_if(m_cells,
                [&](const CellIds& ids) { return !rows.contains(ids.first) || !columns.contains(ids.second); });
  if (!rows.contains(m_current.first)) m_current.first.clear();
  if (!columns.contains(m_current.second)) m_current.second.clear();
  if (placeOf(project.beds, m_bed) < 0) m_bed.clear();
  emit selectionChanged();
}

// ---- the footage

std::vector<int> Session::sources() const {
  std::vector<int> rows;
  const auto places = placesOf(m_document.project().sources);
  for (const std::string& id : m_sources)
    if (const auto at = places.find(id); at != places.end()) rows.push_back(at->second);
  return rows;
}

void Session::selectSources(const std::vector<int>& rows) {
  std::vector<std::string> ids;
  for (const int row : rows)
    if (const std::string id = idAt(m_document.project().sources, row); !id.empty()) ids.push_back(id);
  if (ids == m_sources) return;
  m_sources = std::move(ids);
  emit sourcesSelected();
}

Session::Stretch Session::stretch(const std::string& source) const {
  const Result<MediaInfo>* known = m_document.media(source);
  const int64_t count = known && *known && (*known)->video ? (*known)->video->clock.frameCount() : 0;
  const auto at = m_stretches.find(source);
  // A source may have become another file, and shorter.
  const bool fits = at != m_stretches.end() && at->second.in < at->second.end && at->second.end <= count;
  return fits ? at->second : Stretch{0, count};
}

void Session::setStretch(const std::string& source, Stretch stretch) {
  if (stretch == this->stretch(source)) return;
  m_stretches[source] = stretch;
  emit stretchChanged(source);
}

std::pair<Rational, Rational> Session::stretchSeconds(const std::string& source) const {
  const Result<MediaInfo>* known = m_document.media(source);
  if (!known || !*known || !(*known)->video) return {Rational(0), Rational(0)};
  if ((*known)->kind == MediaKind::Still) return {Rational(0), kStillLength};
  const FrameClock& clock = (*known)->video->clock;
  const Stretch s = stretch(source);
  return {clock.timeOf(s.in), s.end >= clock.frameCount() ? (*known)->duration : clock.timeOf(s.end)};
}

// ---- the playhead

Session::Under Session::underPlayhead() const {
  // While an edit's signals are sent, the shots may have changed already.
  if (m_starts.size() < 2 || m_starts.size() != m_document.project().shots.size() + 1) return {};
  const auto after = std::upper_bound(m_starts.begin(), m_starts.end() - 1, m_playhead);
  const int row = int(after - m_starts.begin()) - 1;
  const Rational since = m_playhead - m_starts[size_t(row)];
  return {row, m_document.project().shots[size_t(row)].time().sourceTime(since), since};
}

Session::Picture Session::shown() const {
  const Under under = underPlayhead();
  return {idAt(m_document.project().shots, under.row), under.sourceTime, under.sinceBegin};
}

void Session::holdPicture() {
  m_held = m_shown = shown();
  m_gone = false;
}

void Session::setPlayhead(const Rational& seconds) {
  const Rational stopped = std::clamp(seconds, Rational(0), m_starts.back());
  const bool moves = stopped != m_playhead;
  m_playhead = stopped;
  holdPicture();
  if (!moves) return;
  emit playheadMoved();
}

void Session::lookAt(int row) {
  if (row < 0 || row + 1 >= int(m_starts.size()) || underPlayhead().row == row) return;
  const Rational& start = m_starts[size_t(row)];
  setPlayhead(start + (m_starts[size_t(row) + 1] - start) / Rational(2));
}

void Session::setRate(const FrameRate& rate) {
  m_rate = rate;
  const Rational before = m_playhead;
  setPlayhead(rate.timeOf(rate.frameAt(m_playhead)));
  if (m_playhead == before) emit playheadMoved();
}

/// Where the held picture is in the running order; nothing where it is gone.
std::optional<Rational> Session::placeOfHeld() const {
  const auto& shots = m_document.project().shots;
  const int row = placeOf(shots, m_held.shot);
  if (row < 0) return std::nullopt;
  const Shot& shot = shots[size_t(row)];
  const bool last = row + 2 == int(m_starts.size());
  const TimeMap time = shot.time();
  const Rational end = secondsOf(time.length());
  if (time.held()) return m_starts[size_t(row)] + std::min(m_held.sinceBegin, end);
  const Rational since = time.sinceBegin(m_held.time);
  if (since < Rational(0) || since > end || (since == end && !last)) return std::nullopt;
  return m_starts[size_t(row)] + since;
}

void Session::orderChanged(bool moved) {
  m_starts = m_document.project().shotStarts();
  // A shot that is moved takes the shown picture with it. Any other edit may bring the held picture back.
  if (moved && m_gone) m_held = m_shown;
  if (const auto place = placeOfHeld()) m_playhead = *place;
  // If the picture is gone the playhead stays at its time, and returns when the picture comes back.
  m_playhead = std::min(m_playhead, m_starts.back());
  m_shown = shown();
  // A shot that is cut where the playhead is: the same picture begins the shot behind the cut.
  const auto& shots = m_document.project().shots;
  const int held = placeOf(shots, m_held.shot);
  const int now = placeOf(shots, m_shown.shot);
  if (!placeOfHeld() && held >= 0 && now >= 0 && shots[size_t(held)].source == shots[size_t(now)].source &&
      m_shown.time == m_held.time)
    m_held = m_shown;
  m_gone = !placeOfHeld();
  emit playheadMoved();
}

} // namespace tromb
