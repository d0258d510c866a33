// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/bench/BenchView.h"

#include "app/style/FlowLayout.h"
#include "app/style/Icons.h"
#include "app/style/Theme.h"
#include "time/Timecode.h"

#include <QAction>
#include <QButtonGroup>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QMenu>
#include <QProgressBar>
#include <QScrollArea>
#include <QSlider>
#include <QToolButton>
#include <QVBoxLayout>
#include <algorithm>
#include <iterator>

namespace tromb {
namespace {

constexpr QSize kMostPicture{1920, 1920};
constexpr QSize kAllPixels{16384, 16384}; ///< more than any picture has
/// Where subjects are wanted: the middle, and where the trade's rule of thirds puts them.
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

BenchView::BenchView(Session& session, PosterService& posters, QWidget* parent)
    : QWidget(parent), m_session(session), m_document(session.document()), m_bench(session),
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
  left->addWidget(buildReadout());
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
  m_waysArea = new QScrollArea(this);
  m_waysArea->setWidget(m_ways);
  m_waysArea->setWidgetResizable(true);
  m_waysArea->setFrameShape(QFrame::NoFrame);
  m_waysArea->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  // Once what was put in is shown, and so has a height.
  connect(
      m_ways, &WaysPanel::offered, this,
      [this](bool any) {
        m_waysArea->setVisible(any);
        m_ways->layout()->activate();
        fitWays();
      },
      Qt::QueuedConnection);
  right->addWidget(m_waysArea);
  columns->addLayout(right);
  m_results->setFixedWidth(400);
  m_layout->setFixedWidth(400);
  m_waysArea->setFixedWidth(400);

