// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/QueueService.h"

#include "queue/Runner.h"

#include <QFileInfo>

namespace tromb {
namespace {

constexpr int kLookOften = 300;   ///< milliseconds, while something is under way
constexpr int kStartEvery = 2000; ///< a process that ends at once is not started again at once
constexpr int kLookSeldom = 1000;
constexpr int kLookUnwatched = 4000;

} // namespace

QueueService::QueueService(const std::string& folder, QObject* parent) : QObject(parent), m_queue(folder) {
  m_next.setSingleShot(true);
  connect(&m_next, &QTimer::timeout, this, &QueueService::look);
  if (!folder.empty()) m_next.start(0);
}

const QueuedJob* QueueService::job(const std::string& id) const {
  for (const QueuedJob& each : m_jobs)
    if (each.id == id) return &each;
  return nullptr;
}

std::vector<QueueService::Finished> QueueService::finished() const {
  std::vector<Finished> all;
  for (const QueuedJob& job : m_jobs)
    for (const JobResult& result : job.record.results)
      if (result.made() && QFileInfo::exists(QString::fromStdString(result.path))) all.push_back({&job, &result});
  return all;
}

int QueueService::left() const {
  return int(std::count_if(m_jobs.begin(), m_jobs.end(),
                           [](const QueuedJob& each) { return !each.fault && !each.record.over(); }));
}

QImage QueueService::picture(const std::string& id, const std::string& deliverable) const {
  const auto at = m_seen->pictures.find(m_queue.picturePath(id, deliverable));
  return at == m_seen->pictures.end() ? QImage() : at->second;
}

void QueueService::setWatched(bool watched) {
  if (std::exchange(m_watched, watched) != watched && watched && !m_queue.folder().empty()) m_next.start(0);
}

void QueueService::look() {
  if (m_worker.busy()) return m_next.start(kLookOften);
  m_worker.add(
      [this, queue = m_queue, before = m_seen](const Task& task) {
        auto seen = std::make_shared<Seen>();
        seen->jobs = queue.list();
        bool waits = false;
        for (const QueuedJob& job : seen->jobs) {
          const auto state = job.record.state;
          const bool wants = state == JobRecord::State::Waiting || state == JobRecord::State::Running;
          waits = waits || (!job.fault && wants && !job.attended);
          seen->key += job.id + (job.attended ? "!" : "?") + job.version;
          if (job.progress) seen->key += toText(*job.progress);
          if (!job.attended) continue;
          for (const JobResult& result : job.record.results) {
            const std::string path = queue.picturePath(job.id, result.deliverable);
            const std::string identity = identityOf(path);
            if (identity.empty()) continue;
            const auto old = before->identities.find(path);
            const bool same = old != before->identities.end() && old->second == identity;
            seen->identities[path] = identity;
            seen->pictures[path] = same ? before->pictures.at(path) : QImage(QString::fromStdString(path));
            seen->key += identity;
          }
        }
        const bool soon = before->started.elapsed() < kStartEvery && before->started.isValid();
        seen->started = before->started;
        if (waits && !soon) seen->started.start();
        if (waits && !soon)
          if (const Status begun = startRunner(queue); !begun) seen->trouble = begun.error();
        task.tell([this, seen] { take(seen); });
      },
      [this](const Error& error) {
        emit failed(error);
        m_next.start(kLookUnwatched);
      });
}

void QueueService::take(const std::shared_ptr<Seen>& seen) {
  const bool same = seen->key == m_seen->key;
  m_seen = seen;
  m_jobs = std::move(m_seen->jobs);
  std::set<std::string> running;
  for (const QueuedJob& each : m_jobs)
    if (!each.fault && !each.record.over()) running.insert(each.id);
  if (!same) emit changed();
  for (const std::string& id : m_running)
    if (!running.contains(id) && job(id)) emit ended(QString::fromStdString(id));
  const bool often = !running.empty();
  m_running = std::move(running);
  const std::string trouble = m_seen->trouble ? sentence(*m_seen->trouble) : std::string();
  if (trouble != m_trouble && m_seen->trouble) emit failed(*m_seen->trouble);
  m_trouble = trouble;
  m_next.start(often && m_watched ? kLookOften : often || m_watched ? kLookSeldom : kLookUnwatched);
}

void QueueService::run(std::function<Status(const Queue&)> work) {
  m_worker.add(
      [this, queue = m_queue, work = std::move(work)](const Task& task) {
        const Status done = work(queue);
        task.tell([this, done] {
          if (!done) emit failed(done.error());
          m_next.start(0);
        });
      },
      [this](const Error& error) { emit failed(error); });
}

void QueueService::ask(Status (Queue::*what)(const std::string&) const, const std::string& id) {
  run([what, id](const Queue& queue) { return (queue.*what)(id); });
}

void QueueService::take(const std::string& id, const std::string& deliverable) {
  run([id, deliverable](const Queue& queue) { return queue.take(id, deliverable); });
}

void QueueService::move(const std::string& id, size_t place) {
  run([id, place](const Queue& queue) { return queue.move(id, place); });
}

void QueueService::add(const Job& job, const Project& project) {
  m_worker.add(
      [this, queue = m_queue, job, project](const Task& task) {
        const auto id = queue.add(job, project);
        const Status begun = id ? startRunner(queue) : Status();
        task.tell([this, id, begun] {
          if (!id) return emit failed(id.error());
          if (!begun) emit failed(begun.error());
          emit added(QString::fromStdString(*id));
          m_next.start(0);
        });
      },
      [this](const Error& error) { emit failed(error); });
}

} // namespace tromb
