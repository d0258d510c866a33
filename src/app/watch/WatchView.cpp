// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/watch/WatchView.h"

#include "app/style/FlowLayout.h"
#include "app/style/Settings.h"
#include "app/style/Theme.h"

#include <QCheckBox>
#include <QComboBox>
#include <QGuiApplication>
#include <QKeyEvent>
#include <QLabel>
#include <QScreen>
#include <QToolButton>
#include <QVBoxLayout>
#include <algorithm>

namespace tromb {
namespace {

WatchLayout leftLayout() {
  const QStringList left = Settings::left(QStringLiteral("watched")).toStringList();
  if (left.isEmpty()) return {};
  return {left.contains(QLatin1String("all")), left.contains(QLatin1String("true-sizes")),
          left.contains(QLatin1String("source"))};
}

void keepLayout(const WatchLayout& layout) {
  QStringList left{QStringLiteral("kept")};
  if (layout.all) left << QStringLiteral("all");
  if (layout.trueSizes) left << QStringLiteral("true-sizes");
  if (layout.source) left << QStringLiteral("source");
  Settings::setLeft(QStringLiteral("watched"), left);
}

} // namespace

WatchView::WatchView(Session& session, Watch& watch, Actions& actions, QWidget* parent)
    : QWidget(parent), m_session(session), m_document(session.document()), m_watch(watch), m_actions(actions),
      m_stage(new WatchStage(session, watch, actions, this)), m_levels(new LevelBars(watch, this)) {
  setObjectName(QStringLiteral("watchView"));
  setFocusProxy(m_stage);
  bindActions();
  auto* pictures = new QHBoxLayout;
  pictures->setSpacing(0);
  pictures->addWidget(m_stage, 1);
  pictures->addWidget(m_levels);
  auto* rows = new QVBoxLayout(this);
  rows->setContentsMargins(0, 0, 0, 0);
  rows->setSpacing(0);
  rows->addLayout(pictures, 1);
  m_bar = buildBar();
  rows->addWidget(m_bar);
  m_stage->setWatched(leftLayout());
  for (const auto signal : {&Watch::stateChanged, &Watch::pictured}) connect(&watch, signal, this, &WatchView::refresh);
  connect(&session, &Session::playheadMoved, this, &WatchView::refresh);
  connect(&session, &Session::selectionChanged, this, &WatchView::fillParts);
  connect(&m_document, &Document::regionsChanged, this, &WatchView::fillParts);
  connect(&m_document, &Document::reset, this, &WatchView::fillParts);
  connect(&watch, &Watch::stateChanged, this, &WatchView::fillParts);
  fillParts();
  refresh();
}

void WatchView::bindActions() {
  const auto shots = [this] {
    return !m_document.project().shots.empty() && !m_document.project().deliverables.empty();
  };
  m_actions.bind(
      "play-on", [this] { m_watch.playFaster(false); }, shots);
  m_actions.bind(
      "play-back", [this] { m_watch.playFaster(true); }, shots);
  m_actions.bind(
      "cut-before", [this] { m_watch.toCut(true); }, shots);
  m_actions.bind(
      "cut-after", [this] { m_watch.toCut(false); }, shots);
  m_actions.bind(
      "one-frame-back", [this] { m_watch.step(-1); }, shots);
  m_actions.bind(
      "one-frame-on", [this] { m_watch.step(1); }, shots);
  m_actions.bind(
      "round",
      [this] {
        using Kind = Watch::Part::Kind;
        m_watch.setPart({m_watch.part().kind != Kind::All ? Kind::All
                         : m_session.shots().empty()      ? Kind::Shot
                                                          : Kind::Selected});
      },
      shots);
  m_actions.bind(
      "second-screen",
      [this] {
        auto* beside = new WatchWindow(m_session, m_watch, m_actions, m_stage->watched(), window());
        beside->show();
      },
      shots);
}

QWidget* WatchView::buildBar() {
  auto* bar = new QWidget(this);
  bar->setProperty("bar", true);
  bar->setAttribute(Qt::WA_StyledBackground);
  auto* line = new FlowLayout(bar);
  line->setContentsMargins(10, 4, 10, 4);
  for (const char* id : {"cut-before", "play-back", "one-frame-back", "play", "one-frame-on", "play-on", "cut-after"}) {
    QToolButton* button = m_actions.button(id, Qt::ToolButtonIconOnly, bar);
    button->setFocusPolicy(Qt::TabFocus);
    line->addWidget(button);
  }
  m_position = new TimecodeField(tr("Position in the running order"), bar);
  line->addWidget(m_position);
  m_speed = new QLabel(bar);
  m_speed->setProperty("rank", "head");
  m_speed->setMinimumWidth(m_speed->fontMetrics().horizontalAdvance(QStringLiteral("−8 ×  ")));
  line->addWidget(m_speed);
  m_parts = new QComboBox(bar);
  m_parts->setAccessibleName(tr("What is played"));
  m_parts->setToolTip(tr("From the playhead to the end, or a part of it round and round"));
  line->addWidget(m_parts);
  m_shown = new QComboBox(bar);
  m_shown->setAccessibleName(tr("What is shown"));
  m_shown->addItem(tr("All side by side"));
  m_shown->addItem(tr("One, large"));
  line->addWidget(m_shown);
  m_trueSizes = new QCheckBox(tr("true sizes"), bar);
  m_trueSizes->setToolTip(tr("At their true relative sizes, else all at one height"));
  line->addWidget(m_trueSizes);
  m_source = new QCheckBox(tr("with the source"), bar);
  m_source->setToolTip(tr("The picture of the source beside them, whole"));
  line->addWidget(m_source);
  m_file = new QCheckBox(tr("with the finished file"), bar);
  m_file->setToolTip(tr("The file beside what it was made from, in step; its sound is heard"));
  m_file->setVisible(false);
  line->addWidget(m_file);
  for (const char* id : {"full-screen", "second-screen"}) {
    QToolButton* button = m_actions.button(id, Qt::ToolButtonIconOnly, bar);
    button->setFocusPolicy(Qt::TabFocus);
    line->addWidget(button);
  }
  m_pace = new QLabel(bar);
  m_pace->setProperty("rank", "faint");
  line->addWidget(m_pace);
  const WatchLayout layout = leftLayout();
  m_shown->setCurrentIndex(layout.all ? 0 : 1);
  m_trueSizes->setChecked(layout.trueSizes);
  m_source->setChecked(layout.source);
  const auto changed = [this] {
    const WatchLayout wanted{m_shown->currentIndex() == 0, m_trueSizes->isChecked(), m_source->isChecked()};
    m_stage->setWatched(wanted);
    keepLayout(wanted);
  };
  connect(m_shown, &QComboBox::activated, this, changed);
  connect(m_trueSizes, &QCheckBox::toggled, this, changed);
  connect(m_source, &QCheckBox::toggled, this, changed);
  connect(m_file, &QCheckBox::clicked, this, [this] { m_watch.leaveFile(); });
  connect(&m_watch, &Watch::fileChanged, this, [this] {
    m_file->setVisible(m_watch.file().has_value());
    m_file->setChecked(m_watch.file().has_value());
  });
  connect(m_parts, &QComboBox::activated, this, &WatchView::takePart);
  connect(m_position, &TimecodeField::timeTyped, this, [this] { m_session.setPlayhead(m_position->time()); });
  return bar;
}

void WatchView::fillParts() {
  using Kind = Watch::Part::Kind;
  const QSignalBlocker quiet(m_parts);
  QStringList words{tr("To the end"), tr("This shot, round and round"), tr("What is selected, round and round")};
  for (const Region& region : m_document.project().regions)
    words << tr("%1, round and round").arg(QString::fromStdString(region.name));
  QStringList now;
  for (int i = 0; i < m_parts->count(); ++i) now << m_parts->itemText(i);
  if (now != words) {
    m_parts->clear();
    m_parts->addItems(words);
  }
  const Watch::Part& part = m_watch.part();
  int at = int(part.kind);
  if (part.kind == Kind::Region) {
    const auto& regions = m_document.project().regions;
    const auto found =
        std::find_if(regions.begin(), regions.end(), [&](const Region& r) { return r.id == part.region; });
    at = found == regions.end() ? 0 : at + int(found - regions.begin());
  }
  m_parts->setCurrentIndex(at);
}

void WatchView::takePart() {
  using Kind = Watch::Part::Kind;
  const int at = m_parts->currentIndex();
  const int region = at - int(Kind::Region);
  if (region < 0)
    m_watch.setPart({Kind(at)});
  else
    m_watch.setPart({Kind::Region, m_document.project().regions[size_t(region)].id});
}

void WatchView::refresh() {
  if (!isVisible()) return;
  m_position->setRate(m_session.rate());
  m_position->setTime(m_session.playhead());
  const int speed = m_watch.speed();
  m_speed->setText(speed == 0  ? QString()
                   : speed < 0 ? QStringLiteral("−%1 ×").arg(-speed)
                               : QStringLiteral("%1 ×").arg(speed));
  const Watch::Pace& pace = m_watch.pace();
  QStringList said;
  if (pace.divisor > 1) said << tr("drawn at 1/%1 of its size").arg(pace.divisor);
  constexpr int64_t kNoticed = 50; // one picture in so many
  if (pace.leftOut * kNoticed > pace.shown) said << tr("%n pictures left out", nullptr, int(pace.leftOut));
  const QString words = said.isEmpty() ? QString() : QStringLiteral("▲ ") + said.join(QStringLiteral(", "));
  if (m_pace->text() != words) m_pace->setText(words);
  m_pace->setToolTip(words.isEmpty() ? QString()
                                     : tr("This machine does not keep up with what is watched. A lighter copy of the "
                                          "footage, or one shape alone, helps"));
}

void WatchView::setFullScreen(bool full) {
  m_bar->setVisible(!full);
  m_levels->setVisible(!full);
  m_stage->setBare(full);
}

void WatchView::keyPressEvent(QKeyEvent* event) {
  if (event->key() == Qt::Key_Escape) {
    emit left();
    return;
  }
  QWidget::keyPressEvent(event);
}

WatchWindow::WatchWindow(Session& session, Watch& watch, Actions& actions, const WatchLayout& layout, QWidget* beside)
    : QWidget(beside, Qt::Window), m_actions(actions) {
  setAttribute(Qt::WA_DeleteOnClose);
  setWindowTitle(tr("Watching"));
  auto* stage = new WatchStage(session, watch, actions, this);
  stage->setWatched(layout);
  auto* rows = new QVBoxLayout(this);
  rows->setContentsMargins(0, 0, 0, 0);
  rows->addWidget(stage);
  setFocusProxy(stage);
  resize(960, 540);
  const QList<QScreen*> screens = QGuiApplication::screens();
  for (QScreen* screen : screens)
    if (screen != beside->screen()) {
      stage->setBare(true);
      setGeometry(screen->geometry());
      setWindowState(Qt::WindowFullScreen);
      break;
    }
}

void WatchWindow::keyPressEvent(QKeyEvent* event) {
  const char* action = event->key() == Qt::Key_Space ? "play"
                       : event->key() == Qt::Key_L   ? "play-on"
                       : event->key() == Qt::Key_J   ? "play-back"
                                                     : nullptr;
  if (action)
    m_actions.at(action)->trigger();
  else if (event->key() == Qt::Key_Escape)
    close();
  else
    QWidget::keyPressEvent(event);
}

} // namespace tromb