  connect(&m_document, &Document::aboutToReset, this, [this] {
    m_found.clear();
    m_search.cancel();
    m_said.clear();
  });
  connect(m_canvas, &BenchCanvas::boxed, this, &BenchView::followBox);
  connect(m_canvas, &BenchCanvas::boxingEnded, this, &BenchView::refreshFollow);
  connect(&m_search, &SubjectSearch::progress, this, [this](double fraction) {
    m_searched->setValue(int(fraction * 1000));
    refreshFollow();
  });
  connect(&m_search, &SubjectSearch::failed, this, &BenchView::say);
  connect(&m_search, &SubjectSearch::followed, this, &BenchView::takeTrack);
  connect(&m_search, &SubjectSearch::found, this,
          [this](const std::string& shot, const FoundSubject& subject) { m_found.emplace_back(shot, subject); });
  connect(&m_search, &SubjectSearch::finished, this, &BenchView::takeFound);
  connect(&session, &Session::selectionChanged, this, &BenchView::showSelected);
  connect(&session, &Session::playheadMoved, this, &BenchView::selectShown);
  connect(&m_bench, &Bench::changed, this, &BenchView::refresh);
  connect(&m_bench, &Bench::moved, this, &BenchView::feed);
  connect(&m_document, &Document::sourceChanged, this, &BenchView::feed);
  connect(&m_feed, &SourceFeed::pictured, this, &BenchView::showPicture);
  connect(&m_feed, &SourceFeed::failed, this, [this](const QString& reason) {
    m_pictured = true; // as far as it can be
    m_canvas->setPicture({});
    say(reason);
  });
  refresh();
}

QAction* BenchView::command(Menu menu, const QString& text, const QString& iconName, const QKeySequence& keys,
                            const std::function<void()>& run) {
  auto* made = new QAction(iconName.isEmpty() ? QIcon() : icon(iconName), text, this);
  made->setShortcut(keys);
  made->setShortcutContext(Qt::WidgetWithChildrenShortcut);
  connect(made, &QAction::triggered, this, run);
  addAction(made);
  m_commands.append(made);
  made->setData(int(menu));
  return made;
}

QList<QAction*> BenchView::commands(Menu menu) const {
  QList<QAction*> found;
  std::copy_if(m_commands.begin(), m_commands.end(), std::back_inserter(found),
               [menu](const QAction* each) { return each->data() == int(menu); });
  return found;
}

QWidget* BenchView::buildReadout() {
  auto* bar = new QWidget(this);
  bar->setProperty("bar", true);
  bar->setAttribute(Qt::WA_StyledBackground);
  auto* row = new FlowLayout(bar, 4);
  row->setContentsMargins(10, 5, 10, 5);
  m_head = new QLabel(bar);
  m_head->setProperty("rank", "head");
  row->addWidget(m_head);
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
  m_follow = tool(tr("Give back"), tr("Give this cell back to the subject"), false, bar);
  connect(m_follow, &QToolButton::clicked, this, [this] { m_bench.placing().follow(); });
  row->addWidget(m_follow);
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
  auto* picture = tool(tr("Turn"), tr("Turn or mirror the source, everywhere"), false, bar);
  picture->setPopupMode(QToolButton::InstantPopup);
  auto* turns = new QMenu(picture);
  const auto turn = [this](int by) {
    Orientation to = m_bench.source().orientation();
    to.turn = (to.turn + (to.mirrored ? 360 - by : by)) % 360; // as it is seen
    m_bench.source().setOrientation(to, tr("Turn the source"));
  };
  turns->addAction(
      command(Menu::Picture, tr("A quarter to the &right"), {}, QKeySequence(Qt::Key_R), [turn] { turn(90); }));
  turns->addAction(command(Menu::Picture, tr("A quarter to the &left"), {}, QKeySequence(Qt::SHIFT | Qt::Key_R),
                           [turn] { turn(270); }));
  m_mirror = command(Menu::Picture, tr("&Mirrored, left for right"), {}, QKeySequence(Qt::Key_M), [this] {
    Orientation to = m_bench.source().orientation();
    to.mirrored = !to.mirrored;
    to.straighten = -to.straighten;
    m_bench.source().setOrientation(to, tr("Mirror the source"));
  });
  m_mirror->setCheckable(true);
  turns->addAction(m_mirror);
  turns->addSeparator();
  turns->addAction(
      command(Menu::Picture, tr("Burned-in &bars …"), {}, QKeySequence(Qt::Key_X), [this] { showBars(true); }));
  picture->setMenu(turns);
  row->addWidget(picture);
  auto* look = tool(tr("Show"), tr("What is shown beside the picture"), false, bar);
  look->setPopupMode(QToolButton::InstantPopup);
  auto* menu = new QMenu(look);
  const auto shown = [&](const QString& text, const std::function<void(bool)>& show) {
    QAction* made = menu->addAction(text);
    made->setCheckable(true);
    connect(made, &QAction::toggled, this, show);
  };
  shown(tr("&Pixels under the pointer, 1:1"), [this](bool on) {
    m_canvas->setLoupe(on);
    m_allPixels = on;
    feed();
  });
  shown(tr("Lines at the &thirds, and the centre"), [this](bool on) { m_canvas->setThirds(on); });
  shown(tr("&Safe areas (EBU R 95, ST 2046-1)"), [this](bool on) { m_results->setSafeAreas(on); });
  shown(tr("What &buttons and captions cover"), [this](bool on) { m_results->setCovered(on); });
  look->setMenu(menu);
  row->addWidget(look);
  m_read = new QLabel(bar);
  row->addWidget(m_read);
  return bar;
}

void BenchView::addFollowing(QWidget* bar, QLayout& row) {
  QAction* track = command(Menu::Subject, tr("Fo&llow what a box is drawn round"), QStringLiteral("crosshair"),
                           QKeySequence(Qt::Key_T), [this] {
                             m_canvas->setFocus();
                             m_canvas->setBoxing(m_track->isChecked());
                             refreshFollow();
                           });
  track->setCheckable(true);
  track->setIconText(tr("Follow a subject"));
  m_track = new QToolButton(bar);
  m_track->setDefaultAction(track);
  m_track->setToolButtonStyle(Qt::ToolButtonTextBesideIcon);
  m_track->setFocusPolicy(Qt::TabFocus);
  m_track->setToolTip(tr("Draw a box round it on any frame, or press Return for one round the subject (T)"));
  row.addWidget(m_track);
  m_searched = new QProgressBar(bar);
  m_searched->setRange(0, 1000);
  m_searched->setFixedWidth(140);
  m_searched->setAccessibleName(tr("How far it is followed"));
  row.addWidget(m_searched);
  m_stop = tool(tr("Stop"), tr("Stop following"), false, bar);
  connect(m_stop, &QToolButton::clicked, &m_search, &SubjectSearch::cancel);
  row.addWidget(m_stop);
  m_calmWords = new QLabel(tr("Calm"), bar);
  row.addWidget(m_calmWords);
  m_calm = new QSlider(Qt::Horizontal, bar);
  m_calm->setRange(0, 100);
  m_calm->setFixedWidth(130);
  m_calm->setTracking(false); // a long shot's way takes a tenth of a second to be calmed
  m_calm->setAccessibleName(tr("How much the way is calmed"));
  m_calm->setToolTip(tr("From where the subject is to as far off as all windows allow"));
  connect(m_calm, &QSlider::valueChanged, this, [this](int value) {
    if (m_showing || !m_bench.following().track()) return;
    m_bench.following().setCalming(value / 100.0, m_document.newGesture());
  });
  row.addWidget(m_calm);
  m_searchWords = new QLabel(bar);
  row.addWidget(m_searchWords);
}

QWidget* BenchView::buildMoveBar() {
  auto* bar = new QWidget(this);
  bar->setProperty("bar", true);
  bar->setAttribute(Qt::WA_StyledBackground);
  auto* row = new FlowLayout(bar, 4);
  row->setContentsMargins(10, 5, 10, 5);
  m_time = new QLabel(bar);
  row->addWidget(m_time);
  const auto button = [&](QAction* action, const QString& shorter) {
    auto* made = new QToolButton(bar);
    made->setDefaultAction(action);
    action->setIconText(shorter);
    made->setToolButtonStyle(Qt::ToolButtonTextBesideIcon);
    made->setFocusPolicy(Qt::TabFocus);
    made->setAccessibleName(action->text().remove(QLatin1Char('&')));
    row->addWidget(made);
  };
  button(command(Menu::Moving, tr("Set a &key here"), QStringLiteral("plus"), QKeySequence(Qt::Key_K),
                 [this] { m_bench.moves().setKey(); }),
         tr("Key"));
  button(command(Menu::Moving, tr("&Remove the key here"), QStringLiteral("x"), QKeySequence(Qt::SHIFT | Qt::Key_K),
                 [this] {
                   if (const auto here = m_bench.moves().keyAt(m_bench.time())) m_bench.moves().removeKey(*here);
                 }),
         tr("No key"));
  button(command(Menu::Moving, tr("Keys a&t both ends"), QStringLiteral("arrow-left-right"), QKeySequence(Qt::Key_E),
                 [this] { m_bench.moves().startAndEnd(); }),
         tr("Both ends"));
  button(command(Menu::Moving, tr("The key &before"), QStringLiteral("step-back"), QKeySequence(Qt::Key_PageUp),
                 [this] { m_bench.moves().goToKey(-1); }),
         tr("Before"));
  button(command(Menu::Moving, tr("The &next key"), QStringLiteral("step-forward"), QKeySequence(Qt::Key_PageDown),
                 [this] { m_bench.moves().goToKey(1); }),
         tr("Next"));
  auto* whole = tool(tr("Move"), tr("The whole move"), false, bar);
  whole->setPopupMode(QToolButton::InstantPopup);
  auto* menu = new QMenu(whole);
  menu->addActions({
      command(Menu::Moving, tr("A key at the cut b&efore"), {}, QKeySequence(Qt::SHIFT | Qt::Key_PageUp),
              [this] { m_bench.moves().setKeyAtCut(-1); }),
      command(Menu::Moving, tr("A key at the cut a&fter"), {}, QKeySequence(Qt::SHIFT | Qt::Key_PageDown),
              [this] { m_bench.moves().setKeyAtCut(1); }),
      command(Menu::Moving, tr("Cop&y the move"), {}, QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_C),
              [this] { m_bench.moves().copyMove(); }),
      command(Menu::Moving, tr("&Paste the move"), {}, QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_V),
              [this] { m_bench.moves().pasteMove(); }),
      command(Menu::Moving, tr("Re&verse it"), {}, {}, [this] { m_bench.moves().reverse(); }),
      command(Menu::Moving, tr("A frame e&arlier"), {}, QKeySequence(Qt::ALT | Qt::Key_Comma),
              [this] { m_bench.moves().shiftMove(-1); }),
      command(Menu::Moving, tr("A frame &later"), {}, QKeySequence(Qt::ALT | Qt::Key_Period),
              [this] { m_bench.moves().shiftMove(1); }),
      command(Menu::Moving, tr("Slo&wer by a quarter"), {}, {},
              [this] { m_bench.moves().stretchMove(Rational(5, 4)); }),
      command(Menu::Moving, tr("&Quicker by a fifth"), {}, {}, [this] { m_bench.moves().stretchMove(Rational(4, 5)); }),
      command(Menu::Moving, tr("&Clear it"), {}, {}, [this] { m_bench.moves().clearMove(); }),
  });
  whole->setMenu(menu);
  command(Menu::Moving, tr("One fra&me back"), {}, QKeySequence(Qt::Key_Comma),
          [this] { m_bench.goTo(m_bench.frame() - 1); });
  command(Menu::Moving, tr("One frame &on"), {}, QKeySequence(Qt::Key_Period),
          [this] { m_bench.goTo(m_bench.frame() + 1); });
  command(Menu::Framing, tr("The ne&xt shape"), {}, QKeySequence(Qt::Key_N), [this] {
    m_session.setDeliverable((m_bench.column() + 1) % std::max(1, int(m_document.project().deliverables.size())));
  });
  command(Menu::Framing, tr("The next win&dow of a stack"), {}, QKeySequence(Qt::SHIFT | Qt::Key_N), [this] {
    if (!m_bench.media()) return;
    const int windows = int(m_bench.cell(m_bench.column()).framing.windows.size());
    m_bench.setWindow((m_bench.window() + 1) % windows);
  });
  command(Menu::Subject, tr("&Place the subject or the window"), {}, QKeySequence(Qt::Key_S),
          [this] { m_bench.setPlacesSubject(!m_bench.placesSubject()); });
  m_ease = new QComboBox(bar);
  m_ease->setAccessibleName(tr("How it goes on from the key"));
  m_ease->setToolTip(m_ease->accessibleName());
  m_ease->addItems({tr("holds"), tr("at one speed"), tr("eases"), tr("smooth through")});
  connect(m_ease, &QComboBox::activated, this, [this](int ease) { m_bench.moves().setEase(Ease(ease)); });
  row->addWidget(m_ease);
  row->addWidget(whole);
  addFollowing(bar, *row);
  return bar;
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

