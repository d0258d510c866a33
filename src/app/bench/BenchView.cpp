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
#include <QToolButton>
#include <QVBoxLayout>

namespace tromb {
namespace {

constexpr QSize kMostPicture{1920, 1920};
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

BenchView::BenchView(Document& document, QWidget* parent)
    : QWidget(parent), m_document(document), m_bench(document), m_canvas(new BenchCanvas(m_bench, this)),
      m_results(new BenchResults(m_bench, this)), m_ways(new WaysPanel(m_bench, this)),
      m_curves(new MoveCurves(m_bench, this)) {
  auto* columns = new QHBoxLayout(this);
  columns->setContentsMargins(0, 0, 0, 0);
  columns->setSpacing(0);
  auto* left = new QVBoxLayout;
  left->setSpacing(0);
  left->addWidget(m_canvas, 1);
  left->addWidget(buildReadout());
  left->addWidget(m_curves);
  left->addWidget(buildMoveBar());
  columns->addLayout(left, 1);
  auto* right = new QVBoxLayout;
  right->setSpacing(0);
  right->addWidget(m_results, 1);
  right->addWidget(m_ways);
  columns->addLayout(right);
  m_results->setFixedWidth(400);
  m_ways->setFixedWidth(400);

  connect(&m_bench, &Bench::changed, this, &BenchView::refresh);
  connect(&m_bench, &Bench::moved, this, &BenchView::feed);
  connect(&m_feed, &SourceFeed::pictured, this, [this](const QImage& picture) {
    m_pictured = true;
    m_poster = posterOf(picture);
    m_canvas->setPicture(picture);
    m_results->setPoster(&m_poster);
    m_ways->setPoster(&m_poster);
  });
  refresh();
}

QAction* BenchView::command(const QString& text, const QString& iconName, const QKeySequence& keys,
                            const std::function<void()>& run) {
  auto* made = new QAction(iconName.isEmpty() ? QIcon() : icon(iconName), text, this);
  made->setShortcut(keys);
  made->setShortcutContext(Qt::WidgetWithChildrenShortcut);
  connect(made, &QAction::triggered, this, run);
  addAction(made);
  m_commands.append(made);
  return made;
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
  connect(m_wanted, &QComboBox::activated, this,
          [this](int index) { m_bench.setWanted(kWanted[index].second.first, kWanted[index].second.second); });
  row->addWidget(m_wanted);
  m_follow = tool(tr("Follow"), tr("Give this cell back to the subject"), false, bar);
  connect(m_follow, &QToolButton::clicked, &m_bench, &Bench::follow);
  row->addWidget(m_follow);
  const auto field = [&](QDoubleSpinBox*& box, const QString& name, double most, int decimals) {
    box = new QDoubleSpinBox(bar);
    box->setRange(most > 100 ? 0 : 1, most);
    box->setDecimals(decimals);
    box->setKeyboardTracking(false);
    box->setButtonSymbols(QAbstractSpinBox::NoButtons);
    box->setAlignment(Qt::AlignRight);
    box->setAccessibleName(name);
    box->setToolTip(name);
    box->setMaximumWidth(box->fontMetrics().horizontalAdvance(QStringLiteral("00000.00")) + 18);
    row->addWidget(box);
    connect(box, &QDoubleSpinBox::valueChanged, this, [this, box](double value) { typed(box, value); });
  };
  field(m_x, tr("Centre from the left, in pixels of the picture"), 20000, 1);
  field(m_y, tr("Centre from the top, in pixels of the picture"), 20000, 1);
  field(m_zoom, tr("Zoom"), kMostZoom, 2);
  auto* loupe = tool(tr("1:1"), tr("Look at the pixels under the pointer"), true, bar);
  connect(loupe, &QToolButton::toggled, m_canvas, &BenchCanvas::setLoupe);
  auto* thirds = tool(tr("Thirds"), tr("Lines at the thirds of the picture"), true, bar);
  connect(thirds, &QToolButton::toggled, m_canvas, &BenchCanvas::setThirds);
  auto* safe = tool(tr("Safe areas"), tr("Action and graphics safe areas of EBU R 95 in the results"), true, bar);
  connect(safe, &QToolButton::toggled, m_results, &BenchResults::setSafeAreas);
  for (QToolButton* each : {loupe, thirds, safe}) row->addWidget(each);
  m_read = new QLabel(bar);
  row->addWidget(m_read);
  return bar;
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
  button(command(tr("Set a &key here"), QStringLiteral("plus"), QKeySequence(Qt::Key_K), [this] { m_bench.setKey(); }),
         tr("Key"));
  button(command(tr("&Remove the key here"), QStringLiteral("x"), QKeySequence(Qt::SHIFT | Qt::Key_K),
                 [this] {
                   if (const auto here = m_bench.keyAt(m_bench.time())) m_bench.removeKey(*here);
                 }),
         tr("No key"));
  button(command(tr("Keys at &both ends"), QStringLiteral("arrow-left-right"), QKeySequence(Qt::Key_E),
                 [this] { m_bench.startAndEnd(); }),
         tr("Both ends"));
  button(command(tr("The key &before"), QStringLiteral("step-back"), QKeySequence(Qt::Key_PageUp),
                 [this] { m_bench.goToKey(-1); }),
         tr("Before"));
  button(command(tr("The &next key"), QStringLiteral("step-forward"), QKeySequence(Qt::Key_PageDown),
                 [this] { m_bench.goToKey(1); }),
         tr("Next"));
  button(command(tr("Re&verse the move"), {}, {}, [this] { m_bench.reverse(); }), tr("Reverse"));
  button(command(tr("Clear the &move"), {}, {}, [this] { m_bench.clearMove(); }), tr("Clear"));
  command(tr("One frame back"), {}, QKeySequence(Qt::Key_Comma), [this] { m_bench.goTo(m_bench.frame() - 1); });
  command(tr("One frame on"), {}, QKeySequence(Qt::Key_Period), [this] { m_bench.goTo(m_bench.frame() + 1); });
  command(tr("The next shape"), {}, QKeySequence(Qt::Key_N), [this] {
    m_bench.setColumn((m_bench.column() + 1) % std::max(1, int(m_document.project().deliverables.size())));
  });
  command(tr("Place the subject or the window"), {}, QKeySequence(Qt::Key_S),
          [this] { m_bench.setPlacesSubject(!m_bench.placesSubject()); });
  m_ease = new QComboBox(bar);
  m_ease->setAccessibleName(tr("How it goes on from the key"));
  m_ease->setToolTip(m_ease->accessibleName());
  m_ease->addItems({tr("holds"), tr("at one speed"), tr("eases"), tr("smooth through")});
  connect(m_ease, &QComboBox::activated, this, [this](int ease) { m_bench.setEase(Ease(ease)); });
  row->addWidget(m_ease);
  return bar;
}

void BenchView::showCell(int row, int column) {
  m_bench.setShot(row);
  m_bench.setColumn(column);
}

void BenchView::showEvent(QShowEvent* event) {
  QWidget::showEvent(event);
  feed();
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
  if (m_fed != source.id || m_fedAs.bars != source.bars || m_fedAs.scan != source.scan) {
    m_feed.open(asTaken(source, *media), source.bars, kMostPicture);
    m_fed = source.id;
    m_fedAs = source;
  }
  m_pictured = false;
  m_feed.show(media->kind == MediaKind::Still ? 0 : m_bench.frame());
  refresh();
}

void BenchView::refresh() {
  m_showing = true;
  const Shot* shot = m_bench.shot();
  const bool usable = m_bench.media() && !m_document.project().deliverables.empty();
  for (QWidget* each : std::initializer_list<QWidget*>{m_x, m_y, m_zoom, m_placeWindow, m_placeSubject, m_follow})
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
    m_zoom->setValue(windowNow(cell, size_t(m_bench.window())).zoom);
    QString text = tr("%1 · window %2×%3 · detail %4")
                       .arg(QString::fromStdString(d.name))
                       .arg(rect.width(), 0, 'f', 1)
                       .arg(rect.height(), 0, 'f', 1)
                       .arg(QString::fromStdString(detailText(cell.detail)));
    if (cell.state == Cell::State::Soft) text += tr(" · enlarged");
    if (cell.uncoveredPercent > 0) text += tr(" · bars %1 %").arg(cell.uncoveredPercent, 0, 'f', 1);
    text += cell.framing.byHand() ? tr(" · by hand") : subject ? tr(" · follows the subject") : tr(" · centred");
    if (const double seconds = m_bench.secondsAWidth(); seconds > 0)
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
    const Move* move = m_bench.move();
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
}

void BenchView::typed(const QDoubleSpinBox* field, double) {
  if (m_showing) return;
  const QPointF at(m_x->value(), m_y->value());
  if (field == m_zoom)
    m_bench.zoomWindow(m_zoom->value(), false, 0);
  else if (m_bench.placesSubject())
    m_bench.placeSubject(at, 0);
  else
    m_bench.placeWindow(at, 0, 0);
}

} // namespace tromb
