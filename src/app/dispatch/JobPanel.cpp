// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/dispatch/JobPanel.h"

#include "app/style/Folders.h"
#include "app/style/Theme.h"
#include "app/style/WrappedLabel.h"
#include "handover/HandOverLog.h"
#include "model/Translation.h"
#include "time/Timecode.h"

#include <QDateTime>
#include <QHeaderView>
#include <QLabel>
#include <QLocale>
#include <QTreeWidget>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

namespace tromb {
namespace {

QString spanText(double seconds) {
  return QString::fromStdString(clockText(Rational(int64_t(seconds + 0.5))));
}

/// What may end a job that is under way.
QString batteryWords(const QueuedJob& job) {
  if (!job.attended || !job.progress || !job.progress->onBattery) return {};
  return JobPanel::tr("The machine lives on its battery: plug it in, or this may end in the middle");
}

} // namespace

JobPanel::JobPanel(QueueService& queue, QWidget* parent)
    : QWidget(parent), m_queue(queue), m_head(new QLabel(this)), m_verdict(wrappedLabel(this)),
      m_facts(wrappedLabel(this)), m_picture(new QLabel(this)),
      m_service(queue.folder(), cacheFolder("indexes").toStdString()), m_stage(new CompareStage(m_service, this)),
      m_timeline(new FileTimeline(this)), m_checks(new QTreeWidget(this)) {
  auto* rows = new QVBoxLayout(this);
  rows->setContentsMargins(0, 0, 0, 0);
  rows->setSpacing(8);
  m_head->setProperty("rank", "head");
  m_verdict->setObjectName(QStringLiteral("verdict"));
  m_verdict->setProperty("rank", "verdict");
  m_facts->setProperty("rank", "faint");
  m_picture->setAlignment(Qt::AlignCenter);
  m_picture->setMinimumHeight(160);
  m_picture->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Ignored);
  m_picture->setAccessibleName(tr("The picture that is being encoded"));
  m_picture->setStyleSheet(
      QStringLiteral("background: %1; border-radius: 4px; color: #ffffff").arg(Theme::current().surround.name()));
  m_checks->setColumnCount(3);
  m_checks->setHeaderLabels({tr("Proof"), tr("asked for"), tr("found")});
  m_checks->setAccessibleName(tr("What the proof looked at"));
  m_checks->setObjectName(QStringLiteral("checks"));
  m_checks->setRootIsDecorated(false);
  m_checks->setUniformRowHeights(true);
  m_checks->header()->setSectionResizeMode(0, QHeaderView::ResizeToContents);
  m_checks->header()->setSectionResizeMode(1, QHeaderView::Stretch);
  m_checks->header()->setSectionResizeMode(2, QHeaderView::Stretch);
  rows->addWidget(m_head);
  rows->addWidget(m_verdict);
  rows->addWidget(m_facts);
  rows->addWidget(m_picture, 1);
  rows->addWidget(m_stage, 3);
  rows->addWidget(m_timeline);
  rows->addWidget(m_checks, 2);
  m_stage->setNames(tr("This file"), tr("As composed"));
  m_stage->setVisible(false);
  connect(m_timeline, &FileTimeline::wanted, &m_service, &CompareService::showAt);
  connect(&m_service, &CompareService::opened, m_stage, [this] { m_stage->setSaid({}); });
  connect(&m_service, &CompareService::pictured, this, [this] { m_timeline->setAt(at()); });
  connect(&m_service, &CompareService::failed, m_stage, &CompareStage::setSaid);
  rows->addStretch(0);
}

void JobPanel::showPlace(const QueueList::Place& place) {
  m_place = place;
  const QueuedJob* job = m_queue.job(place.job);
  if (!job) return;
  const auto result = std::find_if(job->record.results.begin(), job->record.results.end(),
                                   [&](const JobResult& each) { return each.deliverable == place.deliverable; });
  if (result == job->record.results.end())
    showJob(*job);
  else
    showFile(*job, *result);
  showPicture();
  showPair(result == job->record.results.end() ? nullptr : &*result);
}

