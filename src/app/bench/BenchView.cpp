// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/bench/BenchView.h"

#include "app/style/ElidedLabel.h"
#include "app/style/FlowLayout.h"
#include "app/style/Theme.h"

#include <QAction>
#include <QButtonGroup>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QMenu>
#include <QToolButton>
#include <QVBoxLayout>
#include <algorithm>
#include <iterator>

namespace tromb {
namespace {

constexpr QSize kMostPicture{1920, 1920};
constexpr int kRightWidth = 400;
constexpr QSize kAllPixels{16384, 16384}; ///< more than any picture has
/// The places at which a subject can be wanted: the middle, and the lines of the rule of thirds.
constexpr std::pair<const char*, std::pair<double, double>> kWanted[] = {
    {QT_TRANSLATE_NOOP("tromb::BenchView", "in the middle"), {0.5, 0.5}},
    {QT_TRANSLATE_NOOP("tromb::BenchView", "in the upper third"), {0.5, 1.0 / 3}},
    {QT_TRANSLATE_NOOP("tromb::BenchView", "in the left third"), {1.0 / 3, 0.5}},
    {QT_TRANSLATE_NOOP("tromb::BenchView", "in the right third"), {2.0 / 3, 0.5}},
    {QT_TRANSLATE_NOOP("tromb::BenchView", "in the lower third"), {0.5, 2.0 / 3}},
};

QToolButton* tool(const QString& text, const QString& name, bool checkable, QWidget* parent) {
  auto* button = new QToolButton(parent);
  button->setText(text);
  button->setToolTip(name);
  button->setCheckable(checkable);
  button->setFocusPolicy(Qt::TabFocus);
  return button;
}

} // namespace

BenchView::BenchView(Session& session, Actions& actions, PosterService& posters, QWidget* parent)
    : QWidget(parent), m_session(session), m_document(session.document()), m_actions(actions), m_bench(session),
      m_canvas(new BenchCanvas(m_bench, this)), m_bars(new BarsPanel(m_bench, this)), m_placing(new QWidget(this)),
      m_results(new BenchResults(m_bench, posters, this)), m_ways(new WaysPanel(m_bench, posters, this)),
      m_layout(new LayoutPanel(m_bench, this)), m_curves(new MoveCurves(m_bench, this)) {
  auto* columns = new QHBoxLayout(this);
  columns->setContentsMargins(0, 0, 0, 0);
  columns->setSpacing(0);
  auto* left = new QVBoxLayout(m_placing);
  left->setContentsMargins(0, 0, 0, 0);
  left->setSpacing(0);
  left->addWidget(m_canvas, 1);
  auto* readout = new QWidget(m_placing);
  readout->setProperty("bar", true);
  readout->setAttribute(Qt::WA_StyledBackground);
  auto* words = new QHBoxLayout(readout);
  words->setContentsMargins(12, 5, 12, 0);
  m_read = new ElidedLabel(readout);
  m_read->setObjectName(QStringLiteral("benchReadout"));
  m_said = new QLabel(readout);
  m_said->setProperty("rank", "faint");
  words->addWidget(m_read, 1);
  words->addWidget(m_said);
  left->addWidget(readout);
  left->addWidget(buildNumbers());
  left->addWidget(m_curves);
  left->addWidget(buildMoveBar());
  columns->addWidget(m_placing, 1);
  columns->addWidget(m_bars, 1);
  m_bars->hide();
  connect(m_bars, &BarsPanel::done, this, [this] { showBars(false); });
  auto* right = new QVBoxLayout;
  right->setSpacing(0);
  right->addWidget(m_results, 1);
  right->addWidget(m_layout);
  right->addWidget(m_ways);
  connect(
      m_ways, &WaysPanel::offered, this, [this](bool any) { m_ways->setVisible(any); }, Qt::QueuedConnection);
  columns->addLayout(right);
  for (QWidget* each : std::initializer_list<QWidget*>{m_results, m_layout, m_ways}) each->setFixedWidth(kRightWidth);

  connect(&session, &Session::selectionChanged, this, &BenchView::showSelected);
  connect(&session, &Session::playheadMoved, this, &BenchView::selectShown);
  connect(&session, &Session::playheadMoved, this, &BenchView::showTime);
  connect(&m_bench, &Bench::changed, this, &BenchView::refresh);
  connect(&m_bench, &Bench::moved, this, &BenchView::feed);
  connect(&m_document, &Document::sourceChanged, this, &BenchView::feed);
  connect(&m_feed, &SourceFeed::pictured, this, &BenchView::showPicture);
  connect(&m_feed, &SourceFeed::failed, this, [this](const QString& reason) {
    m_pictured = true; // as far as it can be
    m_canvas->setPicture({});
    m_track->say(reason);
  });
  m_canvas->setContextMenuPolicy(Qt::CustomContextMenu);
  connect(m_canvas, &QWidget::customContextMenuRequested, this, [this](const QPoint& place) {
    m_actions.refresh();
    m_actions.contextMenu(Where::OnBench, this)->popup(m_canvas->mapToGlobal(place));
  });
  bindActions();
  showTime();
  refresh();
}

QWidget* BenchView::buildNumbers() {
  auto* bar = new QWidget(this);
  bar->setProperty("bar", true);
  bar->setAttribute(Qt::WA_StyledBackground);
  auto* row = new FlowLayout(bar, 4);
  row->setContentsMargins(10, 5, 10, 5);
  m_placeWindow = tool(tr("Window"), tr("Place the active deliverable's window"), true, bar);
  m_placeSubject =
      tool(tr("Subject"), tr("Place what matters in the shot: all windows that follow go with it"), true, bar);
  auto* either = new QButtonGroup(this);
  either->addButton(m_placeWindow);
  either->addButton(m_placeSubject);
  row->addWidget(m_placeWindow);
  row->addWidget(m_placeSubject);
  connect(m_placeWindow, &QToolButton::clicked, this, [this] { m_bench.setPlacesSubject(false); });
  connect(m_placeSubject, &QToolButton::clicked, this, [this] { m_bench.setPlacesSubject(true); });
  m_wanted = new QComboBox(bar);
  m_wanted->setAccessibleName(tr("Where the subject is wanted"));
  m_wanted->setToolTip(tr("Where in every canvas the subject is wanted, as far as the picture's edge allows"));
  for (const auto& [words, at] : kWanted) m_wanted->addItem(tr(words));
  connect(m_wanted, &QComboBox::activated, this, [this](int index) {
    m_bench.placing().setWanted(kWanted[index].second.first, kWanted[index].second.second);
  });
  row->addWidget(m_wanted);
  row->addWidget(m_actions.button("follow", Qt::ToolButtonTextOnly, bar));
  const auto field = [&](QDoubleSpinBox*& box, const QString& sign, const QString& name, double most, int decimals) {
    box = new QDoubleSpinBox(bar);
    box->setRange(most > 100 ? 0 : 1, most);
    box->setDecimals(decimals);
    box->setKeyboardTracking(false);
    box->setButtonSymbols(QAbstractSpinBox::NoButtons);
    box->setAlignment(Qt::AlignRight);
    box->setPrefix(sign + QLatin1Char(' '));
    box->setAccessibleName(name);
    box->setToolTip(name);
    box->setMaximumWidth(box->fontMetrics().horizontalAdvance(QStringLiteral("x 0000.00")) + 16);
    row->addWidget(box);
    connect(box, &QDoubleSpinBox::valueChanged, this, [this, box](double value) { typed(box, value); });
  };
  field(m_x, QStringLiteral("x"), tr("Centre from the left, in pixels of the picture"), 20000, 1);
  field(m_y, QStringLiteral("y"), tr("Centre from the top, in pixels of the picture"), 20000, 1);
  field(m_width, QStringLiteral("w"), tr("Width of the window, in pixels of the picture"), 20000, 1);
  field(m_zoom, QStringLiteral("×"), tr("Zoom"), kMostZoom, 2);
  field(m_straighten, QStringLiteral("∠"),
        tr("Straighten the source: degrees clockwise, enlarged just enough to leave no corner empty"), kMostStraighten,
        1);
  m_straighten->setRange(-kMostStraighten, kMostStraighten);
  m_straighten->setSingleStep(0.1);
  m_straighten->setSuffix(QStringLiteral("°"));
  row->addWidget(menuButton(tr("Picture"), tr("Turn or mirror the source, or cut bars away: in every shot of it"),
                            {"turn-right", "turn-left", "mirror", "", "bars"}, bar));
  return bar;
}

QWidget* BenchView::buildMoveBar() {
  auto* bar = new QWidget(this);
  bar->setProperty("bar", true);
  bar->setAttribute(Qt::WA_StyledBackground);
  auto* row = new FlowLayout(bar, 4);
  row->setContentsMargins(10, 5, 10, 5);
  m_time = new TimecodeField(tr("Position in the running order"), bar);
  connect(m_time, &TimecodeField::timeTyped, this, [this] { m_session.setPlayhead(m_time->time()); });
  row->addWidget(m_time);
  for (const char* id : {"play", "key-before", "set-key", "remove-key", "key-after", "keys-at-ends"})
    row->addWidget(m_actions.button(id, Qt::ToolButtonIconOnly, bar));
  m_ease = new QComboBox(bar);
  m_ease->setAccessibleName(tr("Easing after the key"));
  m_ease->setToolTip(m_ease->accessibleName());
  m_ease->addItems({tr("holds"), tr("at one speed"), tr("eases"), tr("smooth through")});
  connect(m_ease, &QComboBox::activated, this, [this](int ease) { m_bench.moves().setEase(Ease(ease)); });
  row->addWidget(m_ease);
  row->addWidget(menuButton(tr("Whole move"), tr("All keys of the move at once"),
                            {"key-at-cut-before", "key-at-cut-after", "", "copy-move", "paste-move", "reverse-move",
                             "move-earlier", "move-later", "slower-move", "faster-move", "", "remove-move"},
                            bar));
  row->addWidget(menuButton(tr("Guides"), tr("What is shown beside the picture and over the results"),
                            {"loupe", "thirds", "safe-areas", "covered", "show-found", "show-cadence"}, bar));
  m_track = new TrackBar(m_bench, *m_canvas, m_actions, bar);
  connect(m_track, &TrackBar::said, m_said, &QLabel::setText);
  row->addWidget(m_track);
  return bar;
}

QToolButton* BenchView::menuButton(const QString& text, const QString& tip, const QList<const char*>& ids,
                                   QWidget* parent) {
  QToolButton* button = tool(text, tip, false, parent);
  button->setPopupMode(QToolButton::InstantPopup);
  auto* menu = new QMenu(button);
  for (const char* id : ids)
    if (*id)
      menu->addAction(m_actions.at(id));
    else
      menu->addSeparator();
  button->setMenu(menu);
  return button;
}

/// What the table's actions do here.
void BenchView::bindActions() {
  m_actions.belongTo(Where::OnBench, this, [this] { return isVisible() && m_bench.media(); });
  const auto hasMove = [this] { return m_bench.moves().move() != nullptr; };
  const auto longMove = [this] { return m_bench.moves().move() && m_bench.moves().move()->size() > 1; };
  m_actions.bind("next-deliverable", [this] { m_session.setDeliverable(m_bench.columnAfter(1)); });
  m_actions.bind("next-window", [this] {
    const int windows = int(m_bench.cell(m_bench.column()).framing.windows.size());
    m_bench.setWindow((m_bench.window() + 1) % windows);
  });
  m_actions.bind("place-subject", [this] { m_bench.setPlacesSubject(!m_bench.placesSubject()); });
  m_actions.bind(
      "remove-subject", [this] { m_bench.placing().removeSubject(); },
      [this] { return m_bench.shot() && !m_bench.shot()->subjects.empty(); });
  m_actions.bind("set-key", [this] { m_bench.moves().setKey(); });
  m_actions.bind(
      "remove-key",
      [this] {
        if (const auto here = m_bench.moves().keyAt(m_bench.time())) m_bench.moves().removeKey(*here);
      },
      [this] { return m_bench.moves().keyAt(m_bench.time()).has_value(); });
  m_actions.bind("keys-at-ends", [this] { m_bench.moves().startAndEnd(); });
  m_actions.bind("key-before", [this] { m_bench.moves().goToKey(-1); });
  m_actions.bind("key-after", [this] { m_bench.moves().goToKey(1); });
  m_actions.bind("key-at-cut-before", [this] { m_bench.moves().setKeyAtCut(-1); });
  m_actions.bind("key-at-cut-after", [this] { m_bench.moves().setKeyAtCut(1); });
  m_actions.bind(
      "copy-move", [this] { m_bench.moves().copyMove(); }, hasMove);
  m_actions.bind(
      "paste-move", [this] { m_bench.moves().pasteMove(); }, [this] { return m_bench.moves().hasCopied(); });
  m_actions.bind(
      "reverse-move", [this] { m_bench.moves().reverse(); }, longMove);
  m_actions.bind(
      "move-earlier", [this] { m_bench.moves().shiftMove(-1); }, longMove);
  m_actions.bind(
      "move-later", [this] { m_bench.moves().shiftMove(1); }, longMove);
  m_actions.bind(
      "slower-move", [this] { m_bench.moves().stretchMove(Rational(5, 4)); }, longMove);
  m_actions.bind(
      "faster-move", [this] { m_bench.moves().stretchMove(Rational(4, 5)); }, longMove);
  m_actions.bind(
      "remove-move", [this] { m_bench.moves().clearMove(); }, hasMove);
  m_actions.bind("frame-back", [this] { m_bench.goTo(m_bench.frame() - 1); });
  m_actions.bind("frame-on", [this] { m_bench.goTo(m_bench.frame() + 1); });
  const auto turn = [this](int by) {
    Orientation to = m_bench.source().orientation();
    to.turn = (to.turn + (to.mirrored ? 360 - by : by)) % 360; // as it is seen
    m_bench.source().setOrientation(to, tr("Turn the source"));
  };
  m_actions.bind("turn-right", [turn] { turn(90); });
  m_actions.bind("turn-left", [turn] { turn(270); });
  m_actions.bind("mirror", [this] {
    Orientation to = m_bench.source().orientation();
    to.mirrored = !to.mirrored;
    to.straighten = -to.straighten;
    m_bench.source().setOrientation(to, tr("Mirror the source"));
  });
  m_actions.bind("bars", [this] { showBars(true); });
  m_actions.bind("to-curves", [this] { m_curves->setFocus(Qt::ShortcutFocusReason); });
  m_actions.bind("to-results", [this] { m_results->setFocus(Qt::ShortcutFocusReason); });
  const auto shown = [&](const char* id, const std::function<void(bool)>& show) {
    m_actions.bind(id, [show, action = m_actions.at(id)] { show(action->isChecked()); });
  };
  shown("loupe", [this](bool on) {
    m_canvas->setLoupe(on);
    m_allPixels = on;
    feed();
  });
  shown("thirds", [this](bool on) { m_canvas->setThirds(on); });
  shown("safe-areas", [this](bool on) { m_results->setSafeAreas(on); });
  shown("covered", [this](bool on) { m_results->setCovered(on); });
  shown("show-cadence", [this](bool on) { m_results->setCadence(on); });
}

void BenchView::setFound(FramingService& framing) {
  m_framing = &framing;
  m_bench.placing().setFraming(framing);
  connect(&framing, &FramingService::looked, m_ways, &WaysPanel::refreshSoon);
  const auto show = [this] {
    const Shot* shot = m_bench.shot();
    const bool on = m_actions.at("show-found")->isChecked() && shot;
    const auto found = on ? m_framing->found(*shot) : nullptr;
    if (on && !found && isVisible()) m_framing->ask(shot->id);
    m_canvas->setFound(found);
  };
  m_actions.bind("show-found", show, [this] { return m_bench.media() && m_bench.media()->kind != MediaKind::Audio; });
  connect(&framing, &FramingService::looked, this, show);
  connect(&m_bench, &Bench::changed, this, show);
  connect(&m_document, &Document::aboutToReset, this, [this] { m_canvas->setFound(nullptr); });
}

void BenchView::showPicture(const QImage& picture) {
  m_pictured = true;
  if (m_fedWhole) {
    m_whole = picture;
    m_bars->canvas().setPicture(picture);
    m_cutBy.reset();
    return cutWhole();
  }
  m_poster = posterOf(picture);
  m_canvas->setPicture(picture);
  m_results->setPoster(&m_poster);
  m_ways->setPoster(&m_poster);
}

void BenchView::cutWhole() {
  const Bars bars = m_bench.source().bars();
  if (!m_fedWhole || m_whole.isNull() || m_cutBy == bars) return;
  m_cutBy = bars;
  const Size raster = m_bench.source().raster();
  const double x = double(m_whole.width()) / raster.width;
  const double y = double(m_whole.height()) / raster.height;
  const QRectF kept(QPointF(bars.left * x, bars.top * y),
                    QPointF((raster.width - bars.right) * x, (raster.height - bars.bottom) * y));
  m_poster = posterOf(m_whole.copy(kept.toAlignedRect()));
  m_results->setPoster(&m_poster);
  m_ways->setPoster(&m_poster);
}

void BenchView::showBars(bool shown) {
  if (shown && !m_bench.media()) return;
  m_placing->setVisible(!shown);
  m_bars->setVisible(shown);
  (shown ? static_cast<QWidget*>(m_bars) : m_canvas)->setFocus();
  feed();
}

/// While the bench is shown, its shot is always selected. Selecting another shot shows that one, and moving on to
/// another selects it.
void BenchView::showSelected() {
  const std::vector<int> shots = m_session.shots();
  if (isVisible() && !shots.empty() && !m_session.isSelected(m_bench.row())) m_session.lookAt(shots.front());
}

void BenchView::selectShown() {
  if (isVisible() && m_bench.row() >= 0 && !m_session.isSelected(m_bench.row()))
    m_session.selectCells({{m_bench.row(), m_bench.column()}}, {m_bench.row(), m_bench.column()});
}

void BenchView::showTime() {
  m_time->setRate(m_session.rate());
  m_time->setTime(m_session.playhead());
}

void BenchView::showEvent(QShowEvent* event) {
  QWidget::showEvent(event);
  showSelected();
  selectShown();
  m_actions.refreshSoon();
  m_track->refresh();
  askPlayed();
  feed();
}

void BenchView::hideEvent(QHideEvent* event) {
  QWidget::hideEvent(event);
  askPlayed();
  m_actions.refreshSoon();
}

void BenchView::setWatch(Watch& watch) {
  m_watch = &watch;
  connect(&watch, &Watch::starting, this, &BenchView::askPlayed);
  connect(&watch, &Watch::stateChanged, this, [this] {
    if (m_watch->playing()) return;
    askPlayed();
    feed(); // the exact picture
  });
  connect(&watch, &Watch::pictured, this, [this] {
    const std::vector<Watch::Picture> pictures = m_watch->pictures(this);
    if (isPlayed() && !pictures.empty() && pictures[0].shot == m_bench.shotId() && !pictures[0].image.isNull())
      showPicture(pictures[0].image);
  });
}

/// Asks for the pictures that are played while the bench is seen.
void BenchView::askPlayed() {
  if (!m_watch) return;
  if (isPlayed())
    m_watch->setScreens(this, {{m_bench.column(), true, m_canvas->size() * devicePixelRatioF()}});
  else
    m_watch->setScreens(this, {});
}

/// Bars are set on the whole picture, which is not what is watched.
bool BenchView::isPlayed() const {
  return m_watch && m_watch->playing() && isVisible() && m_bars->isHidden();
}

void BenchView::feed() {
  if (!isVisible()) return;
  const MediaInfo* media = m_bench.media();
  if (!media) {
    m_canvas->setPicture({});
    m_results->setPoster(nullptr);
    m_ways->setPoster(nullptr);
    m_fed.clear();
    m_pictured = true;
    return refresh();
  }
  const Source& source = *m_document.project().source(m_bench.shot()->source);
  Source as = source;
  const bool whole = bars() != nullptr;
  if (whole) {
    // Bars are set on the picture before it is straightened, because they are not tilted there.
    as.bars = {};
    as.orientation.straighten = 0;
  }
  if (m_fed != source.id || m_fedAll != m_allPixels || m_fedWhole != whole || m_fedAs.bars != as.bars ||
      m_fedAs.scan != as.scan || m_fedAs.path != as.path || m_fedAs.fingerprint != as.fingerprint ||
      m_fedAs.orientation != as.orientation) {
    m_feed.open(readingOf(as, *media), m_allPixels ? kAllPixels : kMostPicture);
    m_fed = source.id;
    m_fedAs = as;
    m_fedAll = m_allPixels;
    m_fedWhole = whole;
  }
  if (isPlayed()) {
    m_pictured = true;
    return refresh();
  }
  m_pictured = false;
  m_feed.show(media->kind == MediaKind::Still ? 0 : m_bench.frame());
  refresh();
}

void BenchView::refresh() {
  m_showing = true;
  const Shot* shot = m_bench.shot();
  const bool usable = m_bench.media() != nullptr;
  m_actions.refreshSoon();
  for (QWidget* each :
       std::initializer_list<QWidget*>{m_x, m_y, m_width, m_zoom, m_straighten, m_placeWindow, m_placeSubject})
    each->setEnabled(usable);
  m_placeSubject->setChecked(m_bench.placesSubject());
  m_placeWindow->setChecked(!m_bench.placesSubject());
  m_wanted->setEnabled(usable && !shot->subjects.empty());
  if (usable) {
    const Deliverable& d = m_document.project().deliverables[size_t(m_bench.column())];
    const Cell cell = m_bench.cell(m_bench.column());
    const QRectF rect = m_bench.windowRect(m_bench.column(), m_bench.window());
    const auto subject = m_bench.subject();
    const QPointF centre = m_bench.placesSubject() && subject ? *subject : rect.center();
    m_x->setValue(centre.x());
    m_y->setValue(centre.y());
    m_width->setValue(rect.width());
    m_zoom->setValue(windowNow(cell, size_t(m_bench.window())).zoom);
    m_straighten->setValue(m_bench.source().orientation().straighten);
    m_actions.at("mirror")->setChecked(m_bench.source().orientation().mirrored);
    QString text = tr("%1 in %2 · window %3×%4 · detail %5")
                       .arg(QString::fromStdString(shot->name), QString::fromStdString(d.name))
                       .arg(rect.width(), 0, 'f', 1)
                       .arg(rect.height(), 0, 'f', 1)
                       .arg(QString::fromStdString(detailText(cell.detail)));
    if (cell.state == Cell::State::Soft) text += tr(" (soft)");
    if (cell.uncoveredPercent > 0) text += tr(" · bars %1 %").arg(cell.uncoveredPercent, 0, 'f', 1);
    text += cell.framing.byHand() ? tr(" · by hand") : subject ? tr(" · follows the subject") : tr(" · centred");
    if (const double guess = shot->subjects.empty() ? 0 : shot->subjects.front().guess; guess > 0)
      text += tr(" · suggested, %1 % sure").arg(qRound(guess * 100));
    if (const double seconds = m_bench.placing().secondsAWidth(); seconds > 0)
      text += tr(" · crosses its width in %1 s").arg(seconds, 0, 'f', 1);
    m_read->setText(text);
    colourWords(m_read, cell.complains() ? statusColour(cell.state) : Theme::current().faint);
    if (!shot->subjects.empty())
      for (int i = 0; i < int(std::size(kWanted)); ++i)
        if (std::abs(kWanted[i].second.first - shot->subjects[0].atX) +
                std::abs(kWanted[i].second.second - shot->subjects[0].atY) <
            0.01)
          m_wanted->setCurrentIndex(i);
    const Move* move = m_bench.moves().move();
    m_ease->setEnabled(move && move->size() > 1);
    if (move)
      for (const MoveKey& key : *move)
        if (key.time <= m_bench.time()) m_ease->setCurrentIndex(int(key.ease));
  } else {
    m_read->clear();
    m_ease->setEnabled(false);
  }
  m_showing = false;
  cutWhole();
  m_track->refresh();
}

void BenchView::typed(const QDoubleSpinBox* field, double) {
  if (m_showing) return;
  const QPointF at(m_x->value(), m_y->value());
  if (field == m_straighten) {
    Orientation to = m_bench.source().orientation();
    to.straighten = m_straighten->value();
    m_bench.source().setOrientation(to, tr("Straighten the source"));
  } else if (field == m_zoom)
    m_bench.placing().zoomWindow(m_zoom->value(), false, 0);
  else if (field == m_width && m_width->value() > 0)
    m_bench.placing().zoomWindow(windowNow(m_bench.cell(m_bench.column()), size_t(m_bench.window())).zoom *
                                     m_bench.windowRect(m_bench.column(), m_bench.window()).width() / m_width->value(),
                                 false, 0);
  else if (m_bench.placesSubject())
    m_bench.placing().placeSubject(at, 0);
  else
    m_bench.placing().placeWindow(at, 0, 0);
}

} // namespace tromb
