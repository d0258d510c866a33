// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/PreflightService.h"

#include "model/SampleService.h"
#include "project/Sharing.h"

#include <algorithm>
#include <array>

namespace tromb {

QString severityWords(Severity severity) {
  switch (severity) {
  case Severity::Ignored:
    return PreflightService::tr("ignored");
  case Severity::Note:
    return PreflightService::tr("note");
  case Severity::Warning:
    return PreflightService::tr("warning");
  case Severity::Error:
    return PreflightService::tr("error");
  }
  return {};
}

bool toldByState(const Finding& finding) {
  constexpr std::array<std::string_view, 5> kTold{"bars", "soft", "never-enlarge", "source-missing",
                                                  "source-unreadable"};
  return std::find(kTold.begin(), kTold.end(), finding.code) != kTold.end();
}

PreflightService::PreflightService(Document& document, QObject* parent)
    : QObject(parent), m_document(document), m_looking(1, Worker::Pace::WithWindow) {
  m_soon.setSingleShot(true);
  m_soon.setInterval(20);
  connect(&m_soon, &QTimer::timeout, this, &PreflightService::look);
  const auto soon = qOverload<>(&QTimer::start);
  connect(&document, &Document::reset, &m_soon, soon);
  connect(&document, &Document::mediaChanged, &m_soon, soon);
  connect(&document, &Document::sourcesInserted, &m_soon, soon);
  connect(&document, &Document::sourcesRemoved, &m_soon, soon);
  connect(&document, &Document::sourceChanged, &m_soon, soon);
  connect(&document, &Document::shotsInserted, &m_soon, soon);
  connect(&document, &Document::shotsRemoved, &m_soon, soon);
  connect(&document, &Document::shotMoved, &m_soon, soon);
  connect(&document, &Document::shotChanged, &m_soon, soon);
  connect(&document, &Document::framingsChanged, &m_soon, soon);
  connect(&document, &Document::deliverablesInserted, &m_soon, soon);
  connect(&document, &Document::deliverablesRemoved, &m_soon, soon);
  connect(&document, &Document::deliverableMoved, &m_soon, soon);
  connect(&document, &Document::deliverableChanged, &m_soon, soon);
  connect(&document, &Document::bedsChanged, &m_soon, soon);
  connect(&document, &Document::elementsChanged, &m_soon, soon);
  connect(&document, &Document::outputChanged, &m_soon, soon);
  connect(&document, &Document::checksChanged, &m_soon, soon);
  m_soon.start();
}

void PreflightService::setFolder(const QString& folder) {
  if (folder == m_folder) return;
  m_folder = folder;
  m_soon.start();
}

void PreflightService::setSamples(const SampleService& samples) {
  m_samples = &samples;
  connect(&samples, &SampleService::changed, &m_soon, qOverload<>(&QTimer::start));
  m_soon.start();
}

void PreflightService::look() {
  m_looking.stop(); // what is under way is of a project that is no more
  PreflightGrounds grounds;
  grounds.measured = m_document.allMeasured();
  grounds.memory = m_memory;
  grounds.changed = m_document.changedSources();
  if (m_samples && m_samples->any())
    for (const Deliverable& d : m_document.project().deliverables)
      if (const auto point = m_samples->point(d)) grounds.sampledBytes[d.id] = point->fileBytes;
  // What is there already is asked about where it is exported: after the first export that is everything.
  if (!m_folder.isEmpty())
    grounds.place = OutputPlace{m_folder.toStdString(), m_document.title().toStdString(), {}, true};
  m_looking.add(
      [this, project = m_document.project(), footage = m_document.footage(),
       grounds = std::move(grounds)](const Task& task) {
        auto found = std::make_shared<std::vector<Finding>>(preflight(project, footage, grounds));
        task.tell([this, found] { take(std::move(*found)); });
      },
      [](const Error&) {}); // the next edit looks again
}

void PreflightService::take(std::vector<Finding> findings) {
  m_findings = std::move(findings);
  m_all = {};
  m_counts.clear();
  m_cells.clear();
  std::map<std::string, Counts> ofCells; // by Deliverable::id
  for (int i = 0; i < int(m_findings.size()); ++i) {
    const Finding& f = m_findings[size_t(i)];
    const auto count = [&f](Counts& counts) {
      ++(f.severity == Severity::Error     ? counts.errors
         : f.severity == Severity::Warning ? counts.warnings
                                           : counts.notes);
    };
    count(m_all);
    if (f.deliverableId.empty()) continue;
    count(m_counts[f.deliverableId]);
    if (f.shotId.empty()) continue;
    count(ofCells[f.deliverableId]);
    m_cells[{f.deliverableId, f.shotId}].push_back(i);
  }
  // What falls short in cells that are framed as another's is told once, there, and holds for both.
  for (const Deliverable& d : m_document.project().deliverables) {
    const auto shared = ofCells.find(d.sharesWith);
    if (framesItself(d) || shared == ofCells.end() || ofCells.count(d.id) > 0) continue;
    Counts& counts = m_counts[d.id];
    counts.errors += shared->second.errors;
    counts.warnings += shared->second.warnings;
    counts.notes += shared->second.notes;
  }
  emit changed();
}

PreflightService::Counts PreflightService::countsIn(const std::string& deliverableId) const {
  const auto at = m_counts.find(deliverableId);
  return at != m_counts.end() ? at->second : Counts();
}

std::vector<int> PreflightService::placesIn(const std::string& deliverableId, const std::string& shotId) const {
  const auto at = m_cells.find({deliverableId, shotId});
  return at != m_cells.end() ? at->second : std::vector<int>();
}

std::vector<const Finding*> PreflightService::besideState(const std::string& deliverableId,
                                                          const std::string& shotId) const {
  std::vector<const Finding*> found;
  for (const int each : placesIn(deliverableId, shotId)) {
    const Finding& f = m_findings[size_t(each)];
    if (f.severity >= Severity::Warning && !toldByState(f)) found.push_back(&f);
  }
  return found;
}

void PreflightService::mend(const std::vector<int>& places, const QString& text) {
  std::vector<Deliverable> deliverables = m_document.project().deliverables;
  std::vector<Shot> shots = m_document.project().shots;
  std::vector<SoundBed> beds = m_document.project().beds;
  for (const int place : places) {
    const Finding& finding = m_findings[size_t(place)];
    if (finding.fixes.empty()) continue;
    const Fix& fix = finding.fixes.front();
    const int column = placeOf(deliverables, finding.deliverableId);
    const int row = placeOf(shots, finding.shotId);
    if (fix.change && column >= 0) fix.change(deliverables[size_t(column)]);
    if (fix.changeShot && row >= 0) fix.changeShot(shots[size_t(row)]);
    if (fix.changeBeds) fix.changeBeds(beds);
  }
  const Project& now = m_document.project();
  if (deliverables == now.deliverables && shots == now.shots && beds == now.beds) return;
  m_document.undoStack().beginMacro(text);
  m_document.changeDeliverables(deliverables, text);
  m_document.changeShots(shots, text);
  m_document.setBeds(std::move(beds), text);
  m_document.undoStack().endMacro();
}

std::vector<Acceptance> PreflightService::acceptable(const std::vector<int>& places) const {
  std::vector<Acceptance> all;
  for (const int place : places) {
    const Finding& f = m_findings[size_t(place)];
    if (!f.accepted && !findingKind(f.code)->stops) all.push_back(acceptanceOf(f, {}));
  }
  return all;
}

void PreflightService::accept(std::vector<Acceptance> findings, const QString& word) {
  Checks checks = m_document.project().checks;
  for (Acceptance& each : findings) {
    each.word = word.toStdString();
    checks.accepted.push_back(std::move(each));
  }
  m_document.setChecks(checks, tr("Accept: %1").arg(word));
}

void PreflightService::takeBack(const std::vector<int>& places) {
  Checks checks = m_document.project().checks;
  for (const int place : places) {
    const Acceptance back = acceptanceOf(m_findings[size_t(place)], {});
    std::erase_if(checks.accepted, [&back](const Acceptance& a) { return sameFinding(a, back); });
  }
  m_document.setChecks(checks, tr("Accept no longer"));
}

void PreflightService::weigh(const std::string& code, std::optional<Severity> severity) {
  Checks checks = m_document.project().checks;
  if (severity)
    checks.severities[code] = *severity;
  else
    checks.severities.erase(code);
  m_document.setChecks(checks, tr("Change how much a finding weighs"));
}

} // namespace tromb