void JobPanel::lookAnew() {
  m_checked.clear();
  showPlace(m_place);
}

/// The finished pictures beside those that were composed: where something was found, or they are least alike.
void JobPanel::showPair(const JobResult* result) {
  const bool any = result && result->made() && result->frames > 0;
  m_stage->setVisible(any);
  if (!any || !isVisible()) return m_service.close();
  const ComparedSide file{result->path, {}, {}};
  if (m_service.first() == file) return;
  m_stage->setSaid(tr("The pictures are being opened …"));
  m_service.open(file, {{}, m_place.job, result->deliverable});
  m_service.showAt(m_first);
}

void JobPanel::showEvent(QShowEvent* event) {
  QWidget::showEvent(event);
  showPlace(m_place);
}

void JobPanel::hideEvent(QHideEvent* event) {
  QWidget::hideEvent(event);
  m_service.close();
}

void JobPanel::showFile(const QueuedJob& job, const JobResult& result) {
  m_head->setText(QString::fromStdString(result.name));
  const QString words = resultWords(job, result);
  const bool over = result.made() || result.state == JobResult::State::Failed;
  const char* shape = result.state == JobResult::State::Done    ? "● "
                      : result.state == JobResult::State::Short ? "▲ "
                                                                : "▮ ";
  m_verdict->setText(over ? QString::fromUtf8(shape) + words : words);
  colourWords(m_verdict, over ? statusColour(resultState(result)) : Theme::current().ink);
  QStringList facts;
  if (result.path.empty() && !over) facts << tr("Into %1").arg(QString::fromStdString(job.job.folder));
  if (!result.path.empty()) facts << QString::fromStdString(result.path);
  if (!result.soundPath.empty()) facts << QString::fromStdString(result.soundPath);
  if (result.made()) {
    QStringList line{QString::fromStdString(bytesText(result.bytes)), tr("%n frames", nullptr, int(result.frames)),
                     tr("made in %1").arg(spanText(result.seconds))};
    if (result.copied > 0) line << tr("%n copied", nullptr, int(result.copied));
    if (!result.encoder.empty()) line << tr("by %1").arg(QString::fromStdString(result.encoder));
    facts << line.join(QStringLiteral(" · "));
    if (!result.notCopied.empty()) facts << tr("Its pictures are encoded: %1").arg(said(result.notCopied));
    if (!result.inSoftware.empty())
      facts << tr("In software, since graphics hardware did not work: %1").arg(said(result.inSoftware));
  }
  if (const QString battery = batteryWords(job); !battery.isEmpty() && !over) facts << battery;
  showChecks(&result);
  if (!m_leastLike.isEmpty()) facts << m_leastLike;
  facts << m_handed;
  m_facts->setText(facts.join(QLatin1Char('\n')));
}

void JobPanel::showJob(const QueuedJob& job) {
  QString name = job.fault ? QString::fromStdString(job.id) : QString::fromStdString(job.job.project);
  if (!job.job.region.empty()) name += QStringLiteral(" · ") + QString::fromStdString(job.job.region);
  m_head->setText(name);
  const bool amiss = job.fault || job.record.error;
  m_verdict->setText(job.fault ? said(*job.fault) : job.record.error ? said(*job.record.error) : jobWords(job));
  colourWords(m_verdict, amiss ? Theme::current().broken : Theme::current().ink);
  QStringList facts;
  if (!job.fault) facts << tr("Into %1").arg(QString::fromStdString(job.job.folder));
  if (job.record.tries > 1 && !job.record.over()) facts << tr("Begun %n times", nullptr, job.record.tries);
  if (const QString battery = batteryWords(job); !battery.isEmpty()) facts << battery;
  m_facts->setText(facts.join(QLatin1Char('\n')));
  showChecks(nullptr);
}