/// While the bench is seen, the shot on it is one that is selected: selecting another shows that one, and moving on to
/// another selects it.
void BenchView::showSelected() {
  const std::vector<int> shots = m_session.shots();
  if (isVisible() && !shots.empty() && !m_session.isSelected(m_bench.row())) m_session.lookAt(shots.front());
}

void BenchView::selectShown() {
  if (isVisible() && m_bench.row() >= 0 && !m_session.isSelected(m_bench.row()))
    m_session.selectCells({{m_bench.row(), m_bench.column()}}, {m_bench.row(), m_bench.column()});
}

void BenchView::fitWays() {
  const int room = height() - m_layout->sizeHint().height() - m_results->minimumHeight();
  m_waysArea->setFixedHeight(std::max(0, std::min(m_ways->heightForWidth(m_waysArea->width()), room)));
}

void BenchView::resizeEvent(QResizeEvent* event) {
  QWidget::resizeEvent(event);
  fitWays();
}

void BenchView::showEvent(QShowEvent* event) {
  QWidget::showEvent(event);
  showSelected();
  selectShown();
  refreshCommands();
  refreshFollow();
  feed();
}

void BenchView::hideEvent(QHideEvent* event) {
  QWidget::hideEvent(event);
  refreshCommands();
}

/// What nobody sees is not changed: while the bench is hidden its commands rest, also in the menus.
void BenchView::refreshCommands() {
  for (QAction* each : m_commands) each->setEnabled(isVisible() && m_bench.media());
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
    // As it lies in its file, but for turns: bars are straight there.
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
  m_pictured = false;
  m_feed.show(media->kind == MediaKind::Still ? 0 : m_bench.frame());
  refresh();
}

