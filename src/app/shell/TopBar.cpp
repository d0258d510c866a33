// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/shell/TopBar.h"

#include "app/style/ElidedLabel.h"
#include "app/style/Icons.h"
#include "app/style/Theme.h"

#include <QEvent>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QLabel>
#include <QProgressBar>
#include <QPushButton>
#include <QToolButton>
#include <algorithm>

namespace tromb {

TopBar::TopBar(Document& document, const PreflightService& preflight, FootageImport& import, MeasureService& measuring,
               FramingService& framing, const Actions& actions, QWidget* parent)
    : QWidget(parent), m_document(document), m_preflight(preflight), m_import(import), m_measuring(measuring),
      m_framing(framing), m_name(new ElidedLabel(this)), m_saved(new ElidedLabel(this)), m_state(new QToolButton(this)),
      m_busy(new QProgressBar(this)), m_busyWords(new ElidedLabel(this)), m_stop(new QToolButton(this)) {
  setProperty("bar", true);
  setAttribute(Qt::WA_StyledBackground);
  m_name->setProperty("rank", "title");
  for (QLabel* faint : {m_saved, m_busyWords}) faint->setProperty("rank", "faint");
  // What is left to mend leads to the list of it.
  m_state->setAutoRaise(true);
  m_state->setFocusPolicy(Qt::TabFocus);
  connect(m_state, &QToolButton::clicked, actions.at("show-preflight"), &QAction::trigger);
  m_busy->setFixedWidth(140);
  m_busy->setTextVisible(false);
  m_busy->setVisible(false);
  m_busy->setAccessibleName(tr("Looking at footage"));
  m_stop->setIcon(icon(QStringLiteral("x")));
  m_stop->setAccessibleName(tr("Stop looking at files"));
  m_stop->setToolTip(tr("Stop; nothing of it is brought in"));
  m_stop->setAutoRaise(true);
  m_stop->setFocusPolicy(Qt::TabFocus);
  m_stop->setVisible(false);
  connect(m_stop, &QToolButton::clicked, this, [this] {
    m_import.stopBringingIn();
    m_stop->setVisible(false);
    refreshBusy();
  });
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(12, 6, 10, 8);
  row->setSpacing(10);
  row->addWidget(m_name);
  row->addWidget(m_saved);
  row->addSpacing(10);
  for (const char* id : {"view-footage", "view-sheet", "view-bench", "view-spec", "view-dispatch"}) {
    QToolButton* button = actions.button(id, Qt::ToolButtonTextOnly, this);
    row->addWidget(button);
    if (!focusProxy()) setFocusProxy(button);
  }
  row->addStretch(1);
  for (QWidget* each : std::initializer_list<QWidget*>{m_busyWords, m_busy, m_stop, m_state}) row->addWidget(each);
  for (const char* id : {"bring-in", "add-deliverable"}) {
    QPushButton* button = pushButton(actions, id, false);
    row->addWidget(button);
    button->setMinimumWidth(button->sizeHint().width());
    m_brief.push_back(button);
  }
  row->addWidget(pushButton(actions, "export", true));

  connect(&preflight, &PreflightService::changed, this, &TopBar::refresh);
  connect(&measuring, &MeasureService::progress, this, &TopBar::refreshBusy);
  connect(&framing, &FramingService::progress, this, &TopBar::refreshBusy);
  connect(&import, &FootageImport::progress, this, [this](int done, int every, const QString& file) {
    m_busy->setRange(0, every);
    m_busy->setValue(done);
    m_busyWords->setText(tr("looking at %1 of %2").arg(std::min(done + 1, every)).arg(every));
    m_busy->setToolTip(QFileInfo(file).fileName());
    m_stop->setVisible(m_import.bringing());
    refreshBusy();
  });
  connect(&import, &FootageImport::finished, this, [this] {
    m_stop->setVisible(false);
    refreshBusy();
  });
  refresh();
}

QPushButton* TopBar::pushButton(const Actions& actions, const char* id, bool main) {
  QAction* action = actions.at(id);
  auto* button = new QPushButton(action->iconText(), this);
  button->setIcon(icon(QString::fromLatin1(Actions::rowOf(action).icon), main ? Ink::OnAccent : Ink::Text));
  button->setProperty("main", main);
  button->setProperty("words", action->iconText());
  button->setAccessibleName(Actions::plainText(action));
  button->setToolTip(action->toolTip());
  button->setEnabled(action->isEnabled());
  connect(button, &QPushButton::clicked, action, &QAction::trigger);
  connect(action, &QAction::enabledChanged, button, &QWidget::setEnabled);
  return button;
}

/// The width of a button that shows its icon alone.
int TopBar::briefWidth(const QPushButton& button) const {
  return button.iconSize().width() + 2 * fontMetrics().averageCharWidth() + 8;
}

QSize TopBar::minimumSizeHint() const {
  QSize least = layout()->totalMinimumSize();
  for (const QPushButton* each : m_brief) least.rwidth() -= each->minimumWidth() - briefWidth(*each);
  return least;
}

bool TopBar::event(QEvent* event) {
  const bool handled = QWidget::event(event);
  if (event->type() == QEvent::Resize) {
    m_worded.clear();
    for (QPushButton* each : m_brief) {
      each->setText(each->property("words").toString());
      m_worded.push_back(each->sizeHint().width());
    }
  }
  // Its other words become longer, too, while it stays as wide as it is.
  if (event->type() == QEvent::Resize || event->type() == QEvent::LayoutRequest) fit();
  return handled;
}

/// Shows icons alone where there is no room for words.
void TopBar::fit() {
  if (m_worded.size() != m_brief.size()) return; // not shown yet
  int whole = minimumSizeHint().width();
  for (size_t i = 0; i < m_brief.size(); ++i) whole += m_worded[i] - briefWidth(*m_brief[i]);
  const bool brief = whole > width();
  for (size_t i = 0; i < m_brief.size(); ++i) {
    QPushButton* each = m_brief[i];
    const int least = brief ? briefWidth(*each) : m_worded[i];
    if (each->text().isEmpty() != brief) each->setText(brief ? QString() : each->property("words").toString());
    if (each->minimumWidth() != least) each->setMinimumWidth(least);
  }
}

void TopBar::refreshBusy() {
  const bool looking = m_import.busy();
  const int measuring = m_measuring.left();
  m_busy->setVisible(looking);
  const int framing = m_framing.left();
  m_busyWords->setVisible(looking || measuring > 0 || framing > 0);
  if (!looking && measuring == 0 && framing > 0)
    m_busyWords->setText(tr("looking for what matters in %n shots", nullptr, framing));
  if (!looking && measuring > 0) m_busyWords->setText(tr("measuring %n sources", nullptr, measuring));
}

void TopBar::refresh() {
  m_name->setText(m_document.title());
  m_saved->setText(m_document.modified() ? tr("not saved yet") : m_document.path().isEmpty() ? QString() : tr("saved"));
  const Project& project = m_document.project();
  const auto& [errors, warnings, notes] = m_preflight.all();
  const bool exportable = !project.shots.empty() && !project.deliverables.empty();
  QString words;
  QStringList amiss;
  if (errors > 0) amiss << tr("%n to mend", nullptr, errors);
  if (warnings > 0) amiss << tr("%n to look at", nullptr, warnings);
  if (exportable)
    words = amiss.isEmpty() ? tr("nothing falls short") : amiss.join(QStringLiteral(" · "));
  else if (!project.shots.empty())
    words = tr("now add a deliverable");
  else if (!project.deliverables.empty())
    words = project.sources.empty() ? tr("now bring in footage") : tr("now add a shot");
  m_state->setText(words);
  m_state->setVisible(!words.isEmpty());
  m_state->setAccessibleName(tr("%1: show the preflight").arg(words));
  m_state->setToolTip(tr("Everything that falls short (Ctrl+Shift+F)"));
  colourWords(m_state, !exportable    ? Theme::current().faint
                       : errors > 0   ? statusColour(Cell::State::Bars)
                       : warnings > 0 ? statusColour(Cell::State::Soft)
                                      : statusColour(Cell::State::Good));
  refreshBusy();
}

} // namespace tromb
