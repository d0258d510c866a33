// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/PreflightService.h"

#include <algorithm>

namespace tromb {

PreflightService::PreflightService(Document& document, QObject* parent)
    : QObject(parent), m_document(document), m_looking(1, Worker::Pace::WithWindow) {
  m_soon.setSingleShot(true);
  m_soon.setInterval(20);
  connect(&m_soon, &QTimer::timeout, this, &PreflightService::look);
  const auto soon = [this] { m_soon.start(); };
  connect(&document, &Document::reset, this, soon);
  connect(&document, &Document::mediaChanged, this, soon);
  connect(&document, &Document::sourcesInserted, this, soon);
  connect(&document, &Document::sourcesRemoved, this, soon);
  connect(&document, &Document::sourceChanged, this, soon);
  connect(&document, &Document::shotsInserted, this, soon);
  connect(&document, &Document::shotsRemoved, this, soon);
  connect(&document, &Document::shotMoved, this, soon);
  connect(&document, &Document::shotChanged, this, soon);
  connect(&document, &Document::framingsChanged, this, soon);
  connect(&document, &Document::deliverablesInserted, this, soon);
  connect(&document, &Document::deliverablesRemoved, this, soon);
  connect(&document, &Document::deliverableMoved, this, soon);
  connect(&document, &Document::deliverableChanged, this, soon);
  connect(&document, &Document::bedsChanged, this, soon);
  connect(&document, &Document::outputChanged, this, soon);
  m_soon.start();
}

void PreflightService::look() {
  m_looking.stop(); // what is under way is of a project that is no more
  m_looking.add(
      [this, project = m_document.project(), footage = m_document.footage()](const Job& job) {
        auto found = std::make_shared<std::vector<Finding>>(preflight(project, footage));
        job.tell([this, found] {
          m_findings = std::move(*found);
          emit changed();
        });
      },
      [](const Error&) {}); // the next edit looks again
}

int PreflightService::count(Severity severity) const {
  return int(
      std::count_if(m_findings.begin(), m_findings.end(), [&](const Finding& f) { return f.severity == severity; }));
}

void PreflightService::mend(const std::vector<int>& places, const QString& text) {
  std::vector<Deliverable> changed = m_document.project().deliverables;
  for (const int place : places) {
    const Finding& finding = m_findings[size_t(place)];
    const int at = placeOf(changed, finding.deliverableId);
    if (at >= 0 && !finding.fixes.empty()) finding.fixes.front().change(changed[size_t(at)]);
  }
  m_document.changeDeliverables(changed, text);
}

} // namespace tromb