void BenchView::refresh() {
  m_showing = true;
  const Shot* shot = m_bench.shot();
  const bool usable = m_bench.media() != nullptr;
  refreshCommands();
  for (QWidget* each : std::initializer_list<QWidget*>{m_x, m_y, m_width, m_zoom, m_straighten, m_placeWindow,
                                                       m_placeSubject, m_follow})
    each->setEnabled(usable);
  m_placeSubject->setChecked(m_bench.placesSubject());
  m_placeWindow->setChecked(!m_bench.placesSubject());
  m_wanted->setEnabled(usable && !shot->subjects.empty());
  m_head->setText(shot ? QString::fromStdString(shot->name) : tr("No shot"));
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
    m_mirror->setChecked(m_bench.source().orientation().mirrored);
    QString text = tr("%1 · window %2×%3 · detail %4")
                       .arg(QString::fromStdString(d.name))
                       .arg(rect.width(), 0, 'f', 1)
                       .arg(rect.height(), 0, 'f', 1)
                       .arg(QString::fromStdString(detailText(cell.detail)));
    if (cell.state == Cell::State::Soft) text += tr(" · enlarged");
    if (cell.uncoveredPercent > 0) text += tr(" · bars %1 %").arg(cell.uncoveredPercent, 0, 'f', 1);
    text += cell.framing.byHand() ? tr(" · by hand") : subject ? tr(" · follows the subject") : tr(" · centred");
    if (const double guess = shot->subjects.empty() ? 0 : shot->subjects.front().guess; guess > 0)
      text += tr(" · suggested, %1 % sure").arg(qRound(guess * 100));
    if (const double seconds = m_bench.placing().secondsAWidth(); seconds > 0)
      text += tr(" · a width in %1 s").arg(seconds, 0, 'f', 1);
    m_read->setText(text);
    colourWords(m_read, cell.complains() ? statusColour(cell.state) : Theme::current().faint);
    m_follow->setEnabled(cell.framing.byHand());
    if (!shot->subjects.empty())
      for (int i = 0; i < int(std::size(kWanted)); ++i)
        if (std::abs(kWanted[i].second.first - shot->subjects[0].atX) +
                std::abs(kWanted[i].second.second - shot->subjects[0].atY) <
            0.01)
          m_wanted->setCurrentIndex(i);
    const FrameRate rate = m_bench.media()->kind == MediaKind::Still ? d.rate : m_bench.media()->video->clock.rate();
    m_time->setText(
        QString::fromStdString(timecode(rate.frameAt(m_bench.time() - shot->in), rate, hasDropFrame(rate))));
    const Move* move = m_bench.moves().move();
    m_ease->setEnabled(move && move->size() > 1);
    if (move)
      for (const MoveKey& key : *move)
        if (key.time <= m_bench.time()) m_ease->setCurrentIndex(int(key.ease));
  } else {
    m_read->clear();
    m_time->clear();
    m_ease->setEnabled(false);
  }
  m_showing = false;
  cutWhole();
  refreshFollow();
}

