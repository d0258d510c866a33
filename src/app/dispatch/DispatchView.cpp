// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/dispatch/DispatchView.h"

#include "app/dispatch/HandOverDialog.h"

#include "app/style/DesktopFiles.h"
#include "app/style/FlowLayout.h"
#include "app/style/Settings.h"
#include "app/style/Theme.h"
#include "app/style/WrappedLabel.h"
#include "model/Translation.h"

#include <QFileInfo>
#include <QMenu>
#include <QPushButton>
#include <QScrollArea>
#include <QSplitter>
#include <QStackedWidget>
#include <QToolButton>
#include <QVBoxLayout>
#include <algorithm>

namespace tromb {

DispatchView::DispatchView(Document& document, QueueService& queue, Actions& actions, QWidget* parent)
    : QWidget(parent), m_document(document), m_queue(queue), m_actions(actions), m_list(new QueueList(queue, this)),
      m_form(new SendForm(document, this)), m_panel(new JobPanel(queue, this)), m_right(new QStackedWidget(this)),
      m_buttons(new QWidget(this)), m_message(wrappedLabel(this)), m_pages(new QStackedWidget(this)),
      m_compare(new CompareView(queue, this)) {
  setObjectName(QStringLiteral("dispatch"));
  setFocusProxy(m_list);
  auto* all = new QVBoxLayout(this);
  all->setContentsMargins(12, 8, 12, 10);
  all->setSpacing(8);
  auto* split = new QSplitter(m_pages);
  split->setChildrenCollapsible(false);
  split->addWidget(m_list);
  auto* right = new QWidget(split);
  auto* rows = new QVBoxLayout(right);
  rows->setContentsMargins(14, 0, 0, 0);
  rows->setSpacing(10);
  m_right->addWidget(m_form);
  m_right->addWidget(m_panel);
  rows->addWidget(m_right, 1);
  auto* line = new FlowLayout(m_buttons, 6);
  line->setContentsMargins(0, 0, 0, 0);
  const auto add = [&](const char* id) {
    QToolButton* button = actions.button(id, Qt::ToolButtonTextBesideIcon, m_buttons);
    line->addWidget(button);
    return button;
  };
  m_ofFile.push_back(add("job-open"));
  (void)add("job-show");
  for (const char* id : {"job-watch", "job-compare", "job-hand-over", "job-page"}) m_ofFile.push_back(add(id));
  for (const char* id : {"job-pause", "job-cancel"}) m_untilOver.push_back(add(id));
  for (const char* id : {"job-again", "job-take"}) m_onceAmiss.push_back(add(id));
  (void)add("job-remove");
  rows->addWidget(m_buttons);
  split->addWidget(right);
  split->setStretchFactor(0, 5);
  split->setStretchFactor(1, 6);
  split->setSizes({500, 640});
  m_pages->addWidget(split);
  m_pages->addWidget(m_compare);
  all->addWidget(m_pages, 1);
  m_message->setVisible(false);
  all->addWidget(m_message);

  connect(m_list, &QueueList::currentPlaceChanged, this, &DispatchView::showCurrent);
  connect(m_list, &QueueList::chosen, m_form, &SendForm::choose);
  connect(m_list, &QueueList::moved, this, [this](const std::string& id, size_t place) { m_queue.move(id, place); });
  connect(m_list, &QTreeWidget::itemActivated, this, [this] {
    if (m_list->current().kind == QueueList::Place::Kind::File) m_actions.at("job-open")->trigger();
  });
  m_list->setContextMenuPolicy(Qt::CustomContextMenu);
  connect(m_list, &QWidget::customContextMenuRequested, this, [this](const QPoint& at) {
    if (job()) m_actions.contextMenu(Where::OnDispatch, this)->popup(m_list->viewport()->mapToGlobal(at));
  });
  connect(m_compare, &CompareView::left, this, &DispatchView::endComparing);
  connect(m_form, &SendForm::changed, this, [this] { m_list->showCandidates(m_form->candidates()); });
  connect(m_form, &SendForm::wanted, this, [this](const Job& wanted, const Project& project) {
    say(tr("%n files are put into the queue …", nullptr, int(wanted.deliverables.size())), false);
    m_queue.add(wanted, project);
  });
  connect(&queue, &QueueService::added, this, [this](const QString& id) {
    say({}, false);
    m_added = id.toStdString();
  });
  connect(&queue, &QueueService::changed, this, [this] {
    if (m_added.empty() || !m_queue.job(m_added)) return;
    const bool held = !window()->focusWidget() || isAncestorOf(window()->focusWidget());
    m_list->setCurrent({QueueList::Place::Kind::Job, std::exchange(m_added, {}), {}});
    if (isVisible() && held) m_list->setFocus(Qt::OtherFocusReason);
  });
  connect(&queue, &QueueService::ended, this, &DispatchView::ended);
  connect(&queue, &QueueService::failed, this, [this](const Error& error) { say(said(error), true); });
  bindActions();
  showCurrent();
}

void DispatchView::bindActions() {
  using State = JobRecord::State;
  m_actions.belongTo(Where::OnDispatch, this, [this] { return isVisible() && m_pages->currentIndex() == 0; });
  m_actions.bind(
      "job-pause",
      [this] {
        const QueuedJob* its = job();
        if (!its) return;
        if (its->record.state == State::Paused)
          m_queue.resume(its->id);
        else
          m_queue.pause(its->id);
      },
      [this] { return job() && !job()->fault && !job()->record.over(); });
  m_actions.bind(
      "job-cancel",
      [this] {
        if (job()) m_queue.cancel(job()->id);
      },
      [this] { return job() && !job()->fault && !job()->record.over(); });
  m_actions.bind(
      "job-again",
      [this] {
        if (job()) m_queue.retry(job()->id);
      },
      [this] { return job() && !job()->fault && job()->record.over(); });
  m_actions.bind(
      "job-take",
      [this] {
        if (file()) m_queue.take(job()->id, file()->deliverable);
      },
      [this] { return file() && file()->state == JobResult::State::Short && job()->record.over(); });
  m_actions.bind(
      "job-anew",
      [this] {
        if (!job()) return;
        m_form->takeFrom(job()->job);
        toSending();
      },
      [this] { return job() && !job()->fault && job()->job.projectPath == m_document.path().toStdString(); });
  m_actions.bind(
      "job-remove",
      [this] {
        if (job()) m_queue.remove(job()->id);
      },
      [this] { return job() && (job()->fault || job()->record.over() || !job()->attended); });
  const auto put = [this](const char* id, int steps) {
    m_actions.bind(
        id,
        [this, steps] {
          if (!job()) return;
          if (const auto place = m_list->placeBeside(job()->id, steps)) m_queue.move(job()->id, *place);
        },
        [this, steps] { return job() && m_list->placeBeside(job()->id, steps); });
  };
  put("job-earlier", -1);
  put("job-later", 1);
  m_actions.bind(
      "job-open",
      [this] {
        if (file()) openPath(QString::fromStdString(file()->path));
      },
      [this] { return file(); });
  m_actions.bind(
      "job-show",
      [this] {
        if (file())
          showInFolder(QString::fromStdString(file()->path));
        else if (job())
          openPath(QString::fromStdString(job()->job.folder));
      },
      [this] { return file() || (job() && !job()->fault); });
  m_actions.bind(
      "job-page",
      [this] {
        if (file()) openPath(page());
      },
      [this] { return file() && QFileInfo::exists(page()); });
  m_actions.bind(
      "job-hand-over", [this] { handOver(); },
      [this] { return file() && QFileInfo::exists(QString::fromStdString(file()->path)); });
  m_actions.bind(
      "job-compare", [this] { compare(); }, [this] { return file() && file()->frames > 0; });
  m_actions.bind(
      "job-watch", [this] { watch(m_panel->at()); },
      [this] {
        const Deliverable* its = file() ? m_document.project().deliverable(file()->deliverable) : nullptr;
        return its && its->encoding.hasPicture() && !its->encoding.info().loop &&
               job()->job.projectPath == m_document.path().toStdString();
      });
}

/// Holds the chosen file against what it was made from.
void DispatchView::compare() {
  const ComparedSide chosen{file()->path, {}, {}};
  const ComparedSide composed{{}, job()->id, file()->deliverable};
  const double at = m_panel->at(); // before it is hidden
  compare(chosen, composed, at);
}

void DispatchView::compare(const ComparedSide& first, const ComparedSide& second, std::optional<double> at) {
  m_pages->setCurrentWidget(m_compare);
  m_compare->compare(first, second, at);
  m_compare->setFocus(Qt::OtherFocusReason);
  m_actions.refreshSoon();
}

void DispatchView::handOver() {
  const std::string path = file()->path;
  QStringList others;
  for (const auto& [of, result] : m_queue.finished())
    if (of->job.project == job()->job.project && result->frames > 0) others << QString::fromStdString(result->path);
  others.removeDuplicates();
  HandOverDialog dialog(m_handOver, QString::fromStdString(path), others, job()->job.projectPath, this);
  QString rendition;
  connect(&dialog, &HandOverDialog::handed, m_panel, &JobPanel::lookAnew);
  connect(&dialog, &HandOverDialog::compareWanted, this, [&rendition](const QString& what) { rendition = what; });
  dialog.exec();
  if (!rendition.isEmpty()) compare({path, {}, {}}, {rendition.toStdString(), {}, {}}, {});
}

void DispatchView::endComparing() {
  m_compare->leave();
  m_pages->setCurrentIndex(0);
  m_list->setFocus(Qt::OtherFocusReason);
  m_actions.refreshSoon();
}

const QueuedJob* DispatchView::job() const {
  return m_queue.job(m_list->current().job);
}

const JobResult* DispatchView::file() const {
  const QueueList::Place place = m_list->current();
  const QueuedJob* its = m_queue.job(place.job);
  if (!its || place.kind != QueueList::Place::Kind::File) return nullptr;
  for (const JobResult& each : its->record.results)
    if (each.deliverable == place.deliverable && each.made()) return &each;
  return nullptr;
}

QString DispatchView::page() const {
  return QString::fromStdString(m_queue.pagePath(job()->id, file()->deliverable));
}

void DispatchView::showCurrent() {
  const QueueList::Place place = m_list->current();
  const QueuedJob* its = job();
  if (its) m_panel->showPlace(place);
  m_right->setCurrentWidget(its ? static_cast<QWidget*>(m_panel) : m_form);
  m_buttons->setVisible(its);
  const bool over = its && its->record.over();
  for (QWidget* button : m_untilOver) button->setVisible(!over);
  for (QWidget* button : m_ofFile) button->setVisible(file());
  const auto amiss = [](const JobResult& each) { return each.state != JobResult::State::Done; };
  const bool wrong = over && std::any_of(its->record.results.begin(), its->record.results.end(), amiss);
  for (QWidget* button : m_onceAmiss) button->setVisible(wrong);
  if (!its) m_form->showFindings(place.kind == QueueList::Place::Kind::Candidate ? place.deliverable : std::string());
  const bool paused = its && its->record.state == JobRecord::State::Paused;
  m_actions.setText("job-pause", paused ? tr("Let it &go on") : tr("&Pause"));
  m_actions.refreshSoon();
}

/// Watches the chosen file beside its deliverable, if that is the open project's.
void DispatchView::watch(double at) {
  if (!m_actions.at("job-watch")->isEnabled() || !file()) return;
  const Region* part = m_document.project().regionNamed(job()->job.region);
  emit watchWanted(QString::fromStdString(file()->path), file()->deliverable, part ? part->in : Rational(0), at);
}

void DispatchView::toSending() {
  if (m_pages->currentIndex() != 0) endComparing();
  m_list->setCurrent({QueueList::Place::Kind::Sending, {}, {}});
  m_form->sendButton().setFocus(Qt::ShortcutFocusReason);
}

void DispatchView::say(const QString& text, bool amiss) {
  m_message->setText(text);
  m_message->setVisible(!text.isEmpty());
  colourWords(m_message, amiss ? Theme::current().broken : Theme::current().faint);
}

/// Does what was wished for afterwards, where that needs a window. Notices are shown by whoever does the jobs.
void DispatchView::ended(const QString& id) {
  const QueuedJob* its = m_queue.job(id.toStdString());
  if (!its || its->record.state == JobRecord::State::Cancelled) return;
  const auto first = std::find_if(its->record.results.begin(), its->record.results.end(),
                                  [](const JobResult& each) { return each.made(); });
  if (first == its->record.results.end()) return;
  const QString path = QString::fromStdString(first->path);
  if (its->job.afterwards == Afterwards::OpenFile) openPath(path);
  if (its->job.afterwards == Afterwards::OpenFolder) showInFolder(path);
}

/// Opens a file or folder with what the desktop has for it, or says where it is.
void DispatchView::openPath(const QString& path) {
  if (!openWithDesktop(path)) say(tr("No program of this desktop opens it. It is %1").arg(path), true);
}

void DispatchView::showEvent(QShowEvent* event) {
  QWidget::showEvent(event);
  m_queue.setWatched(true);
}

void DispatchView::hideEvent(QHideEvent* event) {
  QWidget::hideEvent(event);
  m_queue.setWatched(false);
}

} // namespace tromb
