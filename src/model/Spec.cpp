// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/Spec.h"

#include "preflight/Preflight.h"
#include "project/FileName.h"

#include <algorithm>
#include <utility>

namespace tromb {

Spec::Spec(Session& session, QObject* parent) : QObject(parent), m_session(session) {
  const auto again = [this] { changedSoon(); };
  connect(&session, &Session::selectionChanged, this, again);
  const Document& from = document();
  connect(&from, &Document::reset, this, again);
  connect(&from, &Document::mediaChanged, this, again);
  connect(&from, &Document::sourcesInserted, this, again);
  connect(&from, &Document::sourcesRemoved, this, again);
  connect(&from, &Document::sourceChanged, this, again);
  connect(&from, &Document::shotsInserted, this, again);
  connect(&from, &Document::shotsRemoved, this, again);
  connect(&from, &Document::shotChanged, this, again);
  connect(&from, &Document::framingsChanged, this, again);
  connect(&from, &Document::deliverablesInserted, this, again);
  connect(&from, &Document::deliverablesRemoved, this, again);
  connect(&from, &Document::deliverableMoved, this, again);
  connect(&from, &Document::deliverableChanged, this, again);
  connect(&from, &Document::outputChanged, this, again);
}

const Deliverable* Spec::current() const {
  const auto& all = document().project().deliverables;
  return all.empty() ? nullptr : &all[size_t(m_session.current().deliverable)];
}

void Spec::change(const QString& text, const std::function<void(Deliverable&)>& change, int gesture) {
  std::vector<Deliverable> changed;
  for (const int column : columns()) {
    const Deliverable& before = document().project().deliverables[size_t(column)];
    Deliverable after = before;
    change(after);
    // What is called by its size goes on being called so.
    if (after.canvas != before.canvas && after.name == before.name && before.name == sizeText(before.canvas))
      after.name = freeDeliverableName(document().project(), sizeText(after.canvas));
    changed.push_back(std::move(after));
  }
  document().changeDeliverables(changed, text, gesture);
}

const std::vector<SpecLine>& Spec::lines(int column) const {
  const Deliverable& d = document().project().deliverables[size_t(column)];
  auto at = m_lines.find(d.id);
  if (at == m_lines.end())
    at = m_lines.emplace(d.id, specLines(document().project(), document().footage(), d, m_grounds)).first;
  return at->second;
}

void Spec::setLineSpeed(int64_t bitsASecond) {
  if (m_grounds.lineSpeed == bitsASecond) return;
  m_grounds.lineSpeed = bitsASecond;
  changedSoon();
}

void Spec::setMeasuredBytes(std::function<std::optional<int64_t>(const Deliverable&)> measured) {
  m_grounds.measuredBytes = std::move(measured);
  changedSoon();
}

void Spec::changedSoon() {
  m_lines.clear();
  if (std::exchange(m_changing, true)) return;
  QMetaObject::invokeMethod(
      this,
      [this] {
        m_changing = false;
        emit changed();
      },
      Qt::QueuedConnection);
}

} // namespace tromb