// ---- looking for subjects

std::optional<SubjectSearch::Stretch> BenchView::stretchOf(const Shot& shot) const {
  const Source* source = m_document.project().source(shot.source);
  const Result<MediaInfo>* known = m_document.media(shot.source);
  if (!source || !known || !*known || !(*known)->video || (*known)->kind == MediaKind::Audio) return {};
  SubjectSearch::Stretch stretch{shot.id, readingOf(*source, **known), 0, 1};
  if ((*known)->kind == MediaKind::Video) {
    const FrameClock& clock = (*known)->video->clock;
    stretch.first = clock.nearest(shot.in);
    stretch.end = std::max(stretch.first + 1, clock.cutAt(shot.out));
  }
  return stretch;
}

void BenchView::followBox(const QRectF& box) {
  const auto stretch = m_bench.shot() ? stretchOf(*m_bench.shot()) : std::nullopt;
  if (!stretch) return;
  const SizeF whole = m_bench.picture();
  m_said.clear();
  m_search.follow(
      *stretch, m_bench.frame(),
      {box.x() / whole.width, box.y() / whole.height, box.width() / whole.width, box.height() / whole.height});
}

void BenchView::takeTrack(const std::string& shot, const Track& track) {
  if (track.points.empty()) return say(tr("There is no picture to follow it in"));
  m_bench.following().takeTrack(shot, track);
  const Shot* at = m_document.project().shot(shot);
  const auto stretch = at ? stretchOf(*at) : std::nullopt;
  if (!stretch) return;
  const FrameRate rate = stretch->reading.file.video->clock.rate();
  const auto time = [&](int64_t frame) {
    return QString::fromStdString(timecode(frame - stretch->first, rate, hasDropFrame(rate)));
  };
  const int64_t first = track.points.front().frame;
  const int64_t last = track.points.back().frame;
  QStringList words;
  if (first > stretch->first) words << tr("not there before %1").arg(time(first));
  if (last + 1 < stretch->end) words << tr("lost at %1").arg(time(last));
  say(words.isEmpty() ? tr("followed through the whole shot") : words.join(QStringLiteral(", ")));
}

