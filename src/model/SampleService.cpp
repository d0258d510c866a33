// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/SampleService.h"

#include "io/Digest.h"
#include "media/write/Hardware.h"
#include "model/Translation.h"

#include <algorithm>

namespace tromb {

SampleService::SampleService(Document& document, const QString& folder, const QString& trialFolder, QObject* parent)
    : QObject(parent), m_document(document), m_store(folder.toStdString()), m_trialFolder(trialFolder.toStdString()) {
  const auto others = [this] { m_shots.clear(); };
  connect(&document, &Document::mediaChanged, this, others);
  connect(&document, &Document::sourcesInserted, this, others);
  connect(&document, &Document::sourcesRemoved, this, others);
  connect(&document, &Document::sourceChanged, this, others);
  connect(&document, &Document::shotsInserted, this, others);
  connect(&document, &Document::shotsRemoved, this, others);
  connect(&document, &Document::shotMoved, this, others);
  connect(&document, &Document::shotChanged, this, others);
  connect(&document, &Document::bedsChanged, this, others);
  connect(&document, &Document::aboutToReset, this, [this] {
    m_shots.clear();
    m_reports.clear(); // pictures of another project
    m_settings.clear();
    m_fault.clear();
    cancel();
  });
}

std::string SampleService::keyOf(const Deliverable& deliverable) const {
  if (m_shots.empty()) m_shots = cacheName(sampledShots(m_document.project(), m_document.footage()));
  auto [at, fresh] = m_settings.try_emplace(deliverable.id);
  if (fresh || at->second.first != deliverable) at->second = {deliverable, cacheName(sampledSettings(deliverable))};
  return m_shots + at->second.second;
}

const SampleReport* SampleService::report(const Deliverable& deliverable) const {
  const std::string key = keyOf(deliverable);
  const auto [at, fresh] = m_reports.try_emplace(key);
  if (fresh)
    if (auto kept = m_store.find(key, resolvedEncoding(deliverable)))
      at->second = std::make_unique<SampleReport>(std::move(*kept));
  return at->second.get();
}

bool SampleService::any() const {
  return std::any_of(m_reports.begin(), m_reports.end(), [](const auto& each) { return each.second != nullptr; });
}

std::optional<SamplePoint> SampleService::point(const Deliverable& deliverable) const {
  const SampleReport* known = report(deliverable);
  return known ? pointAt(known->rungs, resolvedEncoding(deliverable)) : std::nullopt;
}

void SampleService::begin(const std::string& deliverableId) {
  const Deliverable* d = m_document.project().deliverable(deliverableId);
  if (!d) return;
  m_worker.stop();
  m_fault.clear();
  m_subject = m_faulty = deliverableId;
  m_fraction = 0;
  const auto take = [this, key = keyOf(*d)](const Result<SampleReport>& made) {
    if (!made) {
      if (made.error().code != ErrorCode::Cancelled) m_fault = said(made.error());
      return end();
    }
    auto& kept = m_reports[key];
    const std::vector<SampleRung> before = kept ? kept->rungs : std::vector<SampleRung>();
    kept = std::make_unique<SampleReport>(*made);
    kept->rungs = before;
    addRungs(kept->rungs, made->rungs);
    m_store.keep(key, *kept);
    end();
  };
  m_worker.add(
      [this, take, project = m_document.project(), footage = m_document.footage(), deliverableId,
       folder = m_trialFolder](const Task& task) {
        auto plan = Plan::build(project, footage, deliverableId);
        if (!plan) return task.tell([take, error = plan.error()] { take(tl::unexpected(error)); });
        const HardwareEncoder* hardware = hardwareFor(plan->encoding(), plan->format(), folder);
        std::vector<Encoding> rungs = rungsRound(plan->encoding(), pictureOf(plan->deliverable()));
        Throttle throttle;
        const auto onFraction = [&](double fraction) {
          if (!throttle.due()) return;
          task.tell([this, fraction] {
            m_fraction = fraction;
            emit progressed();
          });
        };
        auto made = encodeSample({std::move(*plan), std::move(rungs), hardware, onFraction}, task.stop());
        task.tell([take, made = std::move(made)] { take(made); });
      },
      [take](const Error& error) { take(tl::unexpected(error)); });
  emit changed();
}

void SampleService::cancel() {
  if (m_subject.empty()) return;
  m_worker.stop();
  end();
}

void SampleService::end() {
  m_subject.clear();
  emit changed();
}

} // namespace tromb