void JobPanel::showChecks(const JobResult* result) {
  const bool any = result && result->proof;
  m_checks->setVisible(any);
  m_timeline->setVisible(any && m_timed);
  const QString key = any ? QString::fromStdString(m_place.job + result->deliverable) +
                                QString::number(result->proof->checks.size()) + QString::fromStdString(result->path)
                          : QString();
  if (key == m_checked) return; // it may be looked at just now
  m_checked = key;
  m_checks->clear();
  m_timed = false;
  m_first = 0;
  m_leastLike.clear();
  m_handed.clear();
  const QueuedJob* its = m_queue.job(m_place.job);
  if (any && its && !its->job.projectPath.empty())
    for (const HandOver& each : handOvers(its->job.projectPath))
      if (each.path == result->path)
        m_handed << tr("Handed over to %1 at %2, checked")
                        .arg(QString::fromStdString(each.to),
                             QLocale().toString(QDateTime::fromSecsSinceEpoch(each.at), QLocale::ShortFormat));
  if (any)
    if (const auto curves = m_queue.curves(m_place.job, result->deliverable)) {
      m_timed = curves->seconds > 0;
      m_timeline->setBands(curves->seconds, bandsOf(*curves));
      m_timeline->setMarks(marksOf(*curves), tr("nothing was found amiss"));
      m_timeline->setAt(-1);
      if (const auto least = curves->leastLike(1); !least.empty()) {
        m_first = least.front().at;
        m_leastLike = tr("Least like what was composed at %1, frame %2: SSIM %3")
                          .arg(QString::fromStdString(clockText(Rational(std::llround(m_first * 10), 10))))
                          .arg(least.front().frame)
                          .arg(least.front().ssim, 0, 'f', 3);
      }
      if (!curves->marks.empty()) m_first = curves->marks.front().at;
    }
  m_timeline->setVisible(m_timed);
  if (!any) return;
  std::vector<const ProofCheck*> checks;
  for (const ProofCheck& check : result->proof->checks) checks.push_back(&check);
  const auto rank = [](const ProofCheck* check) { return !check->pass ? 0 : !check->made ? 1 : 2; };
  std::stable_sort(checks.begin(), checks.end(),
                   [&](const ProofCheck* a, const ProofCheck* b) { return rank(a) < rank(b); });
  for (const ProofCheck* check : checks) {
    const QString shape = QString::fromUtf8(!check->pass ? "▲ " : !check->made ? "– " : "● ");
    auto* item =
        new QTreeWidgetItem(m_checks, {shape + said(check->title()), said(check->expected), said(check->found)});
    if (!check->pass) item->setForeground(0, Theme::current().bars);
    for (int column = 0; column < 3; ++column) item->setToolTip(column, item->text(column));
  }
}

void JobPanel::showPicture() {
  const QueuedJob* job = m_queue.job(m_place.job);
  QImage picture;
  if (job && job->attended) {
    picture = m_queue.picture(job->id, m_place.deliverable);
    // Of a job as a whole, the one that is furthest behind.
    double least = 2;
    if (m_place.deliverable.empty() && job->progress)
      for (const JobProgress::Each& each : job->progress->each)
        if (const QImage its = m_queue.picture(job->id, each.deliverable); !its.isNull() && each.fraction < least) {
          least = each.fraction;
          picture = its;
        }
  }
  const bool shown = !m_checks->isVisibleTo(this) && job && job->attended;
  m_picture->setVisible(shown);
  if (!shown) return;
  if (picture.isNull()) {
    m_picture->setText(tr("The pictures show here\nwhile they are encoded"));
    return;
  }
  const double dense = devicePixelRatioF();
  QPixmap pixels = QPixmap::fromImage(picture.scaled((QSizeF(m_picture->size() - QSize(20, 20)) * dense).toSize(),
                                                     Qt::KeepAspectRatio, Qt::SmoothTransformation));
  pixels.setDevicePixelRatio(dense);
  m_picture->setPixmap(pixels);
}

void JobPanel::resizeEvent(QResizeEvent* event) {
  QWidget::resizeEvent(event);
  showPicture();
}

} // namespace tromb