void BenchView::suggestSubjects() {
  std::vector<SubjectSearch::Stretch> stretches;
  for (const Shot& shot : m_document.project().shots)
    if (const auto stretch = shot.subjects.empty() ? stretchOf(shot) : std::nullopt) stretches.push_back(*stretch);
  m_found.clear();
  if (stretches.empty()) return say(tr("Every shot has a subject point already"));
  m_said.clear();
  m_search.find(std::move(stretches));
}

void BenchView::takeFound() {
  std::vector<Shot> changed;
  int doubtful = 0;
  for (const auto& [id, found] : m_found) {
    const Shot* shot = m_document.project().shot(id);
    if (!shot || !shot->subjects.empty()) continue; // removed, or placed by hand meanwhile
    Shot with = *shot;
    Subject subject;
    subject.move.front().x = std::clamp(found.x, 0.0, 1.0);
    subject.move.front().y = std::clamp(found.y, 0.0, 1.0);
    subject.guess = std::clamp(found.confidence, 0.01, 1.0);
    if (found.kind == FoundSubject::Kind::Face) subject.atY = 1.0 / 3; // people are wanted in the upper third
    with.subjects.push_back(subject);
    changed.push_back(with);
    doubtful += found.confidence < kSureEnough ? 1 : 0;
  }
  m_found.clear();
  if (!changed.empty()) {
    m_document.changeShots(changed, tr("Suggest subject points"));
    say(counted(int(changed.size()), tr("1 subject point suggested"), tr("%1 subject points suggested")) +
        (doubtful > 0 ? tr(", %1 of them doubtful").arg(doubtful) : QString()));
  }
  refresh();
}

void BenchView::say(const QString& words) {
  m_said = words;
  refreshFollow();
}

void BenchView::refreshFollow() {
  const bool running = m_search.running();
  const bool usable = m_bench.media() && m_bench.media()->kind == MediaKind::Video && !running;
  m_track->setEnabled(usable);
  if (!m_canvas->boxing()) m_track->setChecked(false);
  m_searched->setVisible(running);
  m_stop->setVisible(running);
  const Track* track = running ? nullptr : m_bench.following().track();
  m_calm->setVisible(track);
  m_calmWords->setVisible(track);
  m_showing = true;
  m_calm->setValue(int(std::lround(m_bench.following().calming() * 100)));
  m_showing = false;
  m_searchWords->setText(m_track->isChecked() ? tr("Draw a box round it, or press Return") : m_said);
  m_searchWords->setVisible(!m_searchWords->text().isEmpty()); // an empty one would take a line
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
