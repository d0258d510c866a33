// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/FillService.h"

#include "preflight/Filling.h"
#include "project/Sharing.h"

#include <algorithm>
#include <array>

namespace tromb {
namespace {

/// What another way to fill may mend, and nobody has accepted.
bool asksFor(const Finding& finding) {
  constexpr std::array<std::string_view, 6> kOfFilling{
      "bars", "soft", "never-enlarge", "fast-move", "subject-outside", "subject-covered"};
  return !finding.accepted && finding.severity >= Severity::Warning &&
         std::find(kOfFilling.begin(), kOfFilling.end(), finding.code) != kOfFilling.end();
}

} // namespace

std::vector<WayToFill> waysOf(const Document& document, CellPlace place, std::vector<SeenBox> matters) {
  const Cell cell = document.cell(place);
  if (cell.placements.empty()) return {};
  const Shot& shot = document.project().shots[size_t(place.shot)];
  const Deliverable& deliverable = document.project().deliverables[size_t(place.deliverable)];
  return waysToFill(cell.shape, cell.canvas, cell.framing, cell.subjects, shot.in.toDouble(), shot.out.toDouble(),
                    fillGrounds(deliverable, shot, std::move(matters)));
}

FillService::FillService(Document& document, const FramingService& framing, PreflightService& preflight,
                         QObject* parent)
    : QObject(parent), m_document(document), m_framing(framing), m_preflight(preflight) {
  connect(&preflight, &PreflightService::changed, this, [this] {
    m_answered.clear();
    emit changed();
  });
  connect(&framing, &FramingService::looked, this, &FillService::changed);
}

std::vector<int> FillService::columns() const {
  const Project& project = m_document.project();
  std::set<std::string_view> shots; // of findings that are being looked for again, some may be gone
  for (const Shot& shot : project.shots) shots.insert(shot.id);
  std::set<std::string> ids;
  for (const Finding& each : m_preflight.findings())
    if (asksFor(each) && shots.contains(each.shotId)) ids.insert(each.deliverableId);
  std::vector<int> columns;
  for (size_t column = 0; column < project.deliverables.size(); ++column) {
    const Deliverable& d = project.deliverables[column];
    if (ids.contains(d.id) && !m_answered.contains(d.id) && framesItself(d)) columns.push_back(int(column));
  }
  return columns;
}

std::vector<int> FillService::rows(int column) const {
  const Project& project = m_document.project();
  std::set<std::pair<double, int>> found;
  for (const Finding& each : m_preflight.findings()) {
    if (!asksFor(each) || each.deliverableId != project.deliverables[size_t(column)].id) continue;
    const int row = placeOf(project.shots, each.shotId);
    if (row < 0) continue;
    const Cell cell = m_document.cell({row, column});
    if (!cell.placements.empty() && !cell.unseen) found.emplace(cell.detail, row);
  }
  std::vector<int> rows;
  for (const auto& [detail, row] : found) rows.push_back(row);
  return rows;
}

std::vector<WayToFill> FillService::ways(CellPlace place) const {
  auto ways = waysOf(m_document, place, m_framing.matters(m_document.project().shots[size_t(place.shot)]));
  std::erase_if(ways, [](const WayToFill& way) { return way.kind == WayToFill::Kind::Canvas; });
  return ways;
}

FillService::Taken FillService::take(int column, WayToFill::Kind kind) {
  return answer(column, tr("Fill %1 another way"), [kind](const std::vector<WayToFill>& ways) -> const WayToFill* {
    const auto of = [&](auto&& wanted) { return std::find_if(ways.begin(), ways.end(), wanted); };
    const auto now = of([](const WayToFill& way) { return way.isNow; });
    const auto way = of([kind](const WayToFill& each) { return each.kind == kind; });
    return way < now ? &*way : nullptr;
  });
}

FillService::Taken FillService::letBe(int column) {
  return answer(column, tr("Let %1 be as it is"), [](const std::vector<WayToFill>&) { return nullptr; });
}

/// `choose`: one of the ways of a cell, null where it is to stay as it is.
FillService::Taken FillService::answer(int column, const QString& step,
                                       const std::function<const WayToFill*(const std::vector<WayToFill>&)>& choose) {
  Taken taken;
  std::vector<std::pair<CellPlace, Framing>> framings;
  const std::vector<int> asked = rows(column);
  std::set<std::string> ids;
  for (const int row : asked) ids.insert(m_document.project().shots[size_t(row)].id);
  Project after = m_document.project(); // of nothing but what is asked about
  std::erase_if(after.shots, [&](const Shot& shot) { return !ids.contains(shot.id); });
  Deliverable& deliverable = after.deliverables[size_t(column)];
  for (const int row : asked) {
    const CellPlace place{row, column};
    const std::vector<WayToFill> all = ways(place);
    const WayToFill* way = choose(all);
    ++(way ? taken.filled : taken.accepted);
    if (!way) continue;
    framings.emplace_back(place, way->framing);
    deliverable.framings[m_document.project().shots[size_t(row)].id] = way->framing;
  }
  // What still falls short then was chosen so.
  std::vector<Acceptance> accepted;
  for (const Finding& each : preflight(after, m_document.footage(), {}, {deliverable.id}))
    if (asksFor(each) && !findingKind(each.code)->stops) accepted.push_back(acceptanceOf(each, {}));
  m_answered.insert(deliverable.id);
  if (framings.empty() && accepted.empty()) return taken;
  const QString text = step.arg(QString::fromStdString(deliverable.name));
  m_document.undoStack().beginMacro(text);
  if (!framings.empty()) m_document.setFramings(framings, text);
  if (!accepted.empty()) m_preflight.accept(std::move(accepted), tr("chosen among the ways to fill it"));
  m_document.undoStack().endMacro();
  return taken;
}

} // namespace tromb
